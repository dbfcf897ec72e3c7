import { pause, type Signal } from "../../shared/cancellation.ts";
import { type Clock, hostClock } from "../../shared/clock.ts";
import { type Duration, millisecondsOf, wholeNumber } from "../../shared/options.ts";

export interface RetriesOptions {
  /** Maximum number of attempts, the first included. Default: 3. */
  readonly attempts?: number;
  /** Decides whether an error is worth another attempt. Default: every error. */
  readonly when?: (error: unknown, attempt: number) => boolean;
  /** Delay before the second attempt; it doubles before each further one. Default: 100 ms. */
  readonly delay?: Duration;
  /** Maximum delay. Default: 10 s. */
  readonly maxDelay?: Duration;
  /**
   * Random share of each delay, from 0 to 1, so that clients do not retry at the same moment. Default: 0.5.
   */
  readonly jitter?: number;
  readonly clock?: Clock;
  /** Returns random numbers from 0 up to 1. Default: `Math.random`. */
  readonly random?: () => number;
}

/** Retries calls whose promises reject. The caller gets the last error. */
export class Retries {
  readonly #attempts: number;
  readonly #when: (error: unknown, attempt: number) => boolean;
  readonly #delay: number;
  readonly #maxDelay: number;
  readonly #jitter: number;
  readonly #clock: Clock;
  readonly #random: () => number;

  /** @throws {SleeveError} `BAD_OPTION` */
  constructor({
    attempts = 3,
    when = () => true,
    delay = 100,
    maxDelay = "10s",
    jitter = 0.5,
    clock = hostClock,
    random = Math.random,
  }: RetriesOptions) {
    this.#attempts = wholeNumber(attempts, 1, "retrying: attempts");
    this.#when = when;
    this.#delay = millisecondsOf(delay, "retrying: delay");
    this.#maxDelay = millisecondsOf(maxDelay, "retrying: maxDelay");
    this.#jitter = jitter;
    this.#clock = clock;
    this.#random = random;
  }

  /** Makes a call, and makes it again while its promise rejects and the signal is not aborted. */
  run<Result>(call: () => Result, signal?: Signal): Result {
    const result = call();
    if (!(result instanceof Promise)) return result;
    return result.catch((error: unknown) => this.#again(call, signal, error)) as Result;
  }

  async #again(call: () => unknown, signal: Signal | undefined, firstError: unknown): Promise<unknown> {
    let error = firstError;
    for (
      let attempt = 1;
      attempt < this.#attempts && !signal?.aborted && this.#when(error, attempt);
      attempt++
    ) {
      const longest = Math.min(this.#maxDelay, this.#delay * 2 ** (attempt - 1));
      await pause(this.#clock, longest * (1 - this.#jitter * this.#random()), signal);
      try {
        return await call();
      } catch (laterError) {
        error = laterError;
      }
    }
    throw error;
  }
}
