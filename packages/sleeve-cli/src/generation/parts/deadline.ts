import { layerError } from "./layer-error.ts";
import { systemClock, type TimerClock } from "./system-clock.ts";

export interface DeadlineOptions {
  /** Timeout of a call in milliseconds. The work itself is not cancelled; its result is dropped. */
  readonly timeout: number;
  readonly clock?: TimerClock;
}

/** Limits the duration of calls that return promises. */
export class Deadline {
  readonly #timeout: number;
  readonly #clock: TimerClock;

  constructor({ timeout, clock = systemClock }: DeadlineOptions) {
    this.#timeout = timeout;
    this.#clock = clock;
  }

  /** Returns a promise that rejects with the code `TOO_LATE` after the timeout. Other results are returned as they are. */
  limit<Result>(member: string, result: Result): Result {
    if (!(result instanceof Promise)) return result;
    const timeout = this.#timeout;
    const message = `${member} timed out after ${timeout} ms. Raise \`timeout\`, or find the cause of the delay.`;
    const limited = new Promise<unknown>((resolve, reject) => {
      const cancel = this.#clock.after(timeout, () => reject(layerError("TOO_LATE", message)));
      result.finally(cancel).then(resolve, reject);
    });
    return limited as Result;
  }
}
