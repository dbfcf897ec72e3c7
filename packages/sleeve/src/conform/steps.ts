import fc, { type Arbitrary } from "fast-check";
import type { Operation } from "./operations.ts";

/** One use of a target in a generated sequence. */
export interface Step {
  readonly operation: Operation;
  readonly args: readonly unknown[];
  /** Whether the next step waits for this one to settle. */
  readonly isAwaited: boolean;
}

/** Stands for the result of an earlier step: the latest but `back` of those that are of a kind with `otherwise`. */
export class Earlier {
  readonly back: number;
  /** What is passed where there is no such result. */
  readonly otherwise: unknown;

  constructor(back: number, otherwise: unknown) {
    this.back = back;
    this.otherwise = otherwise;
  }
}

export interface SequenceTerms {
  /** The most steps in one sequence. */
  readonly length: number;
  /** Whether some of the sequences may make calls while others are under way. */
  readonly isConcurrent: boolean;
}

/** Sequences of steps; they shrink to fewer steps, simpler arguments, and one call at a time. */
export function sequencesOf(
  operations: readonly Operation[],
  { length, isConcurrent }: SequenceTerms,
): Arbitrary<readonly Step[]> {
  const steps = fc.array(fc.oneof(...operations.map(stepOf)), {
    minLength: 1,
    maxLength: length,
    size: "max",
  });
  if (!isConcurrent) return steps.map((sequence) => sequence.map(awaited));
  return fc
    .tuple(fc.boolean(), steps)
    .map(([overlaps, sequence]) => (overlaps ? sequence : sequence.map(awaited)));
}

export function awaited(step: Step): Step {
  return step.isAwaited ? step : { ...step, isAwaited: true };
}

function stepOf(operation: Operation): Arbitrary<Step> {
  if (operation.use === "read") return fc.constant({ operation, args: [], isAwaited: true });
  // One number tells the rest of a step, as each that is generated takes its time, and 0 tells the simplest.
  return fc.tuple(operation.args, fc.nat(DETAILS - 1)).map(([args, detail]) => ({
    operation,
    args: detail >= FROM_EARLIER && args.length > 0 ? swapped(args, detail) : args,
    isAwaited: detail % 3 < 2,
  }));
}

const DETAILS = 60;
/** From here on an argument is the result of an earlier step. */
const FROM_EARLIER = 48;

function swapped(args: readonly unknown[], detail: number): readonly unknown[] {
  const place = (detail >> 2) % args.length;
  return args.map((each, index) => (index === place ? new Earlier(detail % 4, each) : each));
}
