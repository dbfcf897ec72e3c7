import { host } from "../host.ts";
import { copied, equalValues, isPlain } from "./alike.ts";
import { after } from "./end.ts";
import { guardedCalls, Hung } from "./guarded.ts";
import type { Operation } from "./operations.ts";
import { isObject, isThenable } from "./schema.ts";
import { asGenerated, Earlier, type Step } from "./steps.ts";
import { CallbackValue } from "./values.ts";

/** How one step ended, as its client sees it. */
export interface Seen {
  readonly status: "returned" | "threw" | "resolved" | "rejected" | "unsettled";
  /** The value or the error: as it came. */
  readonly raw: unknown;
  /** The same fit for a comparison: the target itself is {@link SELF}, and what can be iterated over is {@link Iterated}. */
  readonly value: unknown;
}

/** Stands for the target itself, where a step gave it back. */
export const SELF = Symbol("the target itself");

/** What came out of an iterator, as far as it was read. */
export class Iterated {
  readonly values: readonly unknown[];
  readonly error: unknown;

  constructor(values: readonly unknown[], error: unknown) {
    this.values = values;
    this.error = error;
  }
}

export interface Played {
  /** One for each step that was made; fewer than steps where one did not end. */
  readonly seen: readonly Seen[];
  /** The arguments of each call of each callback that was passed, in the order in which they were passed. */
  readonly callbacks: readonly (readonly (readonly unknown[])[])[];
  /** The steps whose arguments were changed by the call. */
  readonly mutated: readonly number[];
  /** The results that stood in for arguments: by step and argument, the step whose result it was. */
  readonly reused: ReadonlyMap<string, number>;
}

export interface PlayTerms {
  /** How long a step may take, in milliseconds. */
  readonly deadline: number;
  /** How often each member has been called in a guarded way, kept over many plays. */
  readonly guards: Map<string, number>;
}

/** Makes the steps of a sequence on a target. */
export async function play(target: object, steps: readonly Step[], terms: PlayTerms): Promise<Played> {
  const playing = new Playing(target, steps, terms);
  await playing.toEnd();
  return playing;
}

/** So often a member is called in a guarded way; to guard every call of one that waits would take too long. */
const GUARDED_CALLS = 50;
/** So many values of an iterator are read. */
const READ = 20;

/** Whether a member has ended so often that its calls need no guard any more. */
export function isTrusted(member: string, { guards }: PlayTerms): boolean {
  return (guards.get(member) ?? 0) >= GUARDED_CALLS;
}

export function noteGuarded(member: string, { guards }: PlayTerms): void {
  const calls = guards.get(member) ?? 0;
  if (calls < GUARDED_CALLS) guards.set(member, calls + 1);
}

/** A sequence that is being played. */
export class Playing implements Played {
  readonly seen: Seen[] = [];
  readonly callbacks: (readonly unknown[])[][] = [];
  readonly mutated: number[] = [];
  readonly reused = new Map<string, number>();
  readonly #target: object;
  readonly #steps: readonly Step[];
  readonly #terms: PlayTerms;
  readonly #open: Promise<void>[] = [];
  #at = 0;
  #hasHung = false;

  constructor(target: object, steps: readonly Step[], terms: PlayTerms) {
    this.#target = target;
    this.#steps = steps;
    this.#terms = terms;
  }

  /**
   * Makes steps, without a guard of their own, until one has to be waited for, which is then given, or until the time is up;
   * then it is to be asked again, at once, so that nothing comes between two steps that would not otherwise.
   */
  begin(isTimeUp: () => boolean): Promise<void> | undefined {
    return this.#stretch(isTimeUp);
  }

  /** Whether there are steps to be made, and nothing to wait for before the next. */
  get isPaused(): boolean {
    return !this.#hasHung && this.#at < this.#steps.length;
  }

  /** Whether there is nothing to be waited for any more. */
  get isOver(): boolean {
    const isAtEnd = this.#hasHung || this.#at === this.#steps.length;
    return isAtEnd && this.#open.length === 0 && this.callbacks.length === 0;
  }

  async toEnd(): Promise<void> {
    while (this.#at < this.#steps.length && !this.#hasHung) {
      const waited = this.#nextStretch();
      if (waited) await waited;
    }
    if (this.#open.length > 0) await Promise.all(this.#open);
    if (this.callbacks.length > 0) await macrotask();
  }

  /** Guarded until each of the members has ended often enough, as to guard all of them would take too long. */
  #nextStretch(): Promise<void> | undefined {
    if (this.#isTrusted(this.#at)) return this.#stretch();
    try {
      return guardedCalls((isTimeUp) => this.#stretch(isTimeUp), this.#terms.deadline);
    } catch (error) {
      if (!(error instanceof Hung)) throw error;
      this.seen[this.#at - 1] = { status: "unsettled", raw: undefined, value: undefined };
      this.#hasHung = true;
      return undefined;
    }
  }

  /** Makes steps until one has to be waited for, or the time of the guard is up; without a guard, until one that needs it. */
  #stretch(isTimeUp?: () => boolean): Promise<void> | undefined {
    while (this.#at < this.#steps.length && (isTimeUp || this.#isTrusted(this.#at))) {
      const index = this.#at++;
      const step = this.#steps[index] as Step;
      const waited = this.#step(index, step);
      if (isTimeUp) noteGuarded(step.operation.label, this.#terms);
      if (waited) return waited;
      if (isTimeUp?.()) return undefined;
    }
    return undefined;
  }

  #isTrusted(at: number): boolean {
    return isTrusted(this.#steps[at]?.operation.label ?? "", this.#terms);
  }

  #step(index: number, { operation, args, isAwaited }: Step): Promise<void> | undefined {
    const { use, key } = operation;
    const target = this.#target as (...args: unknown[]) => unknown;
    const given = hasObject(args) ? this.#arguments(operation, args, index) : args;
    const before = given !== args && hasObject(given) ? copied(given) : undefined;
    let raw: unknown;
    try {
      if (use === "read") raw = Reflect.get(target, key as PropertyKey);
      else if (use === "write")
        (target as unknown as Record<PropertyKey, unknown>)[key as PropertyKey] = given[0];
      else if (key === undefined) raw = target(...given);
      else raw = (target as unknown as Record<PropertyKey, typeof target>)[key]?.call(target, ...given);
      if (raw === undefined && use === "call" && key !== undefined && !isCallable(target, key))
        throw new TypeError(`there is no ${String(key)} to call`);
    } catch (error) {
      this.#note(index, "threw", error, given, before);
      return undefined;
    }
    if (!isObject(raw)) {
      this.#note(index, "returned", raw, given, before);
      return undefined;
    }
    if (!isThenable(raw)) {
      const iterated = this.#iterated(raw);
      if (!(iterated instanceof Promise)) {
        this.#note(index, "returned", raw, given, before, iterated);
        return undefined;
      }
      return this.#later(index, iterated, isAwaited, (value) =>
        this.#note(index, "returned", raw, given, before, value),
      );
    }
    return this.#later(
      index,
      raw,
      isAwaited,
      async (value) => {
        const iterated = await this.#iterated(value);
        this.#note(index, "resolved", value, given, before, iterated);
      },
      (error) => this.#note(index, "rejected", error, given, before),
    );
  }

  #later(
    index: number,
    promise: PromiseLike<unknown>,
    isAwaited: boolean,
    resolved: (value: unknown) => void | Promise<void>,
    rejected?: (error: unknown) => void,
  ): Promise<void> | undefined {
    const unsettled: Seen = { status: "unsettled", raw: undefined, value: undefined };
    this.seen[index] = unsettled;
    const settled = new Promise<void>((resolve) => {
      const stop = after(this.#terms.deadline, () => {
        if (isAwaited) this.#hasHung = true;
        resolve();
      });
      const end = () => {
        stop();
        resolve();
      };
      // A second handler, so that a failure in taking down does not look like one of the target.
      promise.then(
        async (value) => {
          await resolved(value);
          end();
        },
        (error) => {
          rejected?.(error);
          end();
        },
      );
    });
    if (isAwaited) return settled;
    this.#open.push(settled);
    return undefined;
  }

  #note(
    index: number,
    status: Seen["status"],
    raw: unknown,
    given: readonly unknown[],
    before: readonly unknown[] | undefined,
    value: unknown = raw,
  ): void {
    this.seen[index] = { status, raw, value: value === this.#target ? SELF : value };
    if (
      before?.some((each, place) => !equalValues(each, given[place]) && !this.reused.has(`${index}.${place}`))
    )
      this.mutated.push(index);
  }

  /** What is read from an iterator; anything else is itself. */
  #iterated(value: unknown): unknown {
    if (!isObject(value) || value === this.#target || isPlain(value) || isOfLanguage(value)) return value;
    const iterate = Reflect.get(value, Symbol.iterator) as unknown;
    if (typeof iterate === "function") return iteratedNow(value as Iterable<unknown>);
    const iterateLater = Reflect.get(value, Symbol.asyncIterator) as unknown;
    return typeof iterateLater === "function" ? iteratedLater(value as AsyncIterable<unknown>) : value;
  }

  /** The arguments of a step: copies, callbacks that take down their calls, and results of earlier steps. */
  #arguments({ args, isTyped }: Operation, generated: readonly unknown[], step: number): readonly unknown[] {
    const plain = generated.map((each) => this.#argument(asGenerated(each)));
    for (const [place, each] of generated.entries()) {
      const from = each instanceof Earlier ? this.#earlier(each) : undefined;
      if (from === undefined) continue;
      const given = plain.with(place, this.seen[from]?.raw);
      // Where somebody told what the arguments are, a result has to be one of those.
      if (isTyped && !args.canShrinkWithoutContext(given)) continue;
      this.reused.set(`${step}.${place}`, from);
      return given;
    }
    return plain;
  }

  #argument(value: unknown): unknown {
    if (!isObject(value)) return value;
    return copied(value, (each) => (each instanceof CallbackValue ? this.#callback() : each));
  }

  /** The step whose result stands in for an argument. */
  #earlier({ back, otherwise }: Earlier): number | undefined {
    const kind = kindFor(otherwise);
    let first: number | undefined;
    let left = back;
    for (let at = this.seen.length - 1; at >= 0; at -= 1) {
      const { status, raw } = this.seen[at] as Seen;
      if ((status !== "returned" && status !== "resolved") || raw === this.#target || kindFor(raw) !== kind)
        continue;
      if (left === 0) return at;
      left -= 1;
      first ??= at;
    }
    return first;
  }

  #callback(): (...args: unknown[]) => unknown {
    const calls: (readonly unknown[])[] = [];
    this.callbacks.push(calls);
    return (...args) => {
      if (calls.length < 1000) calls.push(args.map((each) => (each === this.#target ? SELF : copied(each))));
      return args[0];
    };
  }
}

/** A loop, as it is asked of every call. */
function hasObject(values: readonly unknown[]): boolean {
  for (let at = 0; at < values.length; at += 1) if (isObject(values[at])) return true;
  return false;
}

function isCallable(target: object, key: PropertyKey): boolean {
  return typeof Reflect.get(target, key) === "function";
}

function isOfLanguage(value: object): boolean {
  return (
    value instanceof Map || value instanceof Set || ArrayBuffer.isView(value) || typeof value === "function"
  );
}

function kindFor(value: unknown): string {
  if (isObject(value)) return Object.prototype.toString.call(value);
  return value === null ? "null" : typeof value;
}

function iteratedNow(iterable: Iterable<unknown>): Iterated {
  const values: unknown[] = [];
  try {
    for (const each of iterable) {
      values.push(each);
      if (values.length === READ) break;
    }
  } catch (error) {
    return new Iterated(values, error);
  }
  return new Iterated(values, undefined);
}

async function iteratedLater(iterable: AsyncIterable<unknown>): Promise<Iterated> {
  const values: unknown[] = [];
  try {
    for await (const each of iterable) {
      values.push(each);
      if (values.length === READ) break;
    }
  } catch (error) {
    return new Iterated(values, error);
  }
  return new Iterated(values, undefined);
}

/** Until what was put off for the moment has run; it is not waited for timers where the host has something faster. */
export function macrotask(): Promise<void> {
  return new Promise((resolve) => {
    if (host.setImmediate) host.setImmediate(() => resolve());
    else if (host.setTimeout) host.setTimeout(() => resolve(), 0);
    else resolve();
  });
}
