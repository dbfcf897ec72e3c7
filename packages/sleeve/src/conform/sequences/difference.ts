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
    const [expectedOutcome, actualOutcome] = [expected.outcomes[at], found.outcomes[at]];
    // The step that did not end was reported, and no further step was run on that side.
    if (!expectedOutcome || !actualOutcome) return undefined;
    const name = nameOf(expectedOutcome, actualOutcome, equality);
    if (name) return { name, at, ...texts(expectedOutcome, actualOutcome) };
    const identity = equality.byIdentity ? identityDifference(expected, found, at) : undefined;
    if (identity) return { name: "result", at, ...identity };
    if (expected.mutated.includes(at) !== found.mutated.includes(at)) {
      const [changed, cache] = ["the arguments changed by the call", "the arguments unchanged"];
      const isChanged = expected.mutated.includes(at);
      return {
        name: "mutated",
        at,
        expected: isChanged ? changed : cache,
        found: isChanged ? cache : changed,
      };
    }
  }
  return callbackDifference(steps, expected, found, equality);
}

function nameOf(
  expectedOutcome: StepOutcome,
  actualOutcome: StepOutcome,
  equality: Equality,
): FindingName | undefined {
  const isSame = equalSeen(expectedOutcome, actualOutcome, equality);
  if (isSame) return undefined;
  const [before, after] = [expectedOutcome.status, actualOutcome.status];
  if (before === "unsettled" || after === "unsettled") return "unsettled";
  if (failed(expectedOutcome) !== failed(actualOutcome)) return "error";
  if (before !== after) return "async";
  if (failed(expectedOutcome)) return "error";
  return expectedOutcome.value === SELF || actualOutcome.value === SELF ? "fluent" : "result";
}

function failed({ status }: StepOutcome): boolean {
  return status === "threw" || status === "rejected";
}

function equalSeen(
  expectedOutcome: StepOutcome,
  actualOutcome: StepOutcome,
  { equal, errors }: Equality,
): boolean {
  if (expectedOutcome.status !== actualOutcome.status) return false;
  if (failed(expectedOutcome))
    return isReleased(actualOutcome) || equalErrors(expectedOutcome.value, actualOutcome.value, errors);
  const [left, right] = [expectedOutcome.value, actualOutcome.value];
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
  const [expectedOutcome, actualOutcome] = [originOf(expected, at), originOf(found, at)];
  if (expectedOutcome?.step === actualOutcome?.step && expectedOutcome?.argument === actualOutcome?.argument)
    return undefined;
  return {
    expected: expectedOutcome ? originText(expectedOutcome) : "an object of its own",
    found: actualOutcome ? originText(actualOutcome) : "another object",
    ...(expectedOutcome && { identity: expectedOutcome }),
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

function texts(
  expectedOutcome: StepOutcome,
  actualOutcome: StepOutcome,
): { expected: string; found: string } {
  const [expected, found] = [outcomeText(expectedOutcome), outcomeText(actualOutcome)];
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
