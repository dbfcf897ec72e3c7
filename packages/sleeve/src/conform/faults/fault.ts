/** A method as the client calls it. */
export type Method = (...args: unknown[]) => unknown;

/** A way in which wrappers go wrong. */
export interface Fault {
  readonly name: string;
  /** The member with the fault in it; `undefined` where the member is gone. It is made anew for each wrapper. */
  readonly change: (next: Method, self: object) => Method | undefined;
  /** Whether a member can have the fault, from what is known of its calls. Without it, all methods can. */
  readonly fits?: (known: KnownCalls) => boolean;
  /** What it is put into. Methods, unless given. */
  readonly into?: "reads" | "writes";
}

/** What is known of a member from some calls of it. */
export interface KnownCalls {
  /** The most arguments that it was called with. */
  readonly arity: number;
  /** Arguments and answers, as far as they were seen. */
  readonly args: readonly unknown[];
  readonly answers: readonly unknown[];
  readonly hasFailed: boolean;
  readonly isLater: boolean;
}

/** Stands among answers for the object itself. */
export const SELF_ANSWER = Symbol("the object itself");
