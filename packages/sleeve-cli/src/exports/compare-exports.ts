import { join } from "node:path";
import { BoundedCompiler, CompilerEnded } from "../compiler/bounded.ts";
import { Program } from "../compiler/program.ts";
import { aliasTarget } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Diagnostic,
  type Node,
  SymbolFlags,
} from "../compiler/typescript.ts";
import type { ComparedExports, ExportDifference, ExportsRecord } from "../documents/exports-document.ts";
import { compareText } from "../place.ts";
import { type Assignment, assignmentsOf, VERSION_NAMES } from "./assignments.ts";
import { ChangedExports } from "./changed-exports.ts";
import {
  COMPARISON_FOLDER,
  comparedPath,
  comparisonFiles,
  importPath,
  isComparisonExport,
  originalText,
  type Side,
} from "./comparison-files.ts";
import { exportedSymbols, exposedTypesIn } from "./exposed-types.ts";
import { changedParameterLists } from "./parameter-lists.ts";
import { sourcePlaceOf } from "./source-place.ts";

/** An export of both versions that the compiler compares. */
interface ChangedExport {
  readonly entry: string;
  /** `name`, or `namespace.name`. */
  readonly name: string;
  readonly before: string;
  readonly now: string;
  readonly assignments: readonly Assignment[];
}

/** What the compiler says about one export: an error for each assignment that fails. */
type Verdict = ReadonlyMap<Assignment, string> | "ended" | "not started";

/** Time to compare one export, in milliseconds. */
const TIMEOUT = 20_000;
/** Number of exports whose comparison may be ended before the others are left out. */
const MAX_ENDED = 3;

/** Settings that do not concern types, or that rule out the files of the comparison. */
const NEUTRAL = {
  noEmit: true,
  skipLibCheck: true,
  composite: false,
  incremental: false,
  declaration: false,
  declarationMap: false,
  emitDeclarationOnly: false,
  isolatedDeclarations: false,
  noUnusedLocals: false,
  noUnusedParameters: false,
  rootDir: null,
  outDir: null,
} as const;

/** Compares the exports of two versions of a project: declarations first, and with the compiler where they differ. */
export function compareExports(
  root: string,
  tsconfig: string,
  before: ExportsRecord,
  now: ExportsRecord,
): Omit<ComparedExports, "name"> {
  const files = new Map(
    [...comparisonFiles(before, now)].map(([path, text]) => [join(root, path), text] as const),
  );
  const open = (roots: readonly string[], added: ReadonlyMap<string, string>) =>
    Program.open({
      tsconfig: join(root, "tsconfig.exports.json"),
      generatedConfig: JSON.stringify({
        extends: tsconfig,
        compilerOptions: { ...NEUTRAL, strict: true },
        include: [],
        references: [],
        files: roots,
      }),
      files: new Map([...files, ...added]),
    });
  const entryFiles = (["before", "now"] as const).flatMap((side) =>
    Object.values((side === "before" ? before : now).entries).map((file) =>
      join(root, comparedPath(side, file)),
    ),
  );
  const found = (() => {
    using program = open(entryFiles, new Map());
    return findChanges(program, root, before, now);
  })();
  const verdicts = verdictsOn(
    found.changed,
    (missing) => {
      const statements = new Map(
        [...missing].map((changed) => [
          join(root, statementFile(found.changed.indexOf(changed))),
          statementsText(changed, before, now),
        ]),
      );
      return open([...entryFiles, ...statements.keys()], statements);
    },
    root,
  );
  const changes = found.changed.flatMap((changed) => differenceOf(changed, verdicts.get(changed)) ?? []);
  const differences = [...found.differences, ...changes].sort(
    (left, right) => compareText(left.entry, right.entry) || compareText(left.name, right.name),
  );
  return {
    before: before.version,
    now: now.version,
    exports: found.count,
    differences,
    exposed: found.exposed,
    isBreaking: differences.some(
      ({ consumers, implementers }) => consumers === "breaking" || implementers === "breaking",
    ),
  };
}

function findChanges(program: Program, root: string, before: ExportsRecord, now: ExportsRecord) {
  const folder = join(root, COMPARISON_FOLDER);
  const [anyEntry = ""] = Object.values(now.entries);
  const checker = program.checkerFor(join(root, comparedPath("now", anyEntry)));
  if (!checker) throw new Error("The entry points are files of the program.");
  const exportsOf = (side: Side, { entries }: ExportsRecord, entry: string) => {
    const file = entries[entry];
    return file === undefined
      ? new Map<string, CompilerSymbol>()
      : program.exportsOf(join(root, comparedPath(side, file)));
  };
  const differences: ExportDifference[] = [];
  const changed: ChangedExport[] = [];
  const exported = new Set(
    [before, now].flatMap((record) => {
      const files = Object.values(record.entries).map((file) =>
        join(root, comparedPath(record === before ? "before" : "now", file)),
      );
      return [...exportedSymbols(program, checker, files).keys()];
    }),
  );
  const changes = new ChangedExports(checker, folder, ({ id }) => exported.has(id));
  /** What several entry points export is compared once. */
  const compared = new Set<string>();
  let count = 0;
  const compareAll = (
    entry: string,
    prefix: string,
    was: ReadonlyMap<string, CompilerSymbol>,
    is: ReadonlyMap<string, CompilerSymbol>,
  ): void => {
    for (const part of [...new Set([...was.keys(), ...is.keys()])].sort(compareText)) {
      if (isComparisonExport(part)) continue;
      const name = `${prefix}${part}`;
      const [old, current] = [was.get(part), is.get(part)].map(
        (symbol) => symbol && aliasTarget(checker, symbol),
      );
      const key = `${old?.id} ${current?.id}`;
      if (!old || !current) {
        if (!compared.has(key)) differences.push(addedOrRemoved(entry, name, checker, old, current));
        compared.add(key);
        continue;
      }
      const pair = { old, found: current };
      if (compared.has(key) || !changes.hasChanged(pair)) continue;
      compared.add(key);
      if (isNamespace(old) && isNamespace(current))
        compareAll(entry, `${name}.`, membersOf(checker, old), membersOf(checker, current));
      else
        changed.push({
          entry,
          name,
          before: declarationText(checker, old),
          now: declarationText(checker, current),
          assignments: assignmentsOf(name, pair, changedParameterLists(pair, changes)),
        });
    }
  };
  const entries = [...new Set([...Object.keys(before.entries), ...Object.keys(now.entries)])].sort(
    compareText,
  );
  for (const entry of entries) {
    const is = exportsOf("now", now, entry);
    count += is.size;
    compareAll(entry, "", exportsOf("before", before, entry), is);
  }
  const exposedBy = (side: Side, { entries }: ExportsRecord) =>
    exposedTypesIn(
      program,
      checker,
      folder,
      Object.values(entries).map((file) => join(root, comparedPath(side, file))),
    );
  const exposedBefore = new Set(exposedBy("before", before).map(({ name, of }) => `${name} ${of}`));
  const exposed = exposedBy("now", now).map((type) => ({
    ...type,
    place: sourcePlaceOf(root, type),
    isNew: !exposedBefore.has(`${type.name} ${type.of}`),
  }));
  return { differences, changed, count, exposed };
}

/** Whether a symbol is a module and nothing else. */
function isNamespace({ flags }: CompilerSymbol): boolean {
  return (
    (flags & SymbolFlags.ValueModule) !== 0 &&
    (flags & ~(SymbolFlags.ValueModule | SymbolFlags.NamespaceModule | SymbolFlags.Transient)) === 0
  );
}

function membersOf(checker: Checker, namespace: CompilerSymbol): ReadonlyMap<string, CompilerSymbol> {
  return new Map(checker.getExportsOfModule(namespace).map((symbol) => [symbol.name, symbol]));
}

/** Compiles the statements of each export. If the compiler has to be ended, another continues after that export. */
function verdictsOn(
  changed: readonly ChangedExport[],
  open: (missing: ReadonlySet<ChangedExport>) => Program,
  root: string,
): ReadonlyMap<ChangedExport, Verdict> {
  const verdicts = new Map<ChangedExport, Verdict>();
  const missing = new Set(changed);
  using compiler = new BoundedCompiler(TIMEOUT);
  for (let ended = 0; missing.size > 0 && ended < MAX_ENDED; ) {
    using program = open(missing);
    for (const item of [...missing]) {
      missing.delete(item);
      try {
        const path = join(root, statementFile(changed.indexOf(item)));
        verdicts.set(
          item,
          compiler.run(program, () => failedAssignments(program, path, item)),
        );
      } catch (error) {
        if (!(error instanceof CompilerEnded)) throw error;
        verdicts.set(item, "ended");
        ended += 1;
        break;
      }
    }
  }
  for (const item of missing) verdicts.set(item, "not started");
  return verdicts;
}

function statementFile(index: number): string {
  return `${COMPARISON_FOLDER}/export-${index}.ts`;
}

function statementsText(
  { entry, assignments }: ChangedExport,
  before: ExportsRecord,
  now: ExportsRecord,
): string {
  const importOf = (side: Side, { entries }: ExportsRecord) =>
    `import type * as ${VERSION_NAMES[side]} from "./${side}/${importPath(entries[entry] ?? "")}";`;
  return `${[...assignments.map(({ code }) => code), importOf("before", before), importOf("now", now)].join("\n")}\n`;
}

function failedAssignments(
  program: Program,
  path: string,
  { assignments }: ChangedExport,
): ReadonlyMap<Assignment, string> {
  const text = program.textOf(path);
  const reasons = new Map<Assignment, string>();
  for (const error of program.errorsIn(path)) {
    const line = text.slice(0, error.pos).split("\n").length - 1;
    const assignment = assignments[line];
    if (assignment && !reasons.has(assignment)) reasons.set(assignment, specificReason(error));
  }
  return reasons;
}

/** Returns the most specific part of an error: `Types of property 'x' are incompatible: Type …`. */
function specificReason(error: Diagnostic): string {
  const texts: string[] = [];
  for (let link: Diagnostic | undefined = error; link; [link] = link.messageChain ?? [])
    texts.push(link.text);
  return texts
    .slice(texts.length > 2 ? -2 : -1)
    .map((text, index, sentences) => (index < sentences.length - 1 ? text.replace(/\.$/, "") : text))
    .join(": ");
}

/** Returns how an export differs; `undefined` if only declarations that it mentions do, compatibly. */
function differenceOf(
  { entry, name, before, now, assignments }: ChangedExport,
  verdict: Verdict | undefined,
): ExportDifference | undefined {
  if (verdict === undefined || typeof verdict === "string") {
    const reason =
      verdict === "ended"
        ? `The compiler was ended after ${TIMEOUT / 1000} seconds, or for its memory.`
        : `The compiler was ended at ${MAX_ENDED} other exports.`;
    return {
      entry,
      name,
      kind: "changed",
      consumers: "not compared",
      implementers: "not compared",
      before,
      now,
      reasons: [reason],
    };
  }
  if (verdict.size === 0 && withoutFormat(before) === withoutFormat(now)) return undefined;
  const effectOn = (concerned: Assignment["concerns"]) =>
    [...verdict.keys()].some(({ concerns }) => concerns === concerned) ? "breaking" : "compatible";
  return {
    entry,
    name,
    kind: "changed",
    consumers: effectOn("consumers"),
    implementers: effectOn("implementers"),
    before,
    now,
    reasons: [
      ...new Set(
        assignments.flatMap((assignment) => {
          const reason = verdict.get(assignment);
          return reason === undefined ? [] : [assignment.reason ?? withoutComparisonPaths(reason)];
        }),
      ),
    ],
  };
}

function withoutFormat(declaration: string): string {
  return declaration.replaceAll("'", '"').replace(/\s+|[;,](?=\s*[}\])>])|;$|(?<=[=:(<]\s*)\|/g, "");
}

function addedOrRemoved(
  entry: string,
  name: string,
  checker: Checker,
  old: CompilerSymbol | undefined,
  current: CompilerSymbol | undefined,
): ExportDifference {
  const effect = old ? "breaking" : "compatible";
  return {
    entry,
    name,
    kind: old ? "removed" : "added",
    consumers: effect,
    implementers: effect,
    before: old ? declarationText(checker, old) : null,
    now: current ? declarationText(checker, current) : null,
    reasons: [],
  };
}

/** Maximum length of a declaration, in characters. */
const LONGEST = 240;

/** Returns the declarations of a symbol in one line. */
function declarationText(checker: Checker, symbol: CompilerSymbol): string {
  const texts = symbol.declarations.flatMap((declaration) => {
    const node: Node | undefined = declaration.resolve();
    const source = node?.getSourceFile();
    return node && source ? [source.text.slice(node.getStart(source), node.end)] : [];
  });
  const whole = originalText(texts.join(" "))
    .replace(/\/\*[\s\S]*?\*\/|\/\/[^\n]*/g, "")
    .replace(/\s+/g, " ")
    .replace(/^(?:export )?(?:declare )?/, "")
    .trim();
  const text =
    whole === "" ? checker.typeToString(checker.getTypeOfSymbol(symbol) ?? checker.getUnknownType()) : whole;
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text;
}

/** Returns the reason in the compiler's words, on one line. */
function withoutComparisonPaths(reason: string): string {
  return reason
    .replace(/import\("[^"]*\/\.sleeve\/exports\/(before|now)\/[^"]*"\)\./g, "")
    .replace(/\b(?:Before|Now)\./g, "")
    .split("\n")
    .map((line) => line.trim())
    .join(" ");
}
