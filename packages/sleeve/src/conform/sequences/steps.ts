import fc, { type Arbitrary } from "fast-check";
import { isObject } from "../values/schema.ts";
import type { Operation } from "./operations.ts";

/** One use of a target in a generated sequence. */
export interface Step {
  readonly operation: Operation;
  readonly args: readonly unknown[];
  /** Whether the next step waits until this one settles. */
  readonly isAwaited: boolean;
  /** What passes before the next step, while this one is in flight: a macrotask, or a timer. Default: nothing. */
  readonly pause?: "macrotask" | "timer" | undefined;
}

/**
 * Represents the result of an earlier step: counted back from the latest one of the same kind as `otherwise`.
 */
export class PreviousResult {
  readonly back: number;
  /** The argument if there is no such result. */
  readonly otherwise: unknown;

  constructor(back: number, otherwise: unknown) {
    this.back = back;
    this.otherwise = otherwise;
  }
}

/** Returns an argument as generated, if it represents a result. */
export function asGenerated(argument: unknown): unknown {
  return argument instanceof PreviousResult ? argument.otherwise : argument;
}

export interface SequenceTerms {
  /** Maximum number of steps in one sequence. */
  readonly length: number;
  /** Whether some sequences make calls while others are in flight. */
  readonly isConcurrent: boolean;
}

/**
 * Generates sequences of steps. They shrink to fewer steps, simpler arguments, and one call at a time. Half
 * of them use few of the operations, because some faults appear only after many calls of one kind.
 */
export function sequencesOf(
  operations: readonly Operation[],
  { length, isConcurrent }: SequenceTerms,
): Arbitrary<readonly Step[]> {
  const listOf = (some: readonly Operation[]) =>
    fc.array(fc.oneof(...some.map(stepOf)), { minLength: 1, maxLength: length, size: "max" });
  const groups = pickFew(operations);
  const anyOperations = { weight: Math.max(groups.length, 1), arbitrary: listOf(operations) };
  const drafts = fc.oneof(anyOperations, ...groups.map((some) => ({ weight: 1, arbitrary: listOf(some) })));
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

/** Number of groups, and of operations in each. */
const GROUPS = 12;
const FEW = 3;

/** Returns groups of a few operations, each operation in several, equal in every run. */
function pickFew(operations: readonly Operation[]): readonly (readonly Operation[])[] {
  const { length } = operations;
  if (length <= FEW) return [];
  return Array.from({ length: GROUPS }, (_, group) => {
    // Different strides combine each operation with different others.
    const stride = 1 + ((Math.floor(group / length) + group) % (length - 1));
    const near = [group, group + stride, group + 2 * stride + 1].slice(0, FEW - (group % 2));
    const places = new Set(near.map((place) => place % length));
    return [...places].flatMap((place) => operations[place] ?? []);
  });
}

/** A step as generated. */
interface Draft extends Step {
  /** Index of the argument to repeat from an earlier step. */
  readonly again: number | undefined;
}

function stepOf(operation: Operation): Arbitrary<Draft> {
  if (operation.use === "read")
    return fc.constant({ operation, args: [], isAwaited: true, again: undefined });
  // One number encodes the rest of a step, because generating each takes time. 0 is the simplest.
  return fc.tuple(operation.args, fc.nat(DETAILS - 1)).map(([args, detail]): Draft => {
    const hasArguments = args.length > 0;
    return {
      operation,
      args: detail >= FROM_PREVIOUS && detail < AGAIN && hasArguments ? swapped(args, detail) : args,
      isAwaited: detail % 3 < 2,
      pause: pauseOf(detail),
      again: detail >= AGAIN && hasArguments ? (detail >> 2) % args.length : undefined,
    };
  });
}

/** A timer takes a millisecond, so that few steps wait for one. */
function pauseOf(detail: number): Step["pause"] {
  if (detail % 12 !== 5) return undefined;
  return detail > FROM_PREVIOUS && detail < AGAIN ? "timer" : "macrotask";
}

const DETAILS = 80;
/** From this value on, an argument is the result of an earlier step. */
const FROM_PREVIOUS = 48;
/** From this value on, an argument repeats the one of an earlier step at the same position. */
const AGAIN = 60;

function swapped(args: readonly unknown[], detail: number): readonly unknown[] {
  const place = (detail >> 2) % args.length;
  return args.map((argument, index) =>
    index === place ? new PreviousResult(detail % 4, argument) : argument,
  );
}

/** Returns the step of a draft at its position in the sequence. */
function linked(step: Draft, at: number, sequence: readonly Draft[]): Step {
  const { again } = step;
  if (again === undefined) return step;
  for (let before = at - 1; before >= 0; before -= 1) {
    const { args } = sequence[before] as Draft;
    // Objects have an identity, which printed code cannot show.
    if (args.length <= again || isObject(args[again])) continue;
    const repeated = step.args.with(again, args[again]);
    const { isTyped, learned, args: arbitrary } = step.operation;
    if (isTyped && !arbitrary.canShrinkWithoutContext(repeated)) continue;
    if (learned && typeof args[again] !== typeof asGenerated(step.args[again])) continue;
    return { ...step, args: repeated };
  }
  return step;
}
