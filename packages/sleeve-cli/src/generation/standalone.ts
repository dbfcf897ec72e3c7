import ownFunctions from "../../../sleeve/src/generated/own-functions.ts?raw";
import undoSteps from "../../../sleeve/src/generated/undo-steps.ts?raw";
import accessCheck from "../../../sleeve/src/layers/core/access-check.ts?raw";
import callLimits from "../../../sleeve/src/layers/core/call-limits.ts?raw";
import callLog from "../../../sleeve/src/layers/core/call-log.ts?raw";
import callTimer from "../../../sleeve/src/layers/core/call-timer.ts?raw";
import objectContents from "../../../sleeve/src/layers/core/object-contents.ts?raw";
import redact from "../../../sleeve/src/layers/core/redact.ts?raw";
import resultCache from "../../../sleeve/src/layers/core/result-cache.ts?raw";
import retries from "../../../sleeve/src/layers/core/retries.ts?raw";
import secrets from "../../../sleeve/src/layers/core/secrets.ts?raw";
import semaphore from "../../../sleeve/src/layers/core/semaphore.ts?raw";
import valueChecks from "../../../sleeve/src/layers/core/value-checks.ts?raw";
import watch from "../../../sleeve/src/layers/core/watch.ts?raw";
import argumentsKey from "../../../sleeve/src/shared/arguments-key.ts?raw";
import cancellation from "../../../sleeve/src/shared/cancellation.ts?raw";
import clock from "../../../sleeve/src/shared/clock.ts?raw";
import context from "../../../sleeve/src/shared/context.ts?raw";
import errors from "../../../sleeve/src/shared/errors.ts?raw";
import host from "../../../sleeve/src/shared/host.ts?raw";
import intrinsics from "../../../sleeve/src/shared/intrinsics.ts?raw";
import options from "../../../sleeve/src/shared/options.ts?raw";
import outcome from "../../../sleeve/src/shared/outcome.ts?raw";
import patterns from "../../../sleeve/src/shared/patterns.ts?raw";
import reportOnce from "../../../sleeve/src/shared/report-once.ts?raw";
import thenable from "../../../sleeve/src/shared/thenable.ts?raw";
import use from "../../../sleeve/src/shared/use.ts?raw";
import type { CodeDeclaration } from "../emit/module.ts";
import { patternNames, referencesIn } from "../emit/references.ts";
import { nodeAt, nodesAt, type SyntaxNode } from "../emit/syntax-node.ts";
import { parse } from "../parser/parse.ts";

/** The sources of the library that files that stand alone are made of. No two declare the same name. */
const SOURCES: readonly string[] = [
  ownFunctions,
  undoSteps,
  accessCheck,
  callLimits,
  callLog,
  callTimer,
  objectContents,
  redact,
  resultCache,
  retries,
  secrets,
  semaphore,
  valueChecks,
  watch,
  argumentsKey,
  cancellation,
  clock,
  context,
  errors,
  host,
  intrinsics,
  options,
  outcome,
  patterns,
  reportOnce,
  thenable,
  use,
];

interface LibraryDeclaration {
  readonly code: string;
  readonly names: readonly string[];
  /** The names that it refers to. */
  readonly references: readonly string[];
}

let byName: ReadonlyMap<string, LibraryDeclaration> | undefined;

/** All declarations of the sources, by the names that they declare. */
function libraryDeclarations(): ReadonlyMap<string, LibraryDeclaration> {
  byName ??= mergedDeclarations(SOURCES);
  return byName;
}

function mergedDeclarations(sources: readonly string[]): ReadonlyMap<string, LibraryDeclaration> {
  const merged = new Map<string, LibraryDeclaration>();
  for (const source of sources) {
    const ofSource = declarationsIn(source).flatMap((declaration) =>
      declaration.names.map((name) => [name, declaration] as const),
    );
    for (const [name] of ofSource)
      if (merged.has(name)) throw new Error(`Two sources of the library declare ${name}. Rename one.`);
    for (const [name, declaration] of ofSource) merged.set(name, declaration);
  }
  return merged;
}

/** Names that a file that stands alone cannot use for something else. */
export function standaloneNames(): readonly string[] {
  return [...libraryDeclarations().keys()];
}

/** Returns the declarations of some names of the library, each after those that it needs itself. */
export function declarationsOf(names: Iterable<string>): readonly CodeDeclaration[] {
  const added = new Set<LibraryDeclaration>();
  const ordered: LibraryDeclaration[] = [];
  const add = (name: string): void => {
    const declaration = libraryDeclarations().get(name);
    if (!declaration || added.has(declaration)) return;
    added.add(declaration);
    declaration.references.forEach(add);
    ordered.push(declaration);
  };
  for (const name of names) add(name);
  return ordered.map(({ code }) => ({ kind: "code", code }));
}

/** Returns the declarations of a source, with their comments and without `export`. The overloads of a function are one. */
function declarationsIn(source: string): readonly LibraryDeclaration[] {
  const { program, comments } = parse("library.ts", source, { lang: "ts" });
  const startOf = (start: number) => {
    const doc = comments.findLast(({ end }) => end <= start && source.slice(end, start).trim() === "");
    return doc?.value.startsWith("*") ? doc.start : start;
  };
  const statements = nodesAt(program as unknown as SyntaxNode, "body").filter(
    ({ type }) => type !== "ImportDeclaration",
  );
  const byNames = new Map<string, string>();
  for (const statement of statements) {
    const declaration = nodeAt(statement, "declaration") ?? statement;
    const key = namesOf(declaration).join(" ");
    const comment = source.slice(startOf(statement.start), statement.start);
    const code = `${comment}${source.slice(declaration.start, declaration.end)}`;
    byNames.set(key, byNames.has(key) ? `${byNames.get(key)}\n${code}` : code);
  }
  return [...byNames].map(([names, code]) => ({
    code,
    names: names.split(" "),
    references: [...referencesIn(code).keys()],
  }));
}

function namesOf(declaration: SyntaxNode): readonly string[] {
  const owners =
    declaration.type === "VariableDeclaration" ? nodesAt(declaration, "declarations") : [declaration];
  return owners.flatMap((owner) => patternNames(nodeAt(owner, "id")));
}
