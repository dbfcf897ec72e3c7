import type { Outcome } from "./observe.ts";
import { reportOnce } from "./report-once.ts";

/** The measurement of one call. `start` and `milliseconds` are in milliseconds. */
export interface CallSample {
  readonly member: string;
  readonly status: Outcome["status"];
  readonly start: number;
  readonly milliseconds: number;
}

export interface CallTimerOptions {
  /** Receives each sample. What it throws is printed once, and never reaches the caller. */
  readonly onSample: (sample: CallSample) => unknown;
  /** Clock in milliseconds. Default: `performance`, else `Date`. */
  readonly clock?: { now(): number };
}

/** Measures how long calls take. */
export class CallTimer {
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
      const answer = this.#onSample({ member, status, start, milliseconds: this.#clock.now() - start });
      if (answer instanceof Promise) answer.then(undefined, this.#report);
    } catch (error) {
      this.#report(error);
    }
  }
}
