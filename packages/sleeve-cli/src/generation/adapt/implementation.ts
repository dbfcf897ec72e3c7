import type { Refused } from "./conversions.ts";

/** Code of a member of the target that uses a member of the adaptee, with what it costs. */
export interface Implementation {
  /** How far arguments and results are apart, from 0. */
  readonly cost: number;
  /** What is done besides the call. */
  readonly notes: readonly string[];
  /** Statements of the method, or of the getter. */
  readonly body: readonly string[];
  readonly isAsync: boolean;
  /** Number of optional parameters of the target's member that are not used. */
  readonly unusedOptions?: number;
  /** Whether the body is that of a generator. */
  readonly isGenerator?: boolean;
  /** Whether the adapter itself is returned after the statements. */
  readonly returnsSelf?: boolean;
  /** For a member with several signatures: the code of each that is covered, in order. */
  readonly overloads?: readonly CoveredSignature[];
  /** Statements of the setter, for a property that is written. */
  readonly setter?: readonly string[];
}

/** A way to implement a member of the target by one of the adaptee. */
export interface Candidate extends Implementation {
  /** The member of the adaptee. */
  readonly uses: string;
  /** How much alike the names are, from 0 to 1. */
  readonly name: number;
}

/** One of several signatures of a member, with its code. */
export interface CoveredSignature {
  /** Which of the signatures it is, from 0. */
  readonly index: number;
  /** Whether given arguments are of this signature, as an expression over `args`. */
  readonly test: string;
  readonly code: Omit<Implementation, "overloads" | "setter">;
}

/** A candidate that has no code, with the reason. */
export interface RejectedCandidate {
  readonly uses: string;
  readonly name: number;
  readonly why: string;
}

/** What a conversion or a list of arguments adds to an implementation. */
export type Cost = Pick<Implementation, "cost" | "notes">;

/** What the arguments of a call cost. */
export interface ArgumentCost extends Cost {
  /** Arguments that cannot be converted. */
  readonly refused?: readonly Refused[];
  readonly unusedOptions?: number;
  /** Statements that throw if an argument is given that is not used. */
  readonly checks?: readonly string[];
}

/** Puts the code of several signatures together. */
export function overloadedImplementation(
  covered: readonly CoveredSignature[],
  count: number,
): Implementation {
  const uncovered = count - covered.length;
  return {
    cost: Math.min(...covered.map(({ code }) => code.cost)) + (uncovered > 0 ? 0.04 : 0),
    unusedOptions: Math.min(...covered.map(({ code }) => code.unusedOptions ?? 0)),
    notes: [
      ...new Set(covered.flatMap(({ code }) => code.notes)),
      ...(uncovered > 0 ? [`covers ${covered.length} of ${count} signatures; the others throw`] : []),
    ],
    body: [],
    isAsync: false,
    overloads: covered,
  };
}
