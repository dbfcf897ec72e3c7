/** A method as the client calls it. */
export type Method = (...args: unknown[]) => unknown;

/** A way in which wrappers go wrong. */
export interface Fault {
  readonly name: string;
  /** Returns the faulty member, or `undefined` if the fault removes it. Called for each wrapper. */
  readonly change: (next: Method, self: object) => Method | undefined;
  /** Whether the fault applies to a member, given known calls of it. Default: to all methods. */
  readonly fits?: (known: KnownCalls) => boolean;
  /** The kind of member that the fault applies to. Default: methods. */
  readonly into?: "reads" | "writes";
}

/** What is known about a member from sample calls. */
export interface KnownCalls {
  /** The largest number of arguments. */
  readonly arity: number;
  /** Arguments and results that were seen. */
  readonly args: readonly unknown[];
  readonly answers: readonly unknown[];
  readonly hasFailed: boolean;
  readonly isLater: boolean;
}

/** Represents the object itself in results. */
export const SELF_ANSWER = Symbol("the object itself");
