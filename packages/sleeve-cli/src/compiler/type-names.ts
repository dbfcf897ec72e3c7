import type { Symbol as CompilerSymbol, Signature, Type } from "typescript/unstable/sync";

/** Whether what a type says comes out to the caller, or goes in from there. */
export type Direction = "out" | "in";

/** Why a type cannot be said in words of ours. */
export class Uncopiable extends Error {
  override readonly name = "Uncopiable";
  readonly reason: string;

  constructor(reason: string) {
    super(reason);
    this.reason = reason;
  }
}

/** What types that have a name are called. */
export interface TypeNames {
  /** Writes something; if that cannot be copied, no name that was given for it is kept. @throws {Uncopiable} */
  attempt<Result>(write: () => Result): Result;
  /** What is written for a named type with its arguments; `undefined` where it is to be written out. */
  nameOf(symbol: CompilerSymbol, type: Type, direction: Direction): string | undefined;
  /** Whether a member of a type is to be written. */
  isWanted(member: CompilerSymbol, owner: Type, direction: Direction): boolean;
  /** Those of a member's signatures that are to be written. */
  wanted(member: CompilerSymbol, signatures: readonly Signature[]): readonly Signature[];
  /** A member's signatures as its calls have them, for those that cannot be written with their type parameters. */
  called(member: CompilerSymbol): readonly Signature[];
  /** A signature in the words of its declaration, after its name. @throws {Uncopiable} */
  declared(signature: Signature): string;
  /** How many arguments a member is called with at most, where that is known. */
  mostArguments(member: CompilerSymbol): number | undefined;
}

/** One member of an interface, as it is written. */
export interface WrittenMember {
  readonly name: string;
  readonly text: string;
  readonly doc: string | undefined;
}
