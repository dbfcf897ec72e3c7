import fc from "fast-check";
import { copied, equalValues, isPlain } from "../alike.ts";
import type { Context } from "../context.ts";
import { endOf } from "../end.ts";
import { guarded, Hung } from "../guarded.ts";
import { type Implementation, lend } from "../implementation.ts";
import type { Operation } from "../operations.ts";
import { arityOf } from "../operations.ts";
import { isTrusted, macrotask, noteGuarded, type PlayTerms, play, SELF, type Seen } from "../play.ts";
import { isIterator, isObject, isThenable } from "../schema.ts";
import { type Spied, spyOn } from "../spy.ts";
import { CallbackValue } from "../values.ts";

/** A subject, and what wraps it. */
export interface Wrapping {
  readonly subject: Implementation<object>;
  readonly wrap: (subject: object) => object | Promise<object>;
  readonly release: ((wrapper: object) => unknown) | undefined;
}

/** A member, arguments for it, and how the subject itself answers them. */
export interface Trial {
  readonly operation: Operation;
  readonly args: readonly unknown[];
  readonly hint: Seen;
}

/** What a trial came to: what reached the subject by when, and how the wrapper answered. */
export interface Tried {
  readonly subject: object;
  readonly wrapper: object;
  /** The calls of the member that reached the subject. */
  readonly reached: Spied<object>["reached"];
  /** How many calls of the member had reached the subject when the wrapper's call returned. */
  readonly reachedAtOnce: number;
  /** Whether the wrapper's promise was settled before the subject's was. */
  readonly isEarly: boolean;
  /** Whether the wrapper changed an argument; the subject, which was made to answer, did not. */
  readonly isMutated: boolean;
  readonly outcome: Seen;
}

/** Stands for what a method calls `this`. */
export const THIS = Symbol("this");

/** What the subject is made to do in a trial. */
export type Scripted =
  | { readonly gives: unknown; readonly isLater: boolean }
  | { readonly fails: unknown; readonly isLater: boolean };

/** Trials of each method, with arguments as the contract tells them or, where nobody told, of several kinds. */
export async function trialsOf({ subject }: Wrapping, context: Context<object>): Promise<readonly Trial[]> {
  const trials: Trial[] = [];
  for (const operation of await context.operations()) {
    if (operation.use !== "call") continue;
    for (const given of await argumentLists(operation, subject, context)) {
      const args = given.map((each) => (each instanceof CallbackValue ? (value: unknown) => value : each));
      const hint = await lend(subject, (made) =>
        play(made, [{ operation, args: given, isAwaited: true }], {
          ...context,
        }),
      );
      trials.push({ operation, args, hint: hint.seen[0] as Seen });
    }
  }
  return trials;
}

async function argumentLists(
  { key, args, isTyped }: Operation,
  subject: Implementation<object>,
  { seed }: Context<object>,
): Promise<readonly (readonly unknown[])[]> {
  const lists = fc.sample(args, { seed, numRuns: 4 });
  if (isTyped) return lists;
  const { most } = await lend(subject, async (made) =>
    arityOf((key === undefined ? made : Reflect.get(made, key)) as object),
  );
  const list = (make: (index: number) => unknown) => Array.from({ length: most }, (_, index) => make(index));
  return [
    list((index) => index + 1),
    list((index) => "abcdefgh"[index % 8]),
    list((index) => ({ a: index })),
    list((index) => (value: unknown) => [value, index]),
    // What is easily taken for nothing.
    list(() => 0),
    list(() => ""),
    list(() => null),
    ...lists.slice(0, 2),
  ];
}

/** Makes a wrapper around a spied subject, hands both out, and releases them. */
export async function withSpied<Result>(
  { subject, wrap, release }: Wrapping,
  use: (wrapper: object, spy: Spied<object>) => Promise<Result>,
): Promise<Result> {
  return lend(subject, async (made) => {
    const spy = spyOn(made);
    const wrapper = await wrap(spy.subject);
    spy.reached.length = 0;
    try {
      return await use(wrapper, spy);
    } finally {
      spy.end();
      await release?.(wrapper);
    }
  });
}

/** Calls a wrapper once, with the subject doing what the script says. */
export function tried(
  wrapping: Wrapping,
  { operation, args }: Trial,
  does: Scripted,
  terms: PlayTerms,
): Promise<Tried> {
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
    const before = copied(args);
    const called = callOf(wrapper, operation, args, terms);
    const reachedAtOnce = reachedBy(spy, operation).length;
    await macrotask();
    const isEarly = does.isLater && called.isSettled();
    isSettled = true;
    settle();
    const outcome = await called.outcome;
    // What the release calls is no part of it.
    const reached = reachedBy(spy, operation);
    return {
      subject: spy.subject,
      wrapper,
      reached,
      reachedAtOnce,
      isEarly,
      isMutated: !equalValues(before, args),
      outcome,
    };
  });
}

/** The calls of a member that reached a subject. */
export function reachedBy({ reached }: Spied<object>, { key }: Operation): Spied<object>["reached"] {
  return reached.filter((each) => each.key === key);
}

/** A call under way. */
export interface Called {
  readonly outcome: Promise<Seen>;
  isSettled(): boolean;
}

export function callOf(
  target: object,
  { key, label }: Operation,
  args: readonly unknown[],
  terms: PlayTerms,
): Called {
  let isSettled = false;
  const seen = (status: Seen["status"], raw: unknown): Seen => {
    isSettled = true;
    return { status, raw, value: raw === target ? SELF : raw };
  };
  try {
    const callable = target as unknown as Record<PropertyKey, (...given: readonly unknown[]) => unknown>;
    const call = () =>
      key === undefined ? (target as (typeof callable)[string])(...args) : callable[key]?.(...args);
    const raw = isTrusted(label, terms) ? call() : guarded(call, terms.deadline);
    noteGuarded(label, terms);
    if (key !== undefined && typeof callable[key] !== "function")
      throw new TypeError("there is none to call");
    if (!isThenable(raw)) return { outcome: Promise.resolve(seen("returned", raw)), isSettled: () => true };
    const outcome = endOf(
      raw.then(
        (value) => seen("resolved", value),
        (error: unknown) => seen("rejected", error),
      ),
      terms.deadline,
    ).then((ended): Seen => ended ?? { status: "unsettled", raw: undefined, value: undefined });
    return { outcome, isSettled: () => isSettled };
  } catch (error) {
    const seenError = error instanceof Hung ? seen("unsettled", undefined) : seen("threw", error);
    return { outcome: Promise.resolve(seenError), isSettled: () => true };
  }
}

/** A value like another and yet not the same, for the subject to give, so that it can be told whether it came through. */
export function variantOf(value: unknown): unknown {
  switch (typeof value) {
    case "number":
      return value + 7;
    case "bigint":
      return value + 7n;
    case "string":
      return `${value}~`;
    case "boolean":
      return !value;
    case "object":
      if (value === null || !isPlain(value))
        return isIterator(value) && isIterable(value) ? ITEMS.values() : value;
      return Array.isArray(value) ? [...value] : { ...value };
    default:
      return value;
  }
}

/** What the subject is made to let read, so that it can be told whether all of it comes out. Objects may come out wrapped. */
const ITEMS = [71, 72];

/** Whether what the subject lets read was read already, or is other than it gave. */
export function isReadAway(sent: unknown, came: unknown): boolean {
  if (!isIterator(sent) || !isIterable(sent) || !isIterable(came)) return false;
  const read = [...came];
  return read.length !== ITEMS.length || read.some((each, at) => each !== ITEMS[at]);
}

function isIterable(value: unknown): value is Iterable<unknown> {
  return isObject(value) && typeof Reflect.get(value, Symbol.iterator) === "function";
}

/** Whether a value that went in at one end is what came out at the other. Iterators may be others of their kind. */
export function isSameValue(sent: unknown, came: unknown): boolean {
  if (Object.is(sent, came)) return true;
  return isIterator(sent) && isIterator(came);
}
