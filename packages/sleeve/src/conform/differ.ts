import { type Alike, equalValues } from "./alike.ts";
import type { FindingName } from "./finding.ts";
import { Iterated, type Played, SELF, type Seen } from "./play.ts";
import type { Step } from "./steps.ts";
import { seenText, shown } from "./text.ts";

/** How two plays of the same steps are held against each other. */
export interface Equality {
  readonly alike: Alike;
  /** Whether results that are one object on one side have to be one on the other. */
  readonly byIdentity: boolean;
  /** How much of an error counts. */
  readonly errors: "message" | "class";
}

/** The first step in which two plays differ, and how. */
export interface PlayedDifference {
  readonly name: FindingName;
  readonly at: number;
  readonly expected: string;
  readonly found: string;
}

export function differenceOf(
  steps: readonly Step[],
  expected: Played,
  found: Played,
  equality: Equality,
): PlayedDifference | undefined {
  for (let at = 0; at < Math.max(expected.seen.length, found.seen.length); at += 1) {
    const [one, other] = [expected.seen[at], found.seen[at]];
    // After a step without an end none was made on that side, which was told at that step.
    if (!one || !other) return undefined;
    const name = nameOf(one, other, equality);
    if (name) return { name, at, ...texts(one, other) };
    if (equality.byIdentity && firstOf(expected.seen, at) !== firstOf(found.seen, at)) {
      const same = firstOf(expected.seen, at);
      return {
        name: "result",
        at,
        expected: same === at ? "an object of its own" : `the same object as from call ${same + 1}`,
        found: same === at ? "an object that came out before" : "another object",
      };
    }
    if (expected.mutated.includes(at) !== found.mutated.includes(at)) {
      const [changed, kept] = ["the arguments changed by the call", "the arguments as they were"];
      const isChanged = expected.mutated.includes(at);
      return { name: "mutated", at, expected: isChanged ? changed : kept, found: isChanged ? kept : changed };
    }
  }
  return callbackDifference(steps, expected, found, equality);
}

function nameOf(one: Seen, other: Seen, equality: Equality): FindingName | undefined {
  const isSame = equalSeen(one, other, equality);
  if (isSame) return undefined;
  const [before, after] = [one.status, other.status];
  if (before === "unsettled" || after === "unsettled") return "unsettled";
  if (failed(one) !== failed(other)) return "error";
  if (before !== after) return "async";
  if (failed(one)) return "error";
  return one.value === SELF || other.value === SELF ? "fluent" : "result";
}

function failed({ status }: Seen): boolean {
  return status === "threw" || status === "rejected";
}

function equalSeen(one: Seen, other: Seen, { alike, errors }: Equality): boolean {
  if (one.status !== other.status) return false;
  if (failed(one)) return equalErrors(one.value, other.value, errors);
  const [left, right] = [one.value, other.value];
  if (left === SELF || right === SELF) return left === right;
  if (left instanceof Iterated && right instanceof Iterated)
    return alike(left.values, right.values) && equalErrors(left.error, right.error, errors);
  return !(left instanceof Iterated) && !(right instanceof Iterated) && alike(left, right);
}

function equalErrors(left: unknown, right: unknown, errors: Equality["errors"]): boolean {
  if (errors === "message" || !(left instanceof Error) || !(right instanceof Error))
    return equalValues(left, right);
  return left.constructor === right.constructor || left.name === right.name;
}

function firstOf(seen: readonly Seen[], at: number): number {
  const { raw } = seen[at] as Seen;
  if (typeof raw !== "object" || raw === null) return at;
  return seen.findIndex((each) => each.raw === raw);
}

function texts(one: Seen, other: Seen): { expected: string; found: string } {
  const [expected, found] = [seenText(one), seenText(other)];
  return { expected, found: expected === found ? `${found}, of another identity or make` : found };
}

function callbackDifference(
  steps: readonly Step[],
  expected: Played,
  found: Played,
  { alike }: Equality,
): PlayedDifference | undefined {
  const index = expected.callbacks.findIndex((calls, place) => !alike(calls, found.callbacks[place]));
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
    calls.map((each) => shown(each)),
  ];
  return `a callback that is called ${times}, with ${with_.slice(0, 3).join(", then ")}`;
}
