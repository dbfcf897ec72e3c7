import fc, { type Arbitrary } from "fast-check";
import type { Operation } from "./operations.ts";
import { isObject } from "./schema.ts";

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

/** An argument as it was generated, where it stands for a result. */
export function asGenerated(argument: unknown): unknown {
  return argument instanceof Earlier ? argument.otherwise : argument;
}

export interface SequenceTerms {
  /** The most steps in one sequence. */
  readonly length: number;
  /** Whether some of the sequences may make calls while others are under way. */
  readonly isConcurrent: boolean;
}

/**
 * Sequences of steps; they shrink to fewer steps, simpler arguments, and one call at a time. Half of them keep to a few of
 * the operations, as some things only go wrong where one thing is done many times.
 */
export function sequencesOf(
  operations: readonly Operation[],
  { length, isConcurrent }: SequenceTerms,
): Arbitrary<readonly Step[]> {
  const listOf = (some: readonly Operation[]) =>
    fc.array(fc.oneof(...some.map(stepOf)), { minLength: 1, maxLength: length, size: "max" });
  const groups = fewOf(operations);
  const all = { weight: Math.max(groups.length, 1), arbitrary: listOf(operations) };
  const drafts = fc.oneof(all, ...groups.map((some) => ({ weight: 1, arbitrary: listOf(some) })));
  if (!isConcurrent) return drafts.map((sequence) => sequence.map(linked).map(awaited));
  return fc
    .tuple(fc.boolean(), drafts)
    .map(([overlaps, sequence]) =>
      overlaps ? sequence.map(linked) : sequence.map((step, at) => awaited(linked(step, at, sequence))),
    );
}

export function awaited(step: Step): Step {
  return step.isAwaited ? step : { ...step, isAwaited: true };
}

/** So many groups of so many operations are kept to. */
const GROUPS = 12;
const FEW = 3;

/** Groups of a few operations, each operation in several of them, in every run the same. */
function fewOf(operations: readonly Operation[]): readonly (readonly Operation[])[] {
  const { length } = operations;
  if (length <= FEW) return [];
  return Array.from({ length: GROUPS }, (_, group) => {
    // Steps of other lengths from group to group bring each operation together with others.
    const stride = 1 + ((Math.floor(group / length) + group) % (length - 1));
    const near = [group, group + stride, group + 2 * stride + 1].slice(0, FEW - (group % 2));
    const places = new Set(near.map((place) => place % length));
    return [...places].flatMap((place) => operations[place] ?? []);
  });
}

/** A step as it is generated. */
interface Draft extends Step {
  /** Which of the arguments is to be the same as in an earlier step. */
  readonly again: number | undefined;
}

function stepOf(operation: Operation): Arbitrary<Draft> {
  if (operation.use === "read")
    return fc.constant({ operation, args: [], isAwaited: true, again: undefined });
  // One number tells the rest of a step, as each that is generated takes its time, and 0 tells the simplest.
  return fc.tuple(operation.args, fc.nat(DETAILS - 1)).map(([args, detail]): Draft => {
    const hasArguments = args.length > 0;
    return {
      operation,
      args: detail >= FROM_EARLIER && detail < AGAIN && hasArguments ? swapped(args, detail) : args,
      isAwaited: detail % 3 < 2,
      again: detail >= AGAIN && hasArguments ? (detail >> 2) % args.length : undefined,
    };
  });
}

const DETAILS = 80;
/** From here on an argument is the result of an earlier step. */
const FROM_EARLIER = 48;
/** And from here on what an earlier step had in the same place. */
const AGAIN = 60;

function swapped(args: readonly unknown[], detail: number): readonly unknown[] {
  const place = (detail >> 2) % args.length;
  return args.map((each, index) => (index === place ? new Earlier(detail % 4, each) : each));
}

/** The step that a draft comes to in its sequence. */
function linked(step: Draft, at: number, sequence: readonly Draft[]): Step {
  const { again } = step;
  if (again === undefined) return step;
  for (let before = at - 1; before >= 0; before -= 1) {
    const { args } = sequence[before] as Draft;
    // Objects have an identity, which code that is printed could not show.
    if (args.length <= again || isObject(args[again])) continue;
    const repeated = step.args.with(again, args[again]);
    if (step.operation.isTyped && !step.operation.args.canShrinkWithoutContext(repeated)) continue;
    return { ...step, args: repeated };
  }
  return step;
}
