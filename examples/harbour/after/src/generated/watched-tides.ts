// Generated from src/tides/tide-table.ts#TideTable by: npx sleeve wrap src/tides/tide-table.ts#TideTable --as decorator --layer logging --layer timing --to src/generated/watched-tides.ts --name WatchedTides --write
// Content 827e865f2558. Run the command again instead of editing this file.

import type { Metres, Tide, TideTable } from "../tides/tide-table.ts";
import { CallLog, type CallLogOptions } from "sleeve/generated";

/** What the layers use, the outermost first. */
export interface WatchedTidesLayers {
  /** Logs each call, and how it ended. */
  readonly logging: CallLogOptions;
  /** Measures how long calls take. */
  readonly timing: CallTimerOptions;
}

/** A `TideTable` through logging, timing. */
export class WatchedTides implements TideTable {
  readonly #subject: TideTable;
  readonly #log: CallLog;
  readonly #timer: CallTimer;

  constructor(subject: TideTable, layers: WatchedTidesLayers) {
    this.#subject = subject;
    this.#log = new CallLog(layers.logging);
    this.#timer = new CallTimer(layers.timing);
  }

  get port(): string {
    return this.#subject.port;
  }

  heightAt(time: Date): Promise<Metres> {
    const entry = this.#log.isOn() ? this.#log.called("heightAt", [time]) : undefined;
    const start = this.#timer.start();
    try {
      const result = entry === undefined
        ? this.#subject.heightAt(time)
        : entry.run(() => this.#subject.heightAt(time));
      observePromise(result, (outcome) => {
        this.#timer.ended("heightAt", outcome.status, start);
        this.#log.ended("heightAt", outcome, entry);
      });
      return result;
    } catch (error) {
      this.#timer.ended("heightAt", "threw", start);
      this.#log.ended("heightAt", { status: "threw", error }, entry);
      throw error;
    }
  }

  /** Returns the turns of the tide on the UTC day of a time, in order. */
  tidesOn(day: Date): Promise<readonly Tide[]> {
    const entry = this.#log.isOn() ? this.#log.called("tidesOn", [day]) : undefined;
    const start = this.#timer.start();
    try {
      const result = entry === undefined
        ? this.#subject.tidesOn(day)
        : entry.run(() => this.#subject.tidesOn(day));
      observePromise(result, (outcome) => {
        this.#timer.ended("tidesOn", outcome.status, start);
        this.#log.ended("tidesOn", outcome, entry);
      });
      return result;
    } catch (error) {
      this.#timer.ended("tidesOn", "threw", start);
      this.#log.ended("tidesOn", { status: "threw", error }, entry);
      throw error;
    }
  }

  /** Releases the source of the tides. Idempotent. */
  close(): void {
    const entry = this.#log.isOn() ? this.#log.called("close", []) : undefined;
    const start = this.#timer.start();
    try {
      const result = entry === undefined
        ? this.#subject.close()
        : entry.run(() => this.#subject.close());
      observe(result, (outcome) => {
        this.#timer.ended("close", outcome.status, start);
        this.#log.ended("close", outcome, entry);
      });
      return result;
    } catch (error) {
      this.#timer.ended("close", "threw", start);
      this.#log.ended("close", { status: "threw", error }, entry);
      throw error;
    }
  }
}

interface CallTimerOptions {
  /** Receives each sample. What it throws is printed once, and never reaches the caller. */
  readonly onSample: (sample: CallSample) => unknown;
  /** Clock in milliseconds. Default: `performance`, else `Date`. */
  readonly clock?: { now(): number };
}

/** The measurement of one call. `start` and `milliseconds` are in milliseconds. */
interface CallSample {
  readonly member: string;
  readonly status: Outcome["status"];
  readonly start: number;
  readonly milliseconds: number;
}

/** How a call ended: at once (`returned`, `threw`), or when its promise or generator ended. */
type Outcome =
  | { readonly status: "returned" | "resolved"; readonly value: unknown }
  | { readonly status: "threw" | "rejected"; readonly error: unknown };

/** Measures how long calls take. */
class CallTimer {
  readonly #onSample: CallTimerOptions["onSample"];
  readonly #clock: { now(): number };
  readonly #report = reportOnce("timing");

  constructor({ onSample, clock }: CallTimerOptions) {
    this.#onSample = onSample;
    this.#clock = clock ?? (globalThis as { readonly performance?: { now(): number } }).performance ?? Date;
  }

  start(): number | undefined {
    try {
      return this.#clock.now();
    } catch (error) {
      this.#report(error);
      return undefined;
    }
  }

  ended(member: string, status: Outcome["status"], start: number | undefined): void {
    if (start === undefined) return;
    try {
      const answer = this.#onSample(
        { member, status, start, milliseconds: this.#clock.now() - start },
      );
      if (answer instanceof Promise) answer.then(undefined, this.#report);
    } catch (error) {
      this.#report(error);
    }
  }
}

/** Creates a function that prints the first failure of a layer. The calls that it watches are not affected. */
function reportOnce(layer: string): (cause: unknown) => void {
  let isReported = false;
  return (cause) => {
    if (isReported) return;
    isReported = true;
    const { console } = globalThis as {
      readonly console?: { warn(message: string, cause: unknown): void };
    };
    console?.warn(
      `The layer "${layer}" failed. Calls continue without it; further failures are not reported.`,
      cause,
    );
  };
}

/** Calls `ended` with the outcome of a call: at once, or when its promise or generator ends. `ended` must not throw. */
function observe(result: unknown, ended: (outcome: Outcome) => void): void {
  const tag = Object.prototype.toString.call(result);
  const isGenerator = tag === "[object Generator]" || tag === "[object AsyncGenerator]";
  if (isGenerator && Object.isExtensible(result)) observeGenerator(result as Generator, ended);
  else observePromise(result, ended);
}

/** Calls `ended` when a generator ends. */
function observeGenerator(generator: Generator, ended: (outcome: Outcome) => void): void {
  let hasEnded = false;
  const end = (outcome: Outcome) => {
    if (!hasEnded) ended(outcome);
    hasEnded = true;
  };
  const seen = (step: unknown, status: "returned" | "resolved") => {
    const { done, value } = step as IteratorResult<unknown>;
    if (done) end({ status, value });
  };
  for (const name of ["next", "return", "throw"] as const) {
    const step = generator[name] as (...args: unknown[]) => unknown;
    const value = (...args: unknown[]) => {
      try {
        const taken = step.apply(generator, args);
        if (taken instanceof Promise)
          taken.then(
            (later) => seen(later, "resolved"),
            (error: unknown) => end({ status: "rejected", error }),
          );
        else seen(taken, "returned");
        return taken;
      } catch (error) {
        end({ status: "threw", error });
        throw error;
      }
    };
    // Loops read the methods of a generator from the object, so own methods see each step.
    Object.defineProperty(generator, name, { value, writable: true, configurable: true });
  }
}

/** Calls `ended` when a promise settles. `ended` must not throw. */
function observePromise(result: unknown, ended: (outcome: Outcome) => void): void {
  if (result instanceof Promise)
    result.then(
      (value: unknown) => ended({ status: "resolved", value }),
      (error: unknown) => ended({ status: "rejected", error }),
    );
  else ended({ status: "returned", value: result });
}

