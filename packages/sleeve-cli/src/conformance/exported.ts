import type { Program } from "../compiler/program.ts";
import { aliasTarget } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Node,
  SignatureKind,
  SymbolFlags,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";

/** An export of a file. */
export interface Exported {
  readonly symbol: CompilerSymbol;
  readonly checker: Checker;
  readonly declaration: Node | undefined;
  /** The file that declares it, which may differ from the one that exports it. */
  readonly path: string;
}

/** Finds an export by name. A default export is named `default`. */
export function exportedFrom(program: Program, file: string, name: string): Exported | undefined {
  const checker = program.checkerFor(file);
  const found = program.exportsOf(file).get(name);
  if (!found || !checker) return undefined;
  const symbol = aliasTarget(checker, found);
  const handle = symbol.valueDeclaration ?? symbol.declarations[0];
  const declaration = handle?.resolve();
  return { symbol, checker, declaration, path: declaration?.getSourceFile().fileName ?? file };
}

const IS_TYPE = SymbolFlags.Interface | SymbolFlags.TypeAlias | SymbolFlags.Class;

/**
 * Returns the type that a target names: an interface, a type, the instances of a class, or the type of a
 * value.
 */
export function targetTypeOf({ symbol, checker }: Exported): Type | undefined {
  return (symbol.flags & IS_TYPE) !== 0
    ? checker.getDeclaredTypeOfSymbol(symbol)
    : checker.getTypeOfSymbol(symbol);
}

/**
 * Returns the target with the wrapper's type arguments, from its `implements` clause or its own type. Returns
 * `undefined` for a generic target without arguments, which cannot be compared.
 */
export function instantiatedTarget(
  wanted: Exported,
  given: Exported,
  target: Type,
  wrapper: Type,
): Type | undefined {
  const { typeParameters = [] } = (wanted.declaration ?? {}) as { typeParameters?: readonly Node[] };
  if (typeParameters.length === 0) return target;
  const isOfTarget = (type: Type | undefined) =>
    [type?.getSymbol()?.id, type?.getAliasSymbol()?.id].includes(wanted.symbol.id);
  if (isOfTarget(wrapper)) return wrapper;
  const { heritageClauses = [] } = (given.declaration ?? {}) as {
    heritageClauses?: readonly { types: readonly Node[] }[];
  };
  const implemented = heritageClauses.flatMap(({ types }) =>
    types.map((node) => given.checker.getTypeAtLocation(node)),
  );
  return implemented.find(isOfTarget);
}

/** Whether a type says nothing about its values. */
export function isUntyped(type: Type): boolean {
  return (type.flags & (TypeFlags.Any | TypeFlags.Unknown | TypeFlags.Never)) !== 0;
}

/** Whether a type has nothing to compare a wrapper with. */
export function requiresNothing(checker: Checker, type: Type): boolean {
  if (isUntyped(type)) return true;
  const kinds = [SignatureKind.Call, SignatureKind.Construct];
  return (
    checker.getPropertiesOfType(type).length === 0 &&
    checker.getIndexInfosOfType(type).length === 0 &&
    kinds.every((kind) => checker.getSignaturesOfType(type, kind).length === 0)
  );
}

/**
 * Returns the type that clients of a wrapper hold: the instances of a class, the result of a factory, or the
 * value itself. A function that has all of the target's members is the value itself.
 */
export function wrapperTypeOf({ symbol, checker }: Exported, target: Type): Type | undefined {
  const type = checker.getTypeOfSymbol(symbol);
  const kinds = [SignatureKind.Call, SignatureKind.Construct];
  // A callable or constructible target is implemented by the value, not by its result.
  if (!type || kinds.some((kind) => checker.getSignaturesOfType(target, kind).length > 0)) return type;
  if ((symbol.flags & SymbolFlags.Class) !== 0) return checker.getDeclaredTypeOfSymbol(symbol);
  const wanted = checker.getPropertiesOfType(target);
  if (wanted.length > 0 && wanted.every(({ name }) => checker.getPropertyOfType(type, name))) return type;
  for (const kind of [SignatureKind.Construct, SignatureKind.Call]) {
    const [signature] = checker.getSignaturesOfType(type, kind);
    const made = signature && checker.getReturnTypeOfSignature(signature);
    if (made) return awaited(checker, made) ?? made;
  }
  return type;
}

/** Returns the type that a promise resolves to; `undefined` for other types. */
export function awaited(checker: Checker, type: Type): Type | undefined {
  const isPromise = type.isTypeReference() && /^Promise(Like)?$/.test(type.getSymbol()?.name ?? "");
  return isPromise ? checker.getTypeArguments(type)[0] : undefined;
}

/** The mapping of a wrapper created by `adapter(…)`, with the type of its adaptee. */
export interface AdapterMapping {
  readonly entries: ReadonlyMap<string, Node>;
  readonly adaptee: Type;
}

/** Finds the mapping of a constant created by the library's `adapter`. */
export function adapterMappingOf({ symbol, declaration, checker }: Exported): AdapterMapping | undefined {
  const { initializer: call } = (declaration ?? {}) as { initializer?: Node };
  if (call?.kind !== SyntaxKind.CallExpression) return undefined;
  const {
    expression,
    arguments: [mapping],
  } = call as Node & { expression: Node; arguments: readonly Node[] };
  if (mapping?.kind !== SyntaxKind.ObjectLiteralExpression || !isLibraryAdapter(expression, checker))
    return undefined;
  const { properties } = mapping as Node & {
    properties: readonly (Node & { name?: Node & { text?: string } })[];
  };
  const entries = new Map<string, Node>();
  for (const property of properties) {
    // Spread entries of a mapping are left to the compiler.
    if (property.kind === SyntaxKind.SpreadAssignment) return undefined;
    const name = property.name?.text ?? property.name?.getText();
    if (name !== undefined) entries.set(name, property);
  }
  const factory = checker.getTypeOfSymbol(symbol);
  const [signature] = factory ? checker.getSignaturesOfType(factory, SignatureKind.Call) : [];
  const adaptee = signature && checker.getParameterType(signature, 0);
  return adaptee && { entries, adaptee };
}

function isLibraryAdapter(callee: Node, checker: Checker): boolean {
  const symbol = checker.getSymbolAtLocation(callee);
  const target = symbol && aliasTarget(checker, symbol);
  return (
    target?.name === "adapter" &&
    target.declarations.some(({ path }) => /\/sleeve\/(dist|src)\/wrappers\//.test(path))
  );
}
