import type {
  Checker,
  CompilerSymbol,
  Node,
  NodeHandle,
  SourceFile,
  Type,
} from "../../../compiler/typescript.ts";
import type { UsedMembers } from "../../../uses/members/used-members.ts";
import type { TypeImports, TypeOrigin } from "../../type-imports.ts";
import type { Shape, SignatureShape } from "../shapes/shape.ts";

/** Why a type cannot follow from its use. */
export class Underivable extends Error {
  override readonly name = "Underivable";
}

/** A file of the project, parsed, with the checker that knows it. */
export interface CheckedFile {
  readonly source: SourceFile;
  readonly checker: Checker;
}

/** One call or construction of an outside member, in our own code. */
export interface CallSite {
  readonly call: Node;
  readonly checker: Checker;
}

/** The objects whose members are derived: values of a named type and its bases, or an export. */
export interface Owner {
  /** Keys of the type and its bases, or the nodes that refer to the export. */
  readonly keys: ReadonlySet<string>;
  /** Keys of the type itself. */
  readonly own?: ReadonlySet<string> | undefined;
  readonly nodes?: ReadonlySet<Node> | undefined;
}

/** What the parts of a derivation share. */
export interface DeriveContext {
  readonly originOf: (path: string) => TypeOrigin;
  readonly imports: TypeImports;
  readonly used: UsedMembers;
  /** What a value of type `any` is in the target. */
  readonly untyped: "unknown" | "any";
  /** Returns the signatures of a member from its calls; `undefined` if it is not called. */
  readonly signaturesOf: (
    symbol: CompilerSymbol,
    owner: Owner | undefined,
  ) => readonly SignatureShape[] | undefined;
  /** Whether our code uses a member of an object. */
  readonly isUsedOn: (symbol: CompilerSymbol, owner: Owner | undefined) => boolean;
  /** Returns a type as the owner of members; `undefined` if it has no name. */
  readonly ownerOf: (checker: Checker, type: Type) => Owner | undefined;
  /** Returns a reference to a type without a name that contains itself, and so gets one. */
  readonly recursive: (type: Type) => Shape;
  /** Returns the shape of a type without a name, or a reference to it if it contains itself. */
  readonly defined: (type: Type, shape: Shape) => Shape;
  /** Reads something. If that returns `undefined` or throws, the instances it has referred to do not count. */
  readonly attempt: <Result>(read: () => Result | undefined) => Result | undefined;
  /** Returns the type of a member of an outside type by its name there; `undefined` if the type has none. */
  readonly aliasOfMember: (checker: Checker, owner: Type, member: CompilerSymbol) => Shape | undefined;
  /** Returns the signatures with which our code calls values of a named type. */
  readonly callsOf: (symbol: CompilerSymbol, kind: "call" | "new") => readonly SignatureShape[];
  /** Whether our code names a type. */
  readonly isNamed: (symbol: CompilerSymbol) => boolean;
  /** Whether our code iterates over values of a named type. */
  readonly isIterated: (symbol: CompilerSymbol) => boolean;
  /** Returns the values that our code assigns to a member, where they are not of its type. */
  readonly assignedTo: (symbol: CompilerSymbol) => readonly Shape[];
  /** Returns a reference to the type of the target that replaces an outside one. */
  readonly reference: (checker: Checker, symbol: CompilerSymbol, type: Type) => Shape;
}

/** Returns the key of a declaration. */
export function declarationKeyOf(symbol: CompilerSymbol | undefined): string | undefined {
  const declaration: NodeHandle | undefined = symbol?.declarations[0];
  return declaration && `${declaration.path} ${declaration.index}`;
}

/** Reads types, for the readers of their members and signatures. */
export interface ReadsTypes {
  /** Returns the shape of a type. @throws {Underivable} */
  read(type: Type): Shape;
  /** Reads with type parameters in scope and, within a generic type of the target, with a type for `this`. */
  within<Result>(parameters: readonly Type[], self: Shape | undefined, read: () => Result): Result;
  /** Reads the constraint of a type parameter. */
  asConstraint(read: () => Shape): Shape;
}

/** Reads something; `undefined` if it cannot follow from use. */
export function ifDerivable<Result>(
  context: Pick<DeriveContext, "attempt">,
  read: () => Result | undefined,
): Result | undefined {
  try {
    return context.attempt(read);
  } catch (error) {
    if (error instanceof Underivable) return undefined;
    throw error;
  }
}
