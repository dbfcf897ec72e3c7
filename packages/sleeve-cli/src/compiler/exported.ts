import { type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "typescript/unstable/sync";
import type { Program } from "./program.ts";

/** Something that a file exports. */
export interface Exported {
  readonly symbol: CompilerSymbol;
  readonly checker: Checker;
  readonly declaration: Node | undefined;
  /** The file that declares it, which need not be the one that exports it. */
  readonly path: string;
}

/** Finds an export by name; a default export is called `default`. */
export function exportedFrom(program: Program, file: string, name: string): Exported | undefined {
  const checker = program.checkerFor(file);
  const found = program.exportsOf(file).get(name);
  if (!found || !checker) return undefined;
  const symbol = (found.flags & SymbolFlags.Alias) !== 0 ? checker.getAliasedSymbol(found) : found;
  const handle = symbol.valueDeclaration ?? symbol.declarations[0];
  const declaration = handle?.resolve();
  return { symbol, checker, declaration, path: declaration?.getSourceFile().fileName ?? file };
}

const IS_TYPE = SymbolFlags.Interface | SymbolFlags.TypeAlias | SymbolFlags.Class;

/** The type that a target names: an interface, a type, the instances of a class, or the type of a value. */
export function targetTypeOf({ symbol, checker }: Exported): Type | undefined {
  return (symbol.flags & IS_TYPE) !== 0
    ? checker.getDeclaredTypeOfSymbol(symbol)
    : checker.getTypeOfSymbol(symbol);
}

/**
 * What clients of a wrapper hold: the instances of a class, what a factory makes, or the value itself. A function
 * that has all the target's members is the value itself.
 */
export function wrapperTypeOf({ symbol, checker }: Exported, target: Type): Type | undefined {
  if ((symbol.flags & SymbolFlags.Class) !== 0) return checker.getDeclaredTypeOfSymbol(symbol);
  const type = checker.getTypeOfSymbol(symbol);
  if (!type || checker.getSignaturesOfType(target, SignatureKind.Call).length > 0) return type;
  const wanted = checker.getPropertiesOfType(target);
  if (wanted.length > 0 && wanted.every(({ name }) => checker.getPropertyOfType(type, name))) return type;
  for (const kind of [SignatureKind.Construct, SignatureKind.Call]) {
    const [signature] = checker.getSignaturesOfType(type, kind);
    const made = signature && checker.getReturnTypeOfSignature(signature);
    if (made) return awaited(checker, made) ?? made;
  }
  return type;
}

/** What a promise resolves to; `undefined` for what is no promise. */
export function awaited(checker: Checker, type: Type): Type | undefined {
  const isPromise = type.isTypeReference() && /^Promise(Like)?$/.test(type.getSymbol()?.name ?? "");
  return isPromise ? checker.getTypeArguments(type)[0] : undefined;
}

/** The mapping of a wrapper made by `adapter(…)`, with the type of what it adapts. */
export interface AdapterMapping {
  readonly entries: ReadonlyMap<string, Node>;
  readonly adaptee: Type | undefined;
}

/** Finds the mapping where a wrapper is a constant made by the library's `adapter`. */
export function adapterMappingOf({ declaration, checker }: Exported): AdapterMapping | undefined {
  const { initializer: call } = (declaration ?? {}) as { initializer?: Node };
  if (call?.kind !== SyntaxKind.CallExpression) return undefined;
  const {
    expression,
    arguments: args,
    typeArguments,
  } = call as Node & {
    expression: Node;
    arguments: readonly Node[];
    typeArguments?: readonly Node[];
  };
  const [mapping] = args;
  if (mapping?.kind !== SyntaxKind.ObjectLiteralExpression || !isLibraryAdapter(expression, checker))
    return undefined;
  const entries = new Map<string, Node>();
  for (const property of (
    mapping as Node & { properties: readonly (Node & { name?: Node & { text?: string } })[] }
  ).properties) {
    const name = property.name?.text ?? property.name?.getText();
    if (name !== undefined) entries.set(name, property);
  }
  const node = typeArguments?.[1];
  return {
    entries,
    adaptee: node && checker.getTypeFromTypeNode(node as Parameters<Checker["getTypeFromTypeNode"]>[0]),
  };
}

function isLibraryAdapter(callee: Node, checker: Checker): boolean {
  const symbol = checker.getSymbolAtLocation(callee);
  const target =
    symbol && (symbol.flags & SymbolFlags.Alias) !== 0 ? checker.getAliasedSymbol(symbol) : symbol;
  return (
    target?.name === "adapter" &&
    target.declarations.some(({ path }) => /\/sleeve\/(dist|src)\/wrappers\//.test(path))
  );
}
