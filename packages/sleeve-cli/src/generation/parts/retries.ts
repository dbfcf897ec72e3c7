import { systemClock, type TimerClock } from "./system-clock.ts";

export interface RetriesOptions {
  /** Maximum number of attempts, the first included. Default: 3. */
  readonly attempts?: number;
  /** Decides whether an error is worth another attempt. Default: every error. */
  readonly when?: (error: unknown, attempt: number) => boolean;
  /** Delay before the second attempt in milliseconds; it doubles before each further one. Default: 100. */
  readonly delay?: number;
  /** Maximum delay in milliseconds. Default: 10,000. */
  readonly maxDelay?: number;
  /** Random share of each delay, from 0 to 1. Default: 0.5. */
  readonly jitter?: number;
  /** Returns random numbers from 0 up to 1. Default: `Math.random`. */
  readonly random?: () => number;
  readonly clock?: TimerClock;
}

/** Retries calls whose promises reject. The caller gets the last error. */
export class Retries {
  readonly #options: Required<RetriesOptions>;

  constructor(options: RetriesOptions) {
    this.#options = {
      attempts: 3,
      when: () => true,
      delay: 100,
      maxDelay: 10_000,
      jitter: 0.5,
      random: Math.random,
      clock: systemClock,
      ...options,
    };
  }

  run<Result>(call: () => Result): Result {
    const result = call();
    if (!(result instanceof Promise)) return result;
    return result.catch((error: unknown) => this.#again(call, error)) as Result;
  }

  async #again(call: () => unknown, first: unknown): Promise<unknown> {
    const { attempts, when, delay, maxDelay, jitter, random, clock } = this.#options;
    let error = first;
    for (let attempt = 1; attempt < attempts && when(error, attempt); attempt++) {
      const full = Math.min(maxDelay, delay * 2 ** (attempt - 1));
      const pause = full * (1 - jitter * random());
      await new Promise((resolve) => clock.after(pause, () => resolve(undefined)));
      try {
        return await call();
      } catch (later) {
        error = later;
      }
    }
    throw error;
  }
}
