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

/** A target as a wrapper is compared with it. */
export interface InstantiatedTarget {
  readonly type: Type;
  /** Type parameters of the wrapper that count as equal to those of the target. */
  readonly paired: readonly (readonly [wrapper: Type, target: Type])[];
}

/**
 * Returns the target with the wrapper's type arguments, from its `implements` clause or its own type. A wrapper with as
 * many type parameters of its own is compared for all type arguments. Returns `undefined` for any other wrapper of a
 * generic target.
 */
export function instantiatedTarget(
  targetExport: Exported,
  wrapperExport: Exported,
  target: Type,
  wrapper: Type,
): InstantiatedTarget | undefined {
  const namedTarget = knownTarget(targetExport, wrapperExport, target, wrapper);
  if (namedTarget) return { type: namedTarget, paired: [] };
  const [theirs, ours] = [typeParametersOf(targetExport), typeParametersOf(wrapperExport)];
  const paired = theirs.flatMap((their, at) => {
    const our = ours[at];
    return our ? [[our, their] as const] : [];
  });
  return ours.length === theirs.length && paired.length === theirs.length
    ? { type: target, paired }
    : undefined;
}

function typeParametersOf({ checker, declaration }: Exported): readonly Type[] {
  const typed = (declaration ?? {}) as {
    typeParameters?: readonly Node[];
    initializer?: { typeParameters?: readonly Node[] };
  };
  const { typeParameters = typed.initializer?.typeParameters ?? [] } = typed;
  return typeParameters.flatMap((node) => checker.getTypeAtLocation(node) ?? []);
}

function knownTarget(
  targetExport: Exported,
  wrapperExport: Exported,
  target: Type,
  wrapper: Type,
): Type | undefined {
  const { typeParameters = [] } = (targetExport.declaration ?? {}) as { typeParameters?: readonly Node[] };
  if (typeParameters.length === 0) return target;
  const isOfTarget = (type: Type | undefined) =>
    [type?.getSymbol()?.id, type?.getAliasSymbol()?.id].includes(targetExport.symbol.id);
  if (isOfTarget(wrapper)) return wrapper;
  const { heritageClauses = [] } = (wrapperExport.declaration ?? {}) as {
    heritageClauses?: readonly { types: readonly Node[] }[];
  };
  const implemented = heritageClauses.flatMap(({ types }) =>
    types.map((node) => wrapperExport.checker.getTypeAtLocation(node)),
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

/** Returns the type that clients of a wrapper hold: the instances of a class, or as `clientTypeOf`. */
export function wrapperTypeOf({ symbol, checker }: Exported, target: Type): Type | undefined {
  const type = checker.getTypeOfSymbol(symbol);
  const isConstructed = checker.getSignaturesOfType(target, SignatureKind.Construct).length > 0;
  if ((symbol.flags & SymbolFlags.Class) !== 0 && !isConstructed)
    return checker.getDeclaredTypeOfSymbol(symbol);
  let clientType = type;
  // A factory may return a factory.
  for (let last: Type | undefined; clientType && clientType.id !== last?.id; ) {
    last = clientType;
    if (clientType.id !== target.id) clientType = clientTypeOf(checker, clientType, target);
  }
  return clientType;
}

/**
 * Returns the type that clients of a value hold: what it constructs or returns, or the value itself. A function that
 * has all of the target's members is the value itself.
 */
export function clientTypeOf(checker: Checker, type: Type, target: Type): Type {
  const kinds = [SignatureKind.Construct, SignatureKind.Call];
  const isCallable = kinds.some((kind) => checker.getSignaturesOfType(target, kind).length > 0);
  // A callable or constructible target is implemented by the value, unless only its result is one.
  if (isCallable && (checker.isTypeAssignableTo(type, target) || !returnsCallable(checker, type)))
    return type;
  const targetProperties = checker.getPropertiesOfType(target);
  const hasAll = targetProperties.every(({ name }) => checker.getPropertyOfType(type, name));
  if (!isCallable && targetProperties.length > 0 && hasAll) return type;
  for (const kind of kinds) {
    const [signature] = checker.getSignaturesOfType(type, kind);
    const resultType = signature && checker.getReturnTypeOfSignature(signature);
    if (resultType) return awaited(checker, resultType) ?? resultType;
  }
  return type;
}

/** Whether a type is a function whose result can be called or constructed. */
function returnsCallable(checker: Checker, type: Type): boolean {
  const [signature] = checker.getSignaturesOfType(type, SignatureKind.Call);
  const result = signature && checker.getReturnTypeOfSignature(signature);
  const awaitedType = result && (awaited(checker, result) ?? result);
  return (
    awaitedType !== undefined &&
    [SignatureKind.Call, SignatureKind.Construct].some(
      (kind) => checker.getSignaturesOfType(awaitedType, kind).length > 0,
    )
  );
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

/** Returns the mapping that a call of the library's `adapter` has. */
export function mappingOf(checker: Checker, call: Node): AdapterMapping | undefined {
  const {
    arguments: [mapping],
  } = call as Node & { arguments: readonly Node[] };
  if (mapping?.kind !== SyntaxKind.ObjectLiteralExpression) return undefined;
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
  const factory = checker.getTypeAtLocation(call);
  const [signature] = factory ? checker.getSignaturesOfType(factory, SignatureKind.Call) : [];
  const adaptee = signature && checker.getParameterType(signature, 0);
  return adaptee && { entries, adaptee };
}
