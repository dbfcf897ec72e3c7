import fc from "fast-check";
import { originalOf } from "../../forward/copied-value.ts";
import { isThenable } from "../../shared/thenable.ts";
import { withTimeout } from "../execution/timeout.ts";
import { runWithWatchdog, WatchdogTimeout } from "../execution/watchdog.ts";
import { withImplementation } from "../implementation.ts";
import { iteratedLater, iteratedNow } from "../sequences/iteration.ts";
import type { Operation } from "../sequences/operations.ts";
import { perform } from "../sequences/perform.ts";
import {
  isTrusted,
  macrotask,
  noteGuarded,
  type PlayTerms,
  runSequence,
  SELF,
  type StepOutcome,
  UNSETTLED,
} from "../sequences/sequence-run.ts";
import type { Context, Implementation } from "../types.ts";
import { CallbackValue } from "../values/arbitraries.ts";
import { deepCopy, equalValues, isPlain } from "../values/equality.ts";
import { isIterator, isObject } from "../values/schema.ts";
import { type Spied, spyOn } from "./spy.ts";

/** A subject and its wrapper. */
export interface Wrapping {
  readonly subject: Implementation<object>;
  readonly wrap: (subject: object) => object | Promise<object>;
  readonly release: ((wrapper: object) => unknown) | undefined;
}

/** A member, its arguments, and the subject's own answer to them. */
export interface Probe {
  readonly operation: Operation;
  readonly args: readonly unknown[];
  readonly hint: StepOutcome;
}

/** The result of a probe: which calls reached the subject and when, and how the wrapper answered. */
export interface ProbeResult {
  readonly subject: object;
  readonly wrapper: object;
  /** Calls of the member that reached the subject. */
  readonly reached: Spied<object>["calls"];
  /** Number of those calls when the wrapper's call returned. */
  readonly reachedAtOnce: number;
  /** Whether the wrapper's promise settled before the subject's. */
  readonly isEarly: boolean;
  /** Whether the wrapper changed an argument. The subject did not, because its answers were scripted. */
  readonly isMutated: boolean;
  readonly outcome: StepOutcome;
}

/** Represents the `this` of a method. */
export const THIS = Symbol("this");

/** What the subject does in a probe. */
export type Scripted =
  | { readonly gives: unknown; readonly isLater: boolean }
  | { readonly fails: unknown; readonly isLater: boolean };

/** Returns probes of each method, with arguments from the contract or, by default, of several kinds. */
export async function probesOf({ subject }: Wrapping, context: Context<object>): Promise<readonly Probe[]> {
  const probes: Probe[] = [];
  for (const operation of await context.operations()) {
    if (operation.use !== "call") continue;
    for (const input of argumentLists(operation, context)) {
      const args = input.map((item) => (item instanceof CallbackValue ? (value: unknown) => value : item));
      const hint = await withImplementation(subject, (instance) =>
        runSequence(instance, [{ operation, args: input, isAwaited: true }], {
          ...context,
        }),
      );
      probes.push({ operation, args, hint: hint.outcomes[0] as StepOutcome });
    }
  }
  return probes;
}

function argumentLists(
  { args, arity, isTyped }: Operation,
  { seed }: Context<object>,
): readonly (readonly unknown[])[] {
  const lists = fc.sample(args, { seed, numRuns: 4 });
  if (isTyped) return lists;
  const list = (make: (index: number) => unknown) => Array.from({ length: arity }, (_, index) => make(index));
  return [
    list((index) => index + 1),
    list((index) => "abcdefgh"[index % 8]),
    list((index) => ({ a: index })),
    list((index) => (value: unknown) => [value, index]),
    // Values that are easily confused with nothing.
    list(() => 0),
    list(() => ""),
    list(() => null),
    ...lists.slice(0, 2),
  ];
}

/** Creates a wrapper around a spied subject, passes both to `use`, and releases them. */
export async function withSpied<Result>(
  { subject, wrap, release }: Wrapping,
  use: (wrapper: object, spy: Spied<object>) => Promise<Result>,
): Promise<Result> {
  return withImplementation(subject, async (instance) => {
    const spy = spyOn(instance);
    const wrapper = await wrap(spy.subject);
    spy.calls.length = 0;
    try {
      return await use(wrapper, spy);
    } finally {
      spy.end();
      await release?.(wrapper);
    }
  });
}

/** Calls a wrapper once, with the subject following the script. */
export function runProbe(
  wrapping: Wrapping,
  { operation, args }: Probe,
  does: Scripted,
  terms: PlayTerms,
): Promise<ProbeResult> {
  return withSpied(wrapping, async (wrapper, spy) => {
    let settle = () => {};
    let isSettled = false;
    spy.script = ({ key, receiver }, real) => {
      if (key !== operation.key) return real();
      if (!does.isLater) {
        if ("fails" in does) throw does.fails;
        return does.gives === THIS ? receiver : does.gives;
      }
      return new Promise((resolve, reject) => {
        settle = () => {
          isSettled = true;
          if ("fails" in does) reject(does.fails);
          else resolve(does.gives === THIS ? receiver : does.gives);
        };
        if (isSettled) settle();
      });
    };
    const before = deepCopy(args);
    const called = callOf(wrapper, operation, args, terms);
    const reachedAtOnce = reachedBy(spy, operation).length;
    await macrotask();
    const isEarly = does.isLater && called.isSettled();
    isSettled = true;
    settle();
    const ended = await called.outcome;
    // A generator runs, and calls its subject, when it is read.
    const isLazy = reachedBy(spy, operation).length === 0 && isGenerator(ended.raw);
    const outcome = isLazy ? await readOutcome(ended) : ended;
    // Calls made by the release do not count.
    const reached = reachedBy(spy, operation);
    return {
      subject: spy.subject,
      wrapper,
      reached,
      reachedAtOnce: isLazy ? reached.length : reachedAtOnce,
      isEarly,
      isMutated: !equalValues(before, args),
      outcome,
    };
  });
}

function isGenerator(value: unknown): value is Iterable<unknown> | AsyncIterable<unknown> {
  return isObject(value) && /^\[object (?:Async)?Generator\]$/.test(Object.prototype.toString.call(value));
}

/** Reads a generator, and returns an outcome with its items. */
async function readOutcome(outcome: StepOutcome): Promise<StepOutcome> {
  const { raw } = outcome as { readonly raw: Iterable<unknown> | AsyncIterable<unknown> };
  const { values, error } =
    Symbol.iterator in raw ? iteratedNow(raw, "all") : await iteratedLater(raw, "all");
  return error === undefined
    ? { ...outcome, raw: values.values(), value: values }
    : { status: "threw", raw: error, value: error };
}

/** Returns the calls of a member that reached a subject. */
export function reachedBy({ calls }: Spied<object>, { key }: Operation): Spied<object>["calls"] {
  return calls.filter((call) => call.key === key);
}

/** A call in flight. */
export interface Called {
  readonly outcome: Promise<StepOutcome>;
  isSettled(): boolean;
}

export function callOf(
  target: object,
  operation: Operation,
  args: readonly unknown[],
  terms: PlayTerms,
): Called {
  let isSettled = false;
  const seen = (status: StepOutcome["status"], raw: unknown): StepOutcome => {
    isSettled = true;
    return { status, raw, value: raw === target ? SELF : raw };
  };
  try {
    const call = () => perform(target, operation, args);
    const raw = isTrusted(operation.label, terms) ? call() : runWithWatchdog(call, terms.timeout);
    noteGuarded(operation.label, terms);
    if (!isThenable(raw)) return { outcome: Promise.resolve(seen("returned", raw)), isSettled: () => true };
    const outcome = withTimeout(
      raw.then(
        (value) => seen("resolved", value),
        (error: unknown) => seen("rejected", error),
      ),
      terms.timeout,
    ).then((ended): StepOutcome => ended ?? UNSETTLED);
    return { outcome, isSettled: () => isSettled };
  } catch (error) {
    const seenError = error instanceof WatchdogTimeout ? seen("unsettled", undefined) : seen("threw", error);
    return { outcome: Promise.resolve(seenError), isSettled: () => true };
  }
}

/** Returns a value that is not the given one, for the subject to return: an equal object, or another primitive value. */
export function variantOf(value: unknown): unknown {
  if (typeof value !== "object" || value === null) return otherPrimitive(value);
  if (!isPlain(value)) return isIterator(value) && isIterable(value) ? ITEMS.values() : value;
  return Array.isArray(value) ? [...value] : { ...value };
}

/** Returns another number, text or truth value of the same type. Other values come back as they are. */
export function otherPrimitive(value: unknown): unknown {
  switch (typeof value) {
    case "number":
      return value + 7;
    case "bigint":
      return value + 7n;
    case "string":
      return `${value}1`;
    case "boolean":
      return !value;
    default:
      return value;
  }
}

/** Items of the subject's iterators, to check that all of them come out. Objects may come out wrapped. */
const ITEMS = [71, 72];

/** Whether an iterator was consumed, or has other items than the subject's. */
export function isReadAway(sent: unknown, came: unknown): boolean {
  if (!isIterator(sent) || !isIterable(sent) || !isIterable(came)) return false;
  const read = [...came];
  return read.length !== ITEMS.length || read.some((item, at) => item !== ITEMS[at]);
}

function isIterable(value: unknown): value is Iterable<unknown> {
  return isObject(value) && typeof Reflect.get(value, Symbol.iterator) === "function";
}

/** Whether a value came out as it went in. Iterators may be replaced by equal ones. */
export function isSameValue(sent: unknown, came: unknown): boolean {
  if (Object.is(sent, originalOf(came))) return true;
  return isIterator(sent) && isIterator(came);
}

/** A callee cannot distinguish missing trailing arguments from `undefined`. */
export function withoutUndefined(args: readonly unknown[]): readonly unknown[] {
  let length = args.length;
  while (length > 0 && args[length - 1] === undefined) length -= 1;
  return args.slice(0, length);
}
