import type { TypeParameter } from "../../compiler/typescript.ts";
import type { FileSteps } from "../../emit/compile.ts";
import { CliError } from "../../errors.ts";
import { exportedAsIn, originIn } from "../../isolation/type-origin.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { OutsidePaths } from "../../types/outside-paths.ts";
import { Uncopiable } from "../../types/writing/type-names.ts";
import { TypeWriter } from "../../types/writing/type-writer.ts";
import { stringLiteral } from "../../written-text.ts";
import { takenNames } from "../library.ts";
import type { WrapPlace } from "../place.ts";
import { membersOf } from "./members.ts";
import { type ReferencedImport, ReferencedTypes } from "./referenced-types.ts";
import type { WrapMember } from "./signature-forms.ts";
import { type FoundTarget, findTarget, instanceType, type WrapTarget, withDefaults } from "./target.ts";

export interface ReadTarget {
  readonly target: WrapTarget;
  readonly members: readonly WrapMember[];
  readonly refused: Map<string, string>;
  readonly imports: readonly ReferencedImport[];
}

/** Reads a type and its members. */
export function* readTarget(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
): FileSteps<ReadTarget> {
  const generic = yield* findTarget(overlays.program, place.path, place);
  const declared =
    place.usesDefaults === true ? yield* withDefaults(overlays.program, place.path, place, generic) : generic;
  const target = readWithParameters(project, overlays, place, declared);
  if (!(target instanceof Uncopiable)) return target;
  // The type is meant with the defaults of its parameters, if these cannot be written.
  const bare = declared.parameterDefaults.every((hasDefault) => hasDefault)
    ? yield* withDefaults(overlays.program, place.path, place, declared)
    : declared;
  const withDefault = readWithParameters(project, overlays, place, bare);
  if (!(withDefault instanceof Uncopiable)) return withDefault;
  throw new CliError(
    "DOES_NOT_COMPILE",
    `The type parameters of ${place.given} cannot be written: ${withDefault.reason}. Export what they name, or wrap a type of your own that extends it.`,
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
  const target = yield* findTarget(overlays.program, place.path, place);
  const names = referencedTypes(project, overlays, place, target, taken);
  const type = typeOf(names, { ...target, parameterNames: [] }, place);
  const { name, parameterNames, parameterDefaults } = target;
  return { type, name, parameterNames, parameterDefaults, imports: names.imports() };
}

function referencedTypes(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
  { checker, symbol }: FoundTarget,
  taken: readonly string[],
): ReferencedTypes {
  const { path, className, source, specifier, exportName } = place;
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
    taken: new Set([className, "Reflect", "Promise", "Error", ...takenNames(place), ...taken]),
  });
}

/** Reads a type that was found; returns why its parameters cannot be written. */
function readWithParameters(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
  target: FoundTarget,
): ReadTarget | Uncopiable {
  const { checker, declared, typeParameters, reference } = target;
  const names = referencedTypes(project, overlays, place, target, []);
  const writer = new TypeWriter(checker, names);
  names.writeWith((type, direction) => writer.write(type, direction));
  return writer.inScope([declared, ...typeParameters], "alone", () => {
    const type = typeOf(names, target, place);
    let parameters: string;
    try {
      parameters = typeParametersText(writer, names, target);
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
      target: {
        ...target,
        type,
        bareType: typeOf(names, { ...target, parameterNames: [] }, place),
        parameters,
      },
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
