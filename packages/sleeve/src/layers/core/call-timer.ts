import { host } from "../../shared/host.ts";
import { requireFunction } from "../../shared/options.ts";
import type { Outcome } from "../../shared/outcome.ts";
import { type Report, reportOnce } from "../../shared/report-once.ts";
import { handleRejection } from "../../shared/thenable.ts";

/** The measurement of one call. */
export interface Sample {
  /** Name of the member. */
  readonly member: string;
  readonly status: Outcome["status"];
  /** Start of the call, by the clock of the layer, in milliseconds. */
  readonly start: number;
  /** Duration in milliseconds, until the call returned or threw, or until its promise or generator ended. */
  readonly milliseconds: number;
}

export interface CallTimerOptions {
  /** Receives each sample: a function of yours, `tally().record` or `userTiming`. */
  readonly onSample: (sample: Sample) => void;
  /** Clock in milliseconds. Default: `performance`, else `Date`. */
  readonly clock?: { now(): number };
}

/** Measures how long calls take. Errors of `onSample` and of the clock are reported once, and never reach the caller. */
export class CallTimer {
  readonly #onSample: (sample: Sample) => unknown;
  readonly #clock: { now(): number };
  readonly #report: Report = reportOnce("timing");

  /** @throws {SleeveError} `BAD_OPTION` */
  constructor({ onSample, clock = host.performance ?? Date }: CallTimerOptions) {
    requireFunction(onSample, "timing: onSample");
    this.#onSample = onSample;
    this.#clock = clock;
  }

  /** Returns the time; `undefined` if the clock fails. */
  start(): number | undefined {
    try {
      return this.#clock.now();
    } catch (error) {
      this.#report(error);
      return undefined;
    }
  }

  /** Passes on the sample of a call that has ended. Throws nothing. */
  ended(member: string, status: Outcome["status"], start: number | undefined): void {
    if (start === undefined) return;
    try {
      const answer = this.#onSample({ member, status, start, milliseconds: this.#clock.now() - start });
      if (typeof answer === "object") handleRejection(answer, this.#report);
    } catch (error) {
      this.#report(error);
    }
  }
}
