import type { Program } from "../../compiler/program.ts";
import { isPublic } from "../../compiler/symbols.ts";
import { aliasTarget } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Node,
  SignatureKind,
  SymbolFlags,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { type Exported, exportedFrom, isUntyped, targetTypeOf } from "../../conformance/exported.ts";
import type { FileSteps } from "../../emit/compile.ts";
import { CliError } from "../../errors.ts";
import { nearestName } from "../../nearest-name.ts";
import { isIdentifierName } from "../../types/writing/type-text.ts";
import { stringLiteral } from "../../written-text.ts";

/** A type to wrap, as generated code names it. */
export interface WrapTarget {
  readonly checker: Checker;
  readonly declared: Type;
  readonly symbol: CompilerSymbol;
  /** Its name in the generated file. */
  readonly name: string;
  /** The type with its own parameters: `Store<Key, Value>`. */
  readonly type: string;
  /** The type without arguments: `Store`. */
  readonly bareType: string;
  /** `<Key extends string, Value = Key>`, or empty. */
  readonly parameters: string;
  readonly typeParameters: readonly Type[];
  readonly parameterNodes: readonly Node[];
  readonly parameterNames: readonly string[];
  /** Whether each parameter has a default. */
  readonly parameterDefaults: readonly boolean[];
  /** A class with private or protected members can only be extended, and a value is no interface. */
  readonly isImplementable: boolean;
  readonly reference: TargetReference;
}

/**
 * What a target is: a type, a value, of which the type is meant, a whole module, one function of a module, or the
 * instances of a class that is only a value.
 */
export type TargetReference = "type" | "value" | "module" | "function" | "instance";

/** How a class is named that can only be used as a value. */
export function instanceType({
  specifier,
  exportName,
}: Pick<TargetSource, "specifier" | "exportName">): string {
  return `InstanceType<(typeof import(${stringLiteral(specifier)}))[${stringLiteral(exportName)}]>`;
}

/** Where a target is exported. */
export interface TargetSource {
  /** As the user names it: `src/tides.ts#TideTable`, `pg#Client`. */
  readonly given: string;
  readonly specifier: string;
  readonly exportName: string;
}

/** The target, without what its writer adds. */
export type FoundTarget = Omit<WrapTarget, "type" | "bareType" | "parameters">;

/**
 * Finds a target through a file that imports it, so that files of the project and packages are found in the same way.
 *
 * @throws {CliError} `NO_SUCH_EXPORT`, `NOTHING_TO_WRAP`
 */
export function* findTarget(
  program: Program,
  path: string,
  { given, specifier, exportName }: TargetSource,
): FileSteps<FoundTarget> {
  const source = { given, specifier, exportName };
  yield probeText(specifier, exportName);
  const declared = exportedFrom(program, path, "Target");
  const declaredAs = declared && referenceOf(declared);
  const instance = declaredAs === "instance" ? yield* instanceOf(program, path, source) : undefined;
  if (instance) return targetOf(instance.exported, instance.type, source, "type");
  const reference = declaredAs ?? "type";
  const exported = yield* namedByValue(program, path, source, reference);
  const type =
    exported && !exported.checker.isUnknownSymbol(exported.symbol) ? targetTypeOf(exported) : undefined;
  if (!exported || !type || type.isErrorType()) throw yield* noSuchExport(program, path, source);
  if (!hasMembers(exported, type))
    throw new CliError(
      "NOTHING_TO_WRAP",
      `${given} is ${describe(exported, type)}, which has no members to forward. Name an interface, a class or the type of an object.`,
    );
  return targetOf(exported, type, source, reference);
}

/** A class that a script exports by an assignment is a value to the compiler, but can be used as a type. */
function* instanceOf(
  program: Program,
  path: string,
  { specifier, exportName }: TargetSource,
): FileSteps<{ readonly exported: Exported; readonly type: Type } | undefined> {
  yield instanceText(specifier, exportName);
  const exported = exportedFrom(program, path, "Target");
  const type = exported && targetTypeOf(exported);
  const symbol = type?.getSymbol();
  if (!exported || !type || !symbol || type.isErrorType() || isUntyped(type)) return undefined;
  return { exported: { ...exported, symbol }, type };
}

/** A class is named by the type of its instances, and a function is wrapped as an object that has it as its only member. */
function* namedByValue(
  program: Program,
  path: string,
  { specifier, exportName }: TargetSource,
  reference: TargetReference,
): FileSteps<Exported | undefined> {
  if (reference === "instance")
    yield `export declare const Target: ${instanceType({ specifier, exportName })};\n`;
  if (reference === "function") {
    const module = `typeof import(${stringLiteral(specifier)})`;
    yield `export declare const Target: Pick<${module}, ${stringLiteral(exportName)}>;\n`;
  }
  return exportedFrom(program, path, "Target");
}

function hasMembers(exported: Exported, type: Type): boolean {
  const isObject = (type.flags & (TypeFlags.Object | TypeFlags.Intersection)) !== 0;
  return isObject && !isUntyped(type) && !isList(exported, type);
}

/** @throws {CliError} `NOTHING_TO_WRAP` */
function targetOf(
  exported: Exported,
  type: Type,
  { given, specifier, exportName }: TargetSource,
  reference: TargetReference,
): FoundTarget {
  const { checker, symbol } = exported;
  const parameterNodes = typeParametersOf(exported);
  const properties = checker.getPropertiesOfType(type);
  if (properties.length === 0)
    throw new CliError(
      "NOTHING_TO_WRAP",
      `${given} ${reference === "value" ? `is ${describe(exported, type)}` : "has no members"}, so there is nothing to forward. Name a type or a value that has members.`,
    );
  return {
    checker,
    declared: type,
    symbol,
    name: nameOf({ specifier, exportName }, reference, symbol),
    typeParameters: parameterNodes.flatMap((node) => checker.getTypeAtLocation(node) ?? []),
    parameterNodes,
    parameterNames: parameterNodes.map((node) => (node as Node & { name: Node }).name.getText()),
    parameterDefaults: parameterNodes.map(
      (node) => (node as Node & { defaultType?: Node }).defaultType !== undefined,
    ),
    isImplementable: reference === "type" && properties.every(isPublic),
    reference,
  };
}

function nameOf(
  { specifier, exportName }: Pick<TargetSource, "specifier" | "exportName">,
  reference: TargetReference,
  { name }: CompilerSymbol,
): string {
  if (exportName === "*") return specifier;
  return exportName === "default" && reference === "type" ? name : exportName;
}

/** Returns a target of which all parameters have their defaults. */
export function* withDefaults(
  program: Program,
  path: string,
  source: TargetSource,
  target: FoundTarget,
): FileSteps<FoundTarget> {
  const { specifier, exportName } = source;
  yield instanceText(specifier, exportName);
  const exported = exportedFrom(program, path, "Target");
  const type = exported && targetTypeOf(exported);
  const symbol = type?.getAliasSymbol() ?? type?.getSymbol();
  if (!exported || !type || !symbol) return yield* findTarget(program, path, source);
  const none = { typeParameters: [], parameterNodes: [], parameterNames: [], parameterDefaults: [] };
  return { ...target, ...none, checker: exported.checker, declared: type, symbol };
}

/** The text of a file that declares a value of a type. */
function instanceText(specifier: string, exportName: string): string {
  return `import type { ${exportName} as Named } from ${stringLiteral(specifier)};\nexport declare const Target: Named;\n`;
}

function isConstructed({ checker, symbol }: Exported): boolean {
  const type = checker.getTypeOfSymbol(symbol);
  return type !== undefined && checker.getSignaturesOfType(type, SignatureKind.Construct).length > 0;
}

/** Whether a value is a function without members. */
function isOnlyCalled({ checker, symbol }: Exported): boolean {
  const type = checker.getTypeOfSymbol(symbol);
  return (
    type !== undefined &&
    checker.getSignaturesOfType(type, SignatureKind.Call).length > 0 &&
    checker.getPropertiesOfType(type).every(({ flags }) => (flags & SymbolFlags.Prototype) !== 0)
  );
}

/** Returns the names under which a module exports types, each type once and by its name, through a file that imports it. */
export function* typesExportedBy(
  program: Program,
  path: string,
  specifier: string,
): FileSteps<readonly string[]> {
  const moduleExports = yield* exportsOf(program, path, specifier);
  const types = moduleExports.filter(({ name, isType }) => isType && isIdentifierName(name));
  const named = new Set(types.flatMap(({ name, id }) => (name === "default" ? [] : id)));
  return types.flatMap(({ name, id }) => (name === "default" && named.has(id) ? [] : name));
}

interface ModuleExport {
  readonly name: string;
  readonly id: number;
  readonly isType: boolean;
}

function* exportsOf(program: Program, path: string, specifier: string): FileSteps<readonly ModuleExport[]> {
  const text = `import * as all from ${stringLiteral(specifier)};\nexport { all };\n`;
  yield text;
  const checker = program.checkerFor(path);
  const module = checker?.getSymbolAtPosition(path, text.indexOf(stringLiteral(specifier)) + 1);
  if (!checker || !module) return [];
  return checker.getExportsOfModule(module).map((symbol) => {
    const target = aliasTarget(checker, symbol);
    return {
      name: symbol.name === "export=" ? "default" : symbol.name,
      id: target.id,
      isType: isNamed(target),
    };
  });
}

/** The text of a file that imports and exports a target. */
function probeText(specifier: string, exportName: string): string {
  if (exportName === "*") return `import * as Target from ${stringLiteral(specifier)};\nexport { Target };\n`;
  return `export { ${exportName} as Target } from ${stringLiteral(specifier)};\n`;
}

function referenceOf(exported: Exported): TargetReference {
  const { flags } = exported.symbol;
  if ((flags & NAMED) !== 0) return "type";
  if ((flags & SymbolFlags.ValueModule) !== 0) return "module";
  if (isConstructed(exported)) return "instance";
  return isOnlyCalled(exported) ? "function" : "value";
}

const NAMED = SymbolFlags.Interface | SymbolFlags.TypeAlias | SymbolFlags.Class;

function isNamed({ flags }: CompilerSymbol): boolean {
  return (flags & NAMED) !== 0;
}

/** Returns the parameters of the type, which may share its name with a value. */
function typeParametersOf({ symbol }: Exported): readonly Node[] {
  const declaration = symbol.declarations
    .map((handle) => handle.resolve())
    .find((node) => node !== undefined && TYPE_DECLARATIONS.has(node.kind));
  const { typeParameters = [] } = (declaration ?? {}) as { typeParameters?: readonly Node[] };
  return typeParameters;
}

const TYPE_DECLARATIONS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.InterfaceDeclaration,
  SyntaxKind.ClassDeclaration,
  SyntaxKind.TypeAliasDeclaration,
]);

function isList({ checker }: Exported, type: Type): boolean {
  return checker.isArrayType(type) || checker.isTupleType(type);
}

function describe(exported: Exported, type: Type): string {
  const { symbol, checker } = exported;
  if (isList(exported, type)) return "a list";
  if ((type.flags & TypeFlags.Any) !== 0) return "`any`";
  if (checker.getSignaturesOfType(type, SignatureKind.Call).length > 0) return "a function";
  if (!isNamed(symbol)) return "a value without members";
  return type.isUnionType() ? "a union" : "no object type";
}

function* noSuchExport(
  program: Program,
  path: string,
  { given, specifier, exportName }: TargetSource,
): FileSteps<CliError> {
  const names = (yield* exportsOf(program, path, specifier)).map(({ name }) => name);
  if (names.length === 0)
    return new CliError(
      "NO_SUCH_EXPORT",
      `${given}: ${specifier} cannot be resolved, or exports nothing. Install it, or correct the name before #.`,
    );
  const meant = nearestName(exportName, names);
  const shown = names.slice(0, 8).join(", ");
  return new CliError(
    "NO_SUCH_EXPORT",
    `${given}: ${specifier} has no export ${exportName}.${meant ? ` Did you mean ${meant}?` : ` It exports ${shown}${names.length > 8 ? `, and ${names.length - 8} more` : ""}.`}`,
  );
}
