import { originalOf } from "../../forward/copied-value.ts";
import { SleeveError } from "../../shared/errors.ts";
import type { FindingName } from "../finding.ts";
import { type EqualityFunction, equalValues } from "../values/equality.ts";
import { formatValue, outcomeText } from "../values/format.ts";
import { Iterated } from "./iteration.ts";
import { SELF, type SequenceResult, type StepOutcome } from "./sequence-run.ts";
import type { Step } from "./steps.ts";
import type { SeenObject } from "./steps-code.ts";

/** How two runs of the same steps are compared. */
export interface Equality {
  readonly equal: EqualityFunction;
  /** Whether results that are one object on one side must be one object on the other. */
  readonly byIdentity: boolean;
  /** How errors are compared. */
  readonly errors: "message" | "class";
}

/** The first step in which two runs differ, and how. */
export interface PlayedDifference {
  readonly name: FindingName;
  readonly at: number;
  readonly expected: string;
  readonly found: string;
  /** Index of the callback that was called otherwise. */
  readonly callback?: number;
  /** Where the expected object was seen before. */
  readonly identity?: SeenObject;
}

export function differenceOf(
  steps: readonly Step[],
  expected: SequenceResult,
  found: SequenceResult,
  equality: Equality,
): PlayedDifference | undefined {
  for (let at = 0; at < Math.max(expected.outcomes.length, found.outcomes.length); at += 1) {
    const [one, other] = [expected.outcomes[at], found.outcomes[at]];
    // The step that did not end was reported, and no further step was run on that side.
    if (!one || !other) return undefined;
    const name = nameOf(one, other, equality);
    if (name) return { name, at, ...texts(one, other) };
    const identity = equality.byIdentity ? identityDifference(expected, found, at) : undefined;
    if (identity) return { name: "result", at, ...identity };
    if (expected.mutated.includes(at) !== found.mutated.includes(at)) {
      const [changed, kept] = ["the arguments changed by the call", "the arguments unchanged"];
      const isChanged = expected.mutated.includes(at);
      return { name: "mutated", at, expected: isChanged ? changed : kept, found: isChanged ? kept : changed };
    }
  }
  return callbackDifference(steps, expected, found, equality);
}

function nameOf(one: StepOutcome, other: StepOutcome, equality: Equality): FindingName | undefined {
  const isSame = equalSeen(one, other, equality);
  if (isSame) return undefined;
  const [before, after] = [one.status, other.status];
  if (before === "unsettled" || after === "unsettled") return "unsettled";
  if (failed(one) !== failed(other)) return "error";
  if (before !== after) return "async";
  if (failed(one)) return "error";
  return one.value === SELF || other.value === SELF ? "fluent" : "result";
}

function failed({ status }: StepOutcome): boolean {
  return status === "threw" || status === "rejected";
}

function equalSeen(one: StepOutcome, other: StepOutcome, { equal, errors }: Equality): boolean {
  if (one.status !== other.status) return false;
  if (failed(one)) return isReleased(other) || equalErrors(one.value, other.value, errors);
  const [left, right] = [one.value, other.value];
  if (left === SELF || right === SELF) return left === right;
  if (left instanceof Iterated && right instanceof Iterated)
    return equal(left.values, right.values) && equalEnds(left, right, { equal, errors });
  return !(left instanceof Iterated) && !(right instanceof Iterated) && equal(left, right);
}

/** An iterator that cannot be stopped, such as that of an array, may replace one that can. */
function equalEnds(
  left: Iterated,
  right: Iterated,
  { equal, errors }: Pick<Equality, "equal" | "errors">,
): boolean {
  if (left.isStopped !== right.isStopped) return true;
  return equal(left.returned, right.returned) && equalErrors(left.error, right.error, errors);
}

/** An adapter that owns its adaptee refuses use after the release with an error of the library, whatever the target says. */
function isReleased({ raw }: StepOutcome): boolean {
  return raw instanceof SleeveError && raw.code === "RELEASED";
}

function equalErrors(left: unknown, right: unknown, errors: Equality["errors"]): boolean {
  if (errors === "message" || !(left instanceof Error) || !(right instanceof Error))
    return equalValues(left, right);
  return left.constructor === right.constructor || left.name === right.name;
}

/** Compares where the object that a step returned was seen before: as a result, or as an argument. */
function identityDifference(
  expected: SequenceResult,
  found: SequenceResult,
  at: number,
): Pick<PlayedDifference, "expected" | "found" | "identity"> | undefined {
  const [one, other] = [originOf(expected, at), originOf(found, at)];
  if (one?.step === other?.step && one?.argument === other?.argument) return undefined;
  return {
    expected: one ? originText(one) : "an object of its own",
    found: other ? originText(other) : "another object",
    ...(one && { identity: one }),
  };
}

function originOf({ outcomes, given }: SequenceResult, at: number): SeenObject | undefined {
  const { raw } = outcomes[at] as StepOutcome;
  if (typeof raw !== "object" || raw === null) return undefined;
  const object = originalOf(raw);
  for (let step = 0; step <= at; step += 1) {
    const argument = given.get(step)?.indexOf(object) ?? -1;
    if (argument >= 0) return { step, argument };
    if (step < at && originalOf(outcomes[step]?.raw) === object) return { step };
  }
  return undefined;
}

function originText({ step, argument }: SeenObject): string {
  return argument === undefined
    ? `the same object as from call ${step + 1}`
    : `the same object as argument ${argument + 1} of call ${step + 1}`;
}

function texts(one: StepOutcome, other: StepOutcome): { expected: string; found: string } {
  const [expected, found] = [outcomeText(one), outcomeText(other)];
  return { expected, found: expected === found ? `${found}, with another identity or class` : found };
}

function callbackDifference(
  steps: readonly Step[],
  expected: SequenceResult,
  found: SequenceResult,
  { equal }: Equality,
): PlayedDifference | undefined {
  const index = expected.callbacks.findIndex((calls, place) => !equal(calls, found.callbacks[place]));
  if (index < 0) return undefined;
  return {
    name: "callback",
    callback: index,
    at: steps.length - 1,
    expected: callsText(expected.callbacks[index] ?? []),
    found: callsText(found.callbacks[index] ?? []),
  };
}

function callsText(calls: readonly (readonly unknown[])[]): string {
  if (calls.length === 0) return "a callback that is never called";
  const [times, with_] = [
    calls.length === 1 ? "once" : `${calls.length} times`,
    calls.map((call) => formatValue(call)),
  ];
  return `a callback that is called ${times}, with ${with_.slice(0, 3).join(", then ")}`;
}
