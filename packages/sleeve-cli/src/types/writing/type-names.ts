import type { CompilerSymbol, NodeHandle, Signature, Type } from "../../compiler/typescript.ts";
import type { SignatureParts } from "./signature-parts.ts";

/** The direction of a type's values: `out` to the caller, or `in` from the caller. */
export type Direction = "out" | "in";

/** The reason why a type cannot be copied. */
export class Uncopiable extends Error {
  override readonly name = "Uncopiable";
  readonly reason: string;

  constructor(reason: string) {
    super(reason);
    this.reason = reason;
  }
}

/** Returns the source of an outside type whose members are written, for members that are aliased. */
export type Owner = () => string;

/** Decides the names of named types. */
export interface TypeNames {
  /** Writes something. If it cannot be copied, the names created for it are dropped. @throws {Uncopiable} */
  attempt<Result>(write: () => Result): Result;
  /** Returns the source for a named type with its arguments; `undefined` to expand it. */
  nameOf(symbol: CompilerSymbol, type: Type, direction: Direction): string | undefined;
  /** Returns the name of a class's value, for `typeof`; `undefined` to expand its type. */
  nameOfValue(symbol: CompilerSymbol): string | undefined;
  /** Returns the source for a named type as an alias of the outside type. @throws {Uncopiable} */
  aliasOf(symbol: CompilerSymbol, type: Type, direction: Direction): string;
  /** Whether a member of an outside object keeps its outside type. */
  isAliased(member: CompilerSymbol): boolean;
  /** Notes that a type constrains a type parameter. */
  constrain(constraint: Type): void;
  /** Notes that a type reads a member of another by its name. */
  need(owner: Type, index: Type): void;
  /** Whether a signature accepts objects with methods that the outside module declares. */
  takesInstances(signature: Signature): boolean;
  /** Whether a symbol is used only to reach its members. */
  isOnlyReceiver(symbol: CompilerSymbol): boolean;
  /** Whether the project uses a member by its name. */
  isUsed(member: CompilerSymbol): boolean;
  /** Whether a member of a type is written. */
  isWanted(member: CompilerSymbol, owner: Type, direction: Direction): boolean;
  /** Returns the signatures of a member to write. */
  wanted(member: CompilerSymbol, signatures: readonly Signature[]): readonly Signature[];
  /** Returns a member's signatures as called, if they cannot be written with type parameters. */
  called(member: CompilerSymbol): readonly Signature[];
  /** Returns a signature as declared, without its name. @throws {Uncopiable} */
  declared(signature: Signature): SignatureParts;
  /** Returns the maximum number of arguments in calls of a member, if known. */
  mostArguments(member: CompilerSymbol): number | undefined;
}

/** One member of an interface, as source. */
export interface WrittenMember {
  readonly name: string;
  /** Identifies it among the choices of a draft; none for a signature. */
  readonly key?: string | undefined;
  readonly text: string;
  readonly doc: string | undefined;
  /** Whether the project uses it by its name; others identify their type, or are fields of literals. */
  readonly isUsed: boolean;
  /** For a call signature: whether it accepts instances that the module itself creates. */
  readonly takesInstances?: boolean | undefined;
}

/** Returns the key of a member among the choices of a draft. */
export function memberKey({ declarations }: CompilerSymbol): string | undefined {
  const [declaration] = declarations;
  return declaration && declarationKey(declaration);
}

/** Returns the key of a member by its first declaration. */
export function declarationKey({ path, index }: Pick<NodeHandle, "path" | "index">): string {
  return `member ${path} ${index}`;
}

/** Writes types within signatures and members. */
export interface WritesTypes {
  write(type: Type, direction: Direction): string;
  withoutUndefined(type: Type, direction: Direction): string;
  inline(type: Type, direction: Direction, owner?: Owner): string;
  isInline(type: Type): boolean;
  inScope<Result>(parameters: readonly Type[], stands: "within" | "alone", write: () => Result): Result;
}
