import {
  type Checker,
  type CompilerSymbol,
  SymbolFlags,
  type Type,
  type TypeParameter,
} from "../../compiler/typescript.ts";
import type { UsedMembers } from "../../uses/members/used-members.ts";
import { localParametersOf, parametersOfAlias } from "../data-types.ts";
import type { OutsidePaths } from "../outside-paths.ts";
import type { TypeOrigin } from "../type-imports.ts";
import { asTypeName, camelCase, isIdentifierName } from "../writing/type-text.ts";
import type { CheckedFile, DeriveContext } from "./reading/derive-context.ts";
import type { Readers } from "./reading/read-call.ts";
import type { DerivedType } from "./shapes/derived-type.ts";
import type { Positions } from "./shapes/inferred-parameters.ts";
import { type Shape, someShape } from "./shapes/shape.ts";

export interface DerivedTypesOptions {
  readonly originOf: (path: string) => TypeOrigin;
  /** The name under which one of our files exports something. */
  readonly exportedAs: (path: string, symbol: CompilerSymbol) => string | undefined;
  readonly used: UsedMembers;
  readonly untyped: "unknown" | "any";
  /** Keys of the types that keep their type parameters, from an earlier round. */
  readonly generic: ReadonlySet<string>;
  /** Numbers of type arguments that callers write, by the keys of the types. */
  readonly writtenArguments: ReadonlyMap<string, readonly number[]>;
  /** Type parameters by which the compiler infers others, from an earlier round. */
  readonly inferred: Positions;
  /** Keys of the types that callers name. */
  readonly namedSymbols: ReadonlySet<string>;
  /** Keys of the types that the target has, from an earlier round. */
  readonly known: ReadonlySet<string>;
  /** Types that are aliases of the outside ones, by key, with the reasons. */
  readonly aliased: ReadonlyMap<string, string>;
  readonly paths: OutsidePaths;
  /** Configured names of types. */
  readonly names: Readonly<Record<string, string>>;
  /** Names that are not available. */
  readonly taken: ReadonlySet<string>;
  /** The files that may use the module. */
  readonly files: () => readonly CheckedFile[];
}

export interface Instance {
  readonly type: Type;
  readonly checker: Checker;
  readonly args: readonly Shape[];
}

export interface Entry {
  readonly key: string;
  readonly symbol: CompilerSymbol;
  readonly checker: Checker;
  readonly name: string;
  readonly instances: Map<string, Instance>;
  derived: DerivedType | undefined;
}

/** The named types of a target, and what their derivation needs. */
export interface TypeRegistry extends DeriveContext {
  readonly options: DerivedTypesOptions;
  readonly readersOf: (checker: Checker) => Readers;
  /** Returns the entry of a type; creates it. */
  readonly entry: (key: string, symbol: CompilerSymbol, checker: Checker) => Entry;
  /** Returns the entry of a type, if it is referred to. */
  readonly entryOf: (key: string) => Entry | undefined;
}

export function parametersOf(checker: Checker, symbol: CompilerSymbol): readonly TypeParameter[] {
  return (symbol.flags & SymbolFlags.TypeAlias) !== 0
    ? parametersOfAlias(checker, symbol.declarations[0]?.resolve())
    : localParametersOf(checker.getDeclaredTypeOfSymbol(symbol));
}

export function outsideNameOf(symbol: CompilerSymbol): string {
  if (isIdentifierName(symbol.name) && !symbol.name.startsWith("__") && symbol.name !== "default")
    return symbol.name;
  const path = symbol.declarations[0]?.path ?? "";
  const file = path.split("/").at(-1)?.split(".")[0] ?? "";
  return asTypeName(camelCase(file)) || "Value";
}

export function typeArgumentsOf(checker: Checker, symbol: CompilerSymbol, type: Type): readonly Type[] {
  if ((symbol.flags & SymbolFlags.TypeAlias) !== 0) return type.getAliasTypeArguments();
  if (!type.isTypeReference()) return [];
  const local = localParametersOf(checker.getDeclaredTypeOfSymbol(symbol));
  return checker.getTypeArguments(type).slice(0, local.length);
}

/** Returns the declaration of a class or interface of which a type is an instance. */
export function declaredOf(checker: Checker, type: Type): Type {
  const symbol = type.getSymbol();
  return type.isTypeReference() && symbol ? checker.getDeclaredTypeOfSymbol(symbol) : type;
}

/** Whether no type argument depends on a type parameter of a declaration. */
export function isConcrete({ args }: Instance): boolean {
  const isDeclared = (part: Shape) => part.kind === "parameter" && !part.isForeign;
  return !args.some((argument) => someShape(argument, isDeclared));
}
