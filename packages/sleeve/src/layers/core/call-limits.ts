import { type Clock, hostClock } from "../../shared/clock.ts";
import { SleeveError } from "../../shared/errors.ts";
import { type Duration, millisecondsOf, wholeNumber } from "../../shared/options.ts";
import { Semaphore } from "./semaphore.ts";

export interface CallLimitsOptions {
  /**
   * Timeout of one call, in milliseconds or as `"2s"`, from when it starts to run. The work itself is not
   * cancelled; its result is dropped. Default: none.
   */
  readonly timeout?: Duration;
  /**
   * Maximum number of calls in flight, over all members and subjects that the layer applies to. Default:
   * unlimited.
   */
  readonly concurrency?: number;
  /**
   * Whether a call that timed out no longer counts, although its work may go on. Default: `false`, so that there is never more
   * work in progress than `concurrency` allows. Work that never ends then blocks its place for ever.
   */
  readonly releaseOnTimeout?: boolean;
  /** Maximum number of calls that wait to start. Default: unlimited. */
  readonly queue?: number;
  readonly clock?: Clock;
}

/** Limits the duration of calls that return promises, and the number of calls in flight. Further calls wait, first in, first out. */
export class CallLimits {
  readonly #timeout: number | undefined;
  readonly #isUnlimited: boolean;
  readonly #queue: number;
  readonly #releasesOnTimeout: boolean;
  readonly #clock: Clock;
  readonly #places: Semaphore;
  // `then` with functions made once, which takes less time than `finally`.
  readonly #resolved = (value: unknown): unknown => {
    this.#places.leave();
    return value;
  };
  readonly #rejected = (error: unknown): never => {
    this.#places.leave();
    throw error;
  };

  /** @throws {SleeveError} `BAD_OPTION` */
  constructor({
    timeout,
    concurrency = Number.POSITIVE_INFINITY,
    releaseOnTimeout = false,
    queue = Number.POSITIVE_INFINITY,
    clock = hostClock,
  }: CallLimitsOptions) {
    this.#timeout = timeout === undefined ? undefined : millisecondsOf(timeout, "limited: timeout");
    this.#places = new Semaphore(wholeNumber(concurrency, 1, "limited: concurrency"));
    this.#isUnlimited = concurrency === Number.POSITIVE_INFINITY;
    this.#queue = wholeNumber(queue, 0, "limited: queue");
    this.#releasesOnTimeout = releaseOnTimeout;
    this.#clock = clock;
  }

  /**
   * Makes a call, or queues it. The promise rejects with `TOO_LATE` after the timeout, and with `QUEUE_FULL` if too many calls
   * wait. A result that is no promise is returned as it is, unless the call had to wait.
   */
  run<Result>(member: string, call: () => Result): Result;
  run<Input, Result>(member: string, call: (input: Input) => Result, input: Input): Result;
  run<Input, Result>(member: string, call: (input: Input) => Result, input?: Input): Result {
    return this.#run(member, call, input as Input);
  }

  #run<Input, Result>(member: string, call: (input: Input) => Result, input: Input): Result {
    if (this.#isUnlimited) {
      const result = call(input);
      return result instanceof Promise ? (this.#timed(result, member) as Result) : result;
    }
    if (this.#places.enter()) return this.#inTurn(member, call, input);
    if (this.#places.waiting >= this.#queue) return Promise.reject(queueFull(member, this.#queue)) as Result;
    return this.#places.wait().then(() => this.#inTurn(member, call, input)) as Result;
  }

  #inTurn<Input, Result>(member: string, call: (input: Input) => Result, input: Input): Result {
    let work: Result;
    try {
      work = call(input);
    } catch (error) {
      this.#places.leave();
      throw error;
    }
    if (!(work instanceof Promise)) {
      this.#places.leave();
      return work;
    }
    const limited = this.#releasesOnTimeout
      ? this.#timed(work, member).then(this.#resolved, this.#rejected)
      : this.#timed(work.then(this.#resolved, this.#rejected), member);
    return limited as Result;
  }

  #timed(work: Promise<unknown>, member: string): Promise<unknown> {
    const milliseconds = this.#timeout;
    if (milliseconds === undefined) return work;
    return new Promise((resolve, reject) => {
      const message = `${member} timed out after ${milliseconds} ms. Raise \`timeout\`, or find the cause of the delay.`;
      const cancel = this.#clock.after(milliseconds, () => reject(new SleeveError("TOO_LATE", message)));
      work.finally(cancel).then(resolve, reject);
    });
  }
}

function queueFull(member: string, longest: number): SleeveError {
  const waiting = longest === 1 ? "1 call was" : `${longest} calls were`;
  const message = `${member} was called while ${waiting} waiting. Call it less often, or raise \`queue\`.`;
  return new SleeveError("QUEUE_FULL", message);
}
