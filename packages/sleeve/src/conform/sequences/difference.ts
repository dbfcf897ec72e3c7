import { originalOf } from "../../forward/wrapper-record.ts";
import { SleeveError } from "../../shared/errors.ts";
import type { FindingName } from "../finding.ts";
import { type EqualityFunction, equalValues } from "../values/equality.ts";
import { formatValue, outcomeText } from "../values/format.ts";
import { Iterated, SELF, type SequenceResult, type StepOutcome } from "./sequence-run.ts";
import type { Step } from "./steps.ts";

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
    return equal(left.values, right.values) && equalErrors(left.error, right.error, errors);
  return !(left instanceof Iterated) && !(right instanceof Iterated) && equal(left, right);
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
): { readonly expected: string; readonly found: string } | undefined {
  const [one, other] = [originOf(expected, at), originOf(found, at)];
  return one === other
    ? undefined
    : { expected: one ?? "an object of its own", found: other ?? "another object" };
}

function originOf({ outcomes, given }: SequenceResult, at: number): string | undefined {
  const { raw } = outcomes[at] as StepOutcome;
  if (typeof raw !== "object" || raw === null) return undefined;
  const object = originalOf(raw);
  for (let step = 0; step <= at; step += 1) {
    const place = given.get(step)?.indexOf(object) ?? -1;
    if (place >= 0) return `the same object as argument ${place + 1} of call ${step + 1}`;
    if (step < at && originalOf(outcomes[step]?.raw) === object)
      return `the same object as from call ${step + 1}`;
  }
  return undefined;
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
