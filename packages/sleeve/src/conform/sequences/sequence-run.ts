import { host } from "../../shared/host.ts";
import { isThenable } from "../../shared/thenable.ts";
import { pause, pendingTimers, TimerWait } from "../execution/pending-timers.ts";
import { afterMilliseconds } from "../execution/timeout.ts";
import { runCallsWithWatchdog, WatchdogTimeout } from "../execution/watchdog.ts";
import { CallbackValue } from "../values/arbitraries.ts";
import { deepCopy, equalValues, isPlain } from "../values/equality.ts";
import { freshIterator, isOneShot } from "../values/one-shot.ts";
import { isObject } from "../values/schema.ts";
import { iteratedLater, iteratedNow, readingOf } from "./iteration.ts";
import type { Operation } from "./operations.ts";
import { perform } from "./perform.ts";
import { asGenerated, PreviousResult, type Step } from "./steps.ts";

/** How one step ended, as its client sees it. */
export interface StepOutcome {
  readonly status: "returned" | "threw" | "resolved" | "rejected" | "unsettled";
  /** The original value or error. */
  readonly raw: unknown;
  /** The value for comparison: the target itself is {@link SELF}, and an iterable is `Iterated`. */
  readonly value: unknown;
}

/** The outcome of a call that does not end. */
export const UNSETTLED: StepOutcome = { status: "unsettled", raw: undefined, value: undefined };

/** Represents the target itself as a result. */
export const SELF = Symbol("the target itself");

export interface SequenceResult {
  /** One outcome per executed step; fewer than steps if one did not end. */
  readonly outcomes: readonly StepOutcome[];
  /** Arguments of each call of each callback, in the order the callbacks were passed. */
  readonly callbacks: readonly (readonly (readonly unknown[])[])[];
  /** Callbacks passed again, such as a listener to remove: step and argument index to the callback's index. */
  readonly repeated: ReadonlyMap<string, number>;
  /** Objects passed as arguments of each step, by their place; other arguments have no identity. */
  readonly given: ReadonlyMap<number, readonly unknown[]>;
  /** Indices of the steps whose arguments were changed by the call. */
  readonly mutated: readonly number[];
  /** Results used as arguments: step and argument index to the step whose result it was. */
  readonly reused: ReadonlyMap<string, number>;
}

export interface PlayTerms {
  /** Timeout of a step, in milliseconds. */
  readonly timeout: number;
  /** Number of watchdog calls of each member, over many runs. */
  readonly guards: Map<string, number>;
  /** Time to wait for late calls of callbacks after the last step and its timers, in milliseconds. Default: 0. */
  readonly callbackTime?: number;
}

/** Runs the steps of a sequence on a target. */
export async function runSequence(
  target: object,
  steps: readonly Step[],
  terms: PlayTerms,
): Promise<SequenceResult> {
  const playing = new SequenceRun(target, steps, terms);
  await playing.toEnd();
  return playing;
}

/** Number of watchdog calls per member; guarding every call would take too long. */
const GUARDED_CALLS = 50;
/** Members that take back a callback: `off`, `removeListener`, `unsubscribe`. */
const REMOVING = /^(?:off|remove|un|delete|cancel|detach)/i;
/** Timers of one sequence that may call a callback. */
const callbackWait = new TimerWait(100);

/** Whether a member has ended often enough to be called without a watchdog. */
export function isTrusted(member: string, { guards }: PlayTerms): boolean {
  return (guards.get(member) ?? 0) >= GUARDED_CALLS;
}

export function noteGuarded(member: string, { guards }: PlayTerms): void {
  const calls = guards.get(member) ?? 0;
  if (calls < GUARDED_CALLS) guards.set(member, calls + 1);
}

/** A sequence being run. */
export class SequenceRun implements SequenceResult {
  readonly outcomes: StepOutcome[] = [];
  readonly callbacks: (readonly unknown[])[][] = [];
  readonly mutated: number[] = [];
  readonly given = new Map<number, readonly unknown[]>();
  readonly repeated = new Map<string, number>();
  readonly reused = new Map<string, number>();
  readonly #target: object;
  readonly #steps: readonly Step[];
  readonly #terms: PlayTerms;
  readonly #open: Promise<void>[] = [];
  /** The functions that were passed as callbacks. */
  readonly #functions: ((...args: unknown[]) => unknown)[] = [];
  readonly #timersBefore: number;
  #at = 0;
  #hasTimedOut = false;

  constructor(target: object, steps: readonly Step[], terms: PlayTerms) {
    this.#target = target;
    this.#steps = steps;
    this.#terms = terms;
    this.#timersBefore = steps.some(({ args }) => hasObject(args)) ? pendingTimers() : 0;
  }

  /**
   * Runs steps without a watchdog until one must be awaited, which is returned, or until the time is up. In
   * the latter case, call it again immediately, so that nothing runs between two steps.
   */
  begin(isTimeUp: () => boolean): Promise<void> | undefined {
    return this.#stretch(isTimeUp);
  }

  /** Whether there are steps to run, without anything to await first. */
  get isPaused(): boolean {
    return !this.#hasTimedOut && this.#at < this.#steps.length;
  }

  /** Whether nothing is left to await. */
  get isOver(): boolean {
    const isAtEnd = this.#hasTimedOut || this.#at === this.#steps.length;
    return isAtEnd && this.#open.length === 0 && this.callbacks.length === 0;
  }

  async toEnd(): Promise<void> {
    while (this.#at < this.#steps.length && !this.#hasTimedOut) {
      const waited = this.#nextStretch();
      if (waited) await waited;
    }
    if (this.#open.length > 0) await Promise.all(this.#open);
    if (this.callbacks.length === 0) return;
    const { callbackTime } = this.#terms;
    await macrotask();
    await callbackWait.while(() => pendingTimers() > this.#timersBefore);
    if (callbackTime !== undefined)
      await new Promise<void>((resolve) => afterMilliseconds(callbackTime, resolve));
  }

  /** Uses a watchdog until each member has ended often enough; guarding all calls would take too long. */
  #nextStretch(): Promise<void> | undefined {
    if (this.#isTrusted(this.#at)) return this.#stretch();
    try {
      return runCallsWithWatchdog((isTimeUp) => this.#stretch(isTimeUp), this.#terms.timeout);
    } catch (error) {
      if (!(error instanceof WatchdogTimeout)) throw error;
      this.outcomes[this.#at - 1] = UNSETTLED;
      this.#hasTimedOut = true;
      return undefined;
    }
  }

  /**
   * Runs steps until one must be awaited or the watchdog's time is up; without a watchdog, until one needs
   * it.
   */
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

  #step(index: number, step: Step): Promise<void> | undefined {
    const { operation, args } = step;
    const input = hasObject(args) ? this.#arguments(operation, args, index) : args;
    if (input !== args) this.given.set(index, input);
    const before = input !== args && hasObject(input) ? deepCopy(input) : undefined;
    let raw: unknown;
    try {
      raw = perform(this.#target, operation, input);
    } catch (error) {
      this.#note(index, "threw", error, input, before);
      return undefined;
    }
    if (!isObject(raw)) {
      this.#note(index, "returned", raw, input, before);
      return undefined;
    }
    if (!isThenable(raw)) {
      const iterated = this.#iterated(raw, index);
      if (!(iterated instanceof Promise)) {
        this.#note(index, "returned", raw, input, before, iterated);
        return undefined;
      }
      return this.#later(index, step, iterated, (value) =>
        this.#note(index, "returned", raw, input, before, value),
      );
    }
    return this.#later(
      index,
      step,
      raw,
      async (value) => {
        const iterated = await this.#iterated(value, index);
        this.#note(index, "resolved", value, input, before, iterated);
      },
      (error) => this.#note(index, "rejected", error, input, before),
    );
  }

  #later(
    index: number,
    { isAwaited, pause: between }: Step,
    promise: PromiseLike<unknown>,
    resolved: (value: unknown) => void | Promise<void>,
    rejected?: (error: unknown) => void,
  ): Promise<void> | undefined {
    this.outcomes[index] = UNSETTLED;
    const settled = new Promise<void>((resolve) => {
      const stop = afterMilliseconds(this.#terms.timeout, () => {
        if (isAwaited) this.#hasTimedOut = true;
        resolve();
      });
      const end = () => {
        stop();
        resolve();
      };
      // A second handler, so that an error while recording is not attributed to the target.
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
    if (between === undefined) return undefined;
    return between === "timer" ? pause(1) : macrotask();
  }

  #note(
    index: number,
    status: StepOutcome["status"],
    raw: unknown,
    input: readonly unknown[],
    before: readonly unknown[] | undefined,
    value: unknown = raw,
  ): void {
    this.outcomes[index] = { status, raw, value: value === this.#target ? SELF : value };
    if (
      before?.some((item, place) => !equalValues(item, input[place]) && !this.reused.has(`${index}.${place}`))
    )
      this.mutated.push(index);
  }

  /** Reads the items of an iterator; returns any other value unchanged. */
  #iterated(value: unknown, step: number): unknown {
    if (!isObject(value) || value === this.#target || Array.isArray(value) || isBuiltinValue(value))
      return value;
    // A wrapper may hide the prototype of an iterator.
    if (isPlain(value) && !(Symbol.iterator in value) && !(Symbol.asyncIterator in value)) return value;
    const iterate = Reflect.get(value, Symbol.iterator) as unknown;
    if (typeof iterate === "function") return iteratedNow(value as Iterable<unknown>, readingOf(step));
    const iterateLater = Reflect.get(value, Symbol.asyncIterator) as unknown;
    return typeof iterateLater === "function"
      ? iteratedLater(value as AsyncIterable<unknown>, readingOf(step))
      : value;
  }

  /** Returns the arguments of a step: copies, recording callbacks, and results of earlier steps. */
  #arguments(
    { args, isTyped, label }: Operation,
    generated: readonly unknown[],
    step: number,
  ): readonly unknown[] {
    const plain = generated.map((item, place) => {
      const lastFunction = this.#functions.length - 1;
      // A listener is removed by the function that was added.
      if (item instanceof CallbackValue && REMOVING.test(label) && lastFunction >= 0) {
        this.repeated.set(`${step}.${place}`, lastFunction);
        return this.#functions[lastFunction];
      }
      return this.#argument(asGenerated(item));
    });
    for (const [place, argument] of generated.entries()) {
      const from = argument instanceof PreviousResult ? this.#previousResult(argument) : undefined;
      if (from === undefined) continue;
      const input = plain.with(place, this.outcomes[from]?.raw);
      // If the arguments are typed, a result must match the type.
      if (isTyped && !args.canShrinkWithoutContext(input)) continue;
      this.reused.set(`${step}.${place}`, from);
      return input;
    }
    return plain;
  }

  #argument(value: unknown): unknown {
    if (!isObject(value)) return value;
    return deepCopy(value, (item) => {
      if (item instanceof CallbackValue) return this.#callback();
      return isOneShot(item) ? freshIterator(item) : item;
    });
  }

  /** Returns the step whose result is used as an argument. */
  #previousResult({ back, otherwise }: PreviousResult): number | undefined {
    const kind = kindFor(otherwise);
    let first: number | undefined;
    let remaining = back;
    for (let at = this.outcomes.length - 1; at >= 0; at -= 1) {
      const { status, raw } = this.outcomes[at] as StepOutcome;
      if ((status !== "returned" && status !== "resolved") || raw === this.#target || kindFor(raw) !== kind)
        continue;
      if (remaining === 0) return at;
      remaining -= 1;
      first ??= at;
    }
    return first;
  }

  #callback(): (...args: unknown[]) => unknown {
    const calls: (readonly unknown[])[] = [];
    this.callbacks.push(calls);
    const callback = (...args: unknown[]): unknown => {
      if (calls.length < 1000)
        calls.push(args.map((argument) => (argument === this.#target ? SELF : deepCopy(argument))));
      return args[0];
    };
    this.#functions.push(callback);
    return callback;
  }
}

/** A loop, because it runs for every call. */
function hasObject(values: readonly unknown[]): boolean {
  for (let at = 0; at < values.length; at += 1) if (isObject(values[at])) return true;
  return false;
}

function isBuiltinValue(value: object): boolean {
  return (
    value instanceof Map || value instanceof Set || ArrayBuffer.isView(value) || typeof value === "function"
  );
}

function kindFor(value: unknown): string {
  if (isObject(value)) return Object.prototype.toString.call(value);
  return value === null ? "null" : typeof value;
}

/** Waits until microtasks have run, and one macrotask, by the fastest means of the host. */
export function macrotask(): Promise<void> {
  return new Promise((resolve) => {
    if (host.setImmediate) host.setImmediate(() => resolve());
    else if (host.setTimeout) host.setTimeout(() => resolve(), 0);
    else resolve();
  });
}
