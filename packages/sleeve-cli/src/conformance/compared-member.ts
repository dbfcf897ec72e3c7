import type { Mismatch } from "./strict-assignability.ts";

/** A member of a target and its counterpart in a wrapper, as the compiler sees them. */
export interface MemberComparison {
  readonly target: MemberView;
  readonly found: MemberView;
  /**
   * For each signature of the target, the closest signature of the wrapper. Empty for properties, and for a
   * member with the target's own type, such as one that an adapter aliases.
   */
  readonly signatures: readonly SignatureComparison[];
  /** Mismatch of the value that is read. Properties only. */
  readonly reading: Mismatch | undefined;
  /** Mismatch of the values that clients may write. Properties only. */
  readonly writing: Mismatch | undefined;
}

export type MemberKind = "method" | "class" | "property";

export interface MemberView {
  readonly kind: MemberKind;
  readonly isOptional: boolean;
  readonly isReadonly: boolean;
  /** Whether it is `private` or `protected`. */
  readonly isHidden: boolean;
  /**
   * Path to an `any` in its type, `""` for the type itself. For methods, only if the type itself is `any`.
   */
  readonly any: string | undefined;
  readonly text: string;
}

export interface SignatureComparison {
  readonly expected: string;
  readonly found: string;
  readonly fits: boolean;
  /** Whether only one has type parameters, so that a mismatch can only be reported for the whole. */
  readonly isWholeOnly: boolean;
  readonly parameters: readonly ParameterComparison[];
  /** Number of required arguments, and the maximum that the target sends. */
  readonly needs: number;
  readonly sent: number;
  /** Names of arguments that the target sends and the signature does not accept. */
  readonly dropped: readonly string[];
  readonly result: ResultComparison;
  /** An earlier signature that takes its calls and promises something else. */
  readonly hiddenBy: string | undefined;
}

export interface IndexComparison {
  /** The type of its keys: `string`. */
  readonly key: string;
  readonly expected: string;
  readonly found: string;
  readonly any: string | undefined;
  readonly mismatch: Mismatch | undefined;
}

export interface ParameterComparison {
  readonly name: string;
  readonly mismatch: Mismatch | undefined;
  readonly any: string | undefined;
  readonly expected: string;
  readonly found: string;
}

export interface ResultComparison {
  readonly mismatch: Mismatch | undefined;
  readonly any: string | undefined;
  readonly isVoidExpected: boolean;
  readonly isPromiseExpected: boolean;
  readonly isPromiseFound: boolean;
  readonly expected: string;
  readonly found: string;
}
