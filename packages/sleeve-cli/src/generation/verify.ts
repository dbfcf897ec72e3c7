import type { TypeParameter } from "../compiler/typescript.ts";
import { CliError } from "../errors.ts";
import { exportedAsIn, originIn } from "../isolation/type-origin.ts";
import type { CompileError } from "../isolation/verification/compile-errors.ts";
import type { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import { compareText, Lines } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import { OutsidePaths } from "../types/outside-paths.ts";
import { Uncopiable } from "../types/type-names.ts";
import { mentionsName } from "../types/type-text.ts";
import { TypeWriter } from "../types/type-writer.ts";
import { stringLiteral } from "../written-text.ts";
import type { LayerName } from "./layers.ts";
import { membersOf, type WrapMember } from "./members.ts";
import type { WrapPlace } from "./place.ts";
import { planLayers, requireLayers } from "./plan-layers.ts";
import { type ReferencedImport, ReferencedTypes } from "./referenced-types.ts";
import { bridgeLines } from "./render/bridge.ts";
import type { ChosenMember, MemberLine } from "./render/class.ts";
import { contractLines } from "./render/contract.ts";
import { type DecoratorSource, decoratorLines, namesOfLayers } from "./render/decorator.ts";
import { fakeLines } from "./render/fake.ts";
import { forwarderLines } from "./render/forwarder.ts";
import { surfaceLines } from "./render/surface.ts";
import type { FileSteps } from "./steps.ts";
import { type FoundTarget, findTarget, instanceType, type WrapTarget, withDefaults } from "./target.ts";

/** A generated wrapper that compiles. */
export interface VerifiedWrapper {
  readonly text: string;
  /** Number of members that it has. */
  readonly members: number;
  readonly readAsFunctions: ReadonlyMap<string, string>;
  readonly refused: ReadonlyMap<string, string>;
  /** Number of members that do not compile until they are completed. */
  readonly open: number;
  readonly target: WrapTarget;
  /** The members in the forms that compile. */
  readonly chosen: readonly ChosenMember[];
  readonly imports: readonly ReferencedImport[];
  /** Whether the class implements the target by a clause. */
  readonly hasClause: boolean;
  /** The layers that some member has. */
  readonly layers: readonly LayerName[];
}

/**
 * Generates a wrapper and compiles it in the project. A member that does not compile as a method is read as a function; one that
 * does not compile in that way either is left out.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`, and the errors of finding the type
 */
export function* verifyWrapper(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
): FileSteps<VerifiedWrapper> {
  const { target, members: all, refused, imports: allImports } = yield* read(project, overlays, place);
  let imports = allImports;
  requireLayers(place.layers, place.given, all);
  /** The form of each member that does not have its first, and the error of the one before. */
  const lowered = new Map<string, { readonly form: number; readonly why: string }>();
  // The keys of a class are the public ones.
  const isClass = place.kind !== "surface" && place.kind !== "contract";
  let isImplementable = (target.isImplementable || !isClass) && refused.size === 0;
  for (;;) {
    const members = all.flatMap((member): ChosenMember[] => {
      const form = member.forms[lowered.get(member.name)?.form ?? 0];
      return form && !refused.has(member.name) ? [{ ...member, form }] : [];
    });
    if (members.length === 0) throw nothingLeft(place, refused);
    const {
      lines: body,
      imports: library,
      layers,
    } = sourceOf({ ...target, isImplementable }, place, members);
    // A surface names its target only, and not always.
    const mentioned =
      place.kind === "surface"
        ? surfaceNames(body, members)
        : place.kind === "contract"
          ? [target.type, ...members.map(({ key }) => key)].join("\n")
          : typesIn(target, members);
    const lines = [...importLines(imports, mentioned, place, library), ...body];
    const text = lines.map((line) => line.text).join("\n");
    const errors = (yield text)();
    if (errors.length === 0)
      return {
        text,
        members: members.length,
        readAsFunctions: isClass ? functionsAmong(members, lowered) : new Map(),
        refused,
        open: 0,
        target,
        chosen: members,
        imports,
        hasClause: isImplementable,
        layers,
      };
    const unused = unusedImports(errors, text);
    if (unused.size > 0) {
      imports = imports.filter(({ local }) => !unused.has(local));
      continue;
    }
    const blamed = blamedBy(errors, text, lines);
    if (blamed.size === 0 && !isImplementable) throw doesNotCompile(place, errors);
    if (place.kind === "contract" && errors.some(({ text }) => text.includes("'sleeve/conform'")))
      throw noLibrary(place);
    if (library.length > 0 && errors.some(({ text }) => text.includes("'sleeve/generated'")))
      throw noLibrary(place);
    // Without the clause, the members that only follow from others are right.
    if (blamed.size === 0) isImplementable = false;
    const hasClause = isImplementable;
    for (const [name, error] of blamed) {
      const next = (lowered.get(name)?.form ?? 0) + 1;
      const why = `the compiler reports: ${error.text}`;
      if (next < (all.find((member) => member.name === name)?.forms.length ?? 0))
        lowered.set(name, { form: next, why });
      else {
        // A member that is not the target's is left out only if it does not compile without the clause either.
        if (error.code !== NOT_AS_IN_BASE || !hasClause) refused.set(name, why);
        isImplementable = false;
      }
    }
  }
}

/** Returns the methods that are read as functions, with the reasons. */
function functionsAmong(
  members: readonly ChosenMember[],
  lowered: ReadonlyMap<string, { readonly why: string }>,
): ReadonlyMap<string, string> {
  const functions = members.filter(({ form }) => form.kind === "property" && form.isFunction);
  return new Map(
    functions.map(({ name }) => [
      name,
      lowered.get(name)?.why ?? "it is optional, or uses types that are not exported",
    ]),
  );
}

/** Writes each kind of wrapper. */
function sourceOf(target: WrapTarget, place: WrapPlace, members: readonly ChosenMember[]): DecoratorSource {
  const { kind, className, layers } = place;
  switch (kind) {
    case "decorator":
    case "proxy":
      return decoratorLines(target, className, members, planLayers(layers, members, kind === "proxy"));
    case "contract":
      return {
        lines: contractLines(target, className, members, place.implementations ?? []),
        imports: [],
        layers: [],
      };
    case "adapter":
    case "facade":
      // Before what it stands over is known, it forwards.
      return { lines: forwarderLines(target, className, members), imports: [], layers: [] };
    default:
      return { lines: LINES[kind](target, className, members), imports: [], layers: [] };
  }
}

const LINES = { forwarder: forwarderLines, bridge: bridgeLines, fake: fakeLines, surface: surfaceLines };

export interface ReadTarget {
  readonly target: WrapTarget;
  readonly members: readonly WrapMember[];
  readonly refused: Map<string, string>;
  readonly imports: readonly ReferencedImport[];
}

/** Reads a type and its members. */
function* read(project: OpenProject, overlays: OverlayProgram, place: WrapPlace): FileSteps<ReadTarget> {
  const generic = yield* findTarget(overlays.program, place.path, place);
  const found =
    place.usesDefaults === true ? yield* withDefaults(overlays.program, place.path, place, generic) : generic;
  const target = readTarget(project, overlays, place, found);
  if (!(target instanceof Uncopiable)) return target;
  // The type is meant with the defaults of its parameters, if these cannot be written.
  const bare = found.parameterDefaults.every((hasDefault) => hasDefault)
    ? yield* withDefaults(overlays.program, place.path, place, found)
    : found;
  const again = readTarget(project, overlays, place, bare);
  if (!(again instanceof Uncopiable)) return again;
  throw new CliError(
    "DOES_NOT_COMPILE",
    `The type parameters of ${place.given} cannot be written: ${again.reason}. Export what they name, or wrap a type of your own that extends it.`,
  );
}

/** How a type is named in the generated file. */
export interface NamedType {
  /** The type without arguments. */
  readonly type: string;
  readonly name: string;
  readonly parameterNames: readonly string[];
  readonly parameterDefaults: readonly boolean[];
  readonly imports: readonly ReferencedImport[];
}

/**
 * Finds a type that a generated file names besides its target.
 *
 * @param taken names that imports cannot have
 */
export function* nameOfType(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
  taken: readonly string[],
): FileSteps<NamedType> {
  const found = yield* findTarget(overlays.program, place.path, place);
  const names = referencedTypes(project, overlays, place, found, taken);
  const type = typeOf(names, { ...found, parameterNames: [] }, place);
  const { name, parameterNames, parameterDefaults } = found;
  return { type, name, parameterNames, parameterDefaults, imports: names.imports() };
}

function referencedTypes(
  project: OpenProject,
  overlays: OverlayProgram,
  { path, className, source, specifier, exportName }: WrapPlace,
  { checker, symbol }: FoundTarget,
  taken: readonly string[],
): ReferencedTypes {
  const { program } = overlays;
  const exportedAs = exportedAsIn(overlays);
  const sites = source?.sites.filter((site) => !/^\.\.?\//.test(site.specifier)) ?? [];
  const text = program.textOf(path);
  const modules = source
    ? sites.map((site) => ({ specifier: site.specifier, path: source.path, offset: site.offset }))
    : [{ specifier, path, offset: text.indexOf(stringLiteral(specifier)) }];
  return new ReferencedTypes({
    checker,
    originOf: originIn(project, source ? "" : specifier),
    // A script may export what it declares by an assignment, which the compiler treats as a declaration of its own.
    exportedAs: (file, exported) =>
      exportedAs(file, exported) ??
      (exported.id === symbol.id && file === source?.path && exportName !== "default"
        ? exportName
        : undefined),
    paths: new OutsidePaths(program, modules),
    pathOfTarget: ({ id }) => (id === symbol.id && !source ? { specifier, names: [exportName] } : undefined),
    taken: new Set([className, "Reflect", "Promise", "Error", ...namesOfLayers(className), ...taken]),
  });
}

/** Reads a type that was found; returns why its parameters cannot be written. */
function readTarget(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
  found: FoundTarget,
): ReadTarget | Uncopiable {
  const { checker, declared, typeParameters, reference } = found;
  const names = referencedTypes(project, overlays, place, found, []);
  const writer = new TypeWriter(checker, names);
  names.writeWith((type, direction) => writer.write(type, direction));
  return writer.inScope([declared, ...typeParameters], "alone", () => {
    const type = typeOf(names, found, place);
    let parameters: string;
    try {
      parameters = typeParametersText(writer, names, found);
    } catch (error) {
      if (!(error instanceof Uncopiable)) throw error;
      return error;
    }
    const { members, refused } = membersOf(
      { checker, writer, names, writesFunctions: place.kind === "adapter" || place.kind === "facade" },
      declared,
      type,
      reference,
    );
    return {
      target: { ...found, type, parameters },
      members,
      refused: new Map(refused.map(({ name, reason }) => [name, reason])),
      imports: names.imports(),
    };
  });
}

/** Returns the source of a target's type. @throws {CliError} `NO_SUCH_EXPORT` */
function typeOf(
  names: ReferencedTypes,
  { reference, symbol, parameterNames }: FoundTarget,
  { given, specifier, exportName }: WrapPlace,
): string {
  if (reference === "function")
    return `Pick<typeof import(${stringLiteral(specifier)}), ${stringLiteral(exportName)}>`;
  if (reference === "instance") return instanceType({ specifier, exportName });
  if (reference === "module") return `typeof import(${stringLiteral(specifier)})`;
  const name = names.bareName(symbol);
  if (name === undefined)
    throw new CliError("NO_SUCH_EXPORT", `${given} is not exported by the file that declares it. Export it.`);
  if (reference === "value") return `typeof ${name}`;
  return parameterNames.length > 0 ? `${name}<${parameterNames.join(", ")}>` : name;
}

/** Returns the type parameters of the class: as the compiler resolves them or, if impossible, as they are declared. */
function typeParametersText(
  writer: TypeWriter,
  names: ReferencedTypes,
  { typeParameters, parameterNodes }: FoundTarget,
): string {
  try {
    return writer.typeParameters(typeParameters as readonly TypeParameter[], "out");
  } catch (error) {
    if (!(error instanceof Uncopiable)) throw error;
    return `<${parameterNodes.map((node) => names.words(node)).join(", ")}>`;
  }
}

/** Returns what a surface mentions: its type, and keys that are constants. */
function surfaceNames(body: readonly MemberLine[], members: readonly ChosenMember[]): string {
  const satisfied = body.find(({ text }) => text.includes(" satisfies "))?.text ?? "";
  return [satisfied, ...members.map(({ key }) => key)].join("\n");
}

/** Returns the source of all types of a class. */
function typesIn({ type, parameters }: WrapTarget, members: readonly ChosenMember[]): string {
  const types = members.flatMap(({ key, form }) => [
    key,
    ...(form.kind === "method" ? form.signatures.map(({ text }) => text) : [form.type, form.written ?? ""]),
  ]);
  return [type, parameters, ...types].join("\n");
}

/** Errors of the compiler about what is declared and not used. */
export const UNUSED: ReadonlySet<number> = new Set([6133, 6138, 6192, 6196, 6198]);

/** Returns the imported names that a text only seems to mention, in the text of a type. */
export function unusedImports(errors: readonly CompileError[], text: string): ReadonlySet<string> {
  const places = new Lines(text);
  const lines = text.split("\n");
  const names = errors.flatMap(({ code, offset, text: message }) => {
    const line = lines[places.at(offset).line - 1] ?? "";
    if (!UNUSED.has(code) || !/^import (?!.*"sleeve\/)/.test(line)) return [];
    const [, name] = /^'([^']+)'/.exec(message) ?? [];
    // The compiler names none if all are unused.
    return name === undefined ? [...line.matchAll(/[\w$]+(?=[,\s]*[,}])/g)].map(([local]) => local) : [name];
  });
  return new Set(names);
}

/** Writes the names that are imported from one module: `type { Tide }`, or `{ mark, type Tide }` if code uses one. */
function importedNames(imports: readonly ReferencedImport[]): string {
  const hasValues = imports.some(({ isValue }) => isValue);
  const names = imports
    .map(({ name, local, isValue }) => ({ text: name === local ? name : `${name} as ${local}`, isValue }))
    .sort((left, right) => compareText(left.text, right.text))
    .map(({ text, isValue }) => (hasValues && !isValue ? `type ${text}` : text));
  return `${hasValues ? "" : "type "}{ ${names.join(", ")} }`;
}

/** Writes the imports of the types that source mentions. */
export function importLines(
  imports: readonly ReferencedImport[],
  source: string,
  { specifierTo, kind }: WrapPlace,
  library: readonly string[],
): readonly MemberLine[] {
  // The key of a member in `Crane["lift"]` is no name of a type.
  const words = source.replace(/"(?:[^"\\]|\\.)*"/g, '""');
  const used = imports.filter(({ local }) => mentionsName(words, local));
  const modules = new Map<string, ReferencedImport[]>();
  for (const found of used) {
    const specifier = "path" in found.from ? specifierTo(found.from.path) : found.from.specifier;
    modules.set(specifier, [...(modules.get(specifier) ?? []), found]);
  }
  const lines = [...modules]
    .sort(([left], [right]) => compareText(left, right))
    .map(([specifier, found]) => ({
      text: `import ${importedNames(found)} from ${stringLiteral(specifier)};`,
    }));
  const isTypeOnly = library.every((name) => name.startsWith("type "));
  const own = [
    ...(kind === "contract" ? [{ text: 'import { contract } from "sleeve/conform";' }] : []),
    ...(isTypeOnly ? [] : [{ text: `import { ${library.join(", ")} } from "sleeve/generated";` }]),
  ];
  return lines.length + own.length > 0 ? [...lines, ...own, { text: "" }] : [];
}

/**
 * Returns the members with errors. Whether the class has the target's type depends on all of them, so those that return it, or
 * that are compared with it, count only if there are no others.
 */
function blamedBy(
  errors: readonly CompileError[],
  text: string,
  lines: readonly MemberLine[],
): ReadonlyMap<string, CompileError> {
  const isOfWhole = ({ code, text }: CompileError) =>
    code === NOT_AS_IN_BASE || /^Type 'this' is not/.test(text);
  const first = errors.filter((error) => !isOfWhole(error));
  const places = new Lines(text);
  const blamed = new Map<string, CompileError>();
  const isAccessor = (line: string) => /^ {2}[gs]et /.test(line);
  for (const error of first.length > 0 ? first : errors) {
    const line = lines[places.at(error.offset).line - 1];
    const { member } = line ?? {};
    if (member === undefined || blamed.has(member)) continue;
    if (first.length > 0 || isAccessor(line?.text ?? "")) blamed.set(member, error);
  }
  return blamed;
}

/** The compiler's error for a member that is not assignable to the one of the target. */
const NOT_AS_IN_BASE = 2416;

function noLibrary({ kind }: WrapPlace): CliError {
  return new CliError(
    "DOES_NOT_COMPILE",
    `${kind === "contract" ? "A contract uses" : "The layers use"} the library, and "sleeve" is not installed. Run npm install sleeve${kind === "contract" ? "" : ", or add --standalone"}.`,
  );
}

function nothingLeft({ given }: WrapPlace, refused: ReadonlyMap<string, string>): CliError {
  const [[name, why] = ["", ""]] = refused;
  return new CliError(
    "NOTHING_TO_WRAP",
    `${given} has no members to forward that a class can have: ${name} is left out, because ${why.replace(/\.$/, "")}.`,
  );
}

function doesNotCompile({ given }: WrapPlace, [error]: readonly CompileError[]): CliError {
  return new CliError(
    "DOES_NOT_COMPILE",
    `No wrapper of ${given} compiles: ${error?.text ?? "the compiler gives no reason"} Nothing was written.`,
  );
}
