import type { Call, Layer, Next } from "../forward/call.ts";
import { type Clock, hostClock } from "../shared/clock.ts";
import { SleeveError } from "../shared/errors.ts";
import { type Duration, millisecondsOf, requireOptions, wholeNumber } from "../shared/options.ts";
import type { AsyncKey, AsyncMembers, AsyncMembersOptions } from "./async-members.ts";
import { layer } from "./layer.ts";

export interface LimitedOptions<Key extends PropertyKey> extends AsyncMembersOptions<Key> {
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

/**
 * Limits the duration of calls and the number of calls in flight. Further calls wait, first in, first out.
 *
 * Rejects with `TOO_LATE` after the timeout, and with `QUEUE_FULL` if too many calls wait. A member that
 * returns no promise still has to wait to start and then returns a promise, so name only members that return
 * promises.
 *
 * @example
 * import { decorate, limited } from "sleeve";
 *
 * const ledger = { book: async (berth: number) => berth };
 * decorate(ledger, limited({ only: ["book"], timeout: "2s", concurrency: 4, queue: 100 }));
 */
export function limited<Key extends PropertyKey = never>(
  options: LimitedOptions<Key>,
): Layer<AsyncMembers<NoInfer<Key>>>;
export function limited<Target extends object>(options: LimitedOptions<AsyncKey<Target>>): Layer<Target>;
export function limited<Key extends PropertyKey>(options: LimitedOptions<Key>): Layer<AsyncMembers<Key>> {
  const known = ["only", "timeout", "concurrency", "releaseOnTimeout", "queue", "clock"];
  requireOptions(options, "limited", known, 'limited({ timeout: "2s", concurrency: 4 })');
  const { only, releaseOnTimeout = false, clock = hostClock } = options;
  const timeout =
    options.timeout === undefined ? undefined : millisecondsOf(options.timeout, "limited: timeout");
  const concurrency = wholeNumber(options.concurrency ?? Number.POSITIVE_INFINITY, 1, "limited: concurrency");
  const longest = wholeNumber(options.queue ?? Number.POSITIVE_INFINITY, 0, "limited: queue");
  const turns = new Semaphore(concurrency);

  const timed = (work: Promise<unknown>, call: Call): Promise<unknown> =>
    timeout === undefined ? work : withTimeout(work, timeout, call.member.label, clock);
  // `then` with functions made once, which takes less time than `finally`.
  const resolved = (value: unknown): unknown => {
    turns.leave();
    return value;
  };
  const rejected = (error: unknown): never => {
    turns.leave();
    throw error;
  };
  const inTurn = (next: Next, call: Call): unknown => {
    let work: unknown;
    try {
      work = next(call);
    } catch (error) {
      turns.leave();
      throw error;
    }
    if (!(work instanceof Promise)) {
      turns.leave();
      return work;
    }
    return releaseOnTimeout
      ? timed(work, call).then(resolved, rejected)
      : timed(work.then(resolved, rejected), call);
  };
  return layer<AsyncMembers<Key>>(
    "limited",
    {
      call: (next) => (call) => {
        if (concurrency === Number.POSITIVE_INFINITY) {
          const result = next(call);
          return result instanceof Promise ? timed(result, call) : result;
        }
        if (turns.enter()) return inTurn(next, call);
        if (turns.waiting >= longest) return Promise.reject(queueFull(call.member.label, longest));
        return turns.wait().then(() => inTurn(next, call));
      },
    },
    { ...(only && { only }), asyncMembers: true, limits: true },
  );
}

/** Counts the calls in flight, and queues the others. */
class Semaphore {
  #free: number;
  #queue: (() => void)[] = [];
  #head = 0;

  constructor(places: number) {
    this.#free = places;
  }

  get waiting(): number {
    return this.#queue.length - this.#head;
  }

  enter(): boolean {
    if (this.#free === 0) return false;
    this.#free -= 1;
    return true;
  }

  wait(): Promise<void> {
    return new Promise((resolve) => this.#queue.push(resolve));
  }

  /** Starts the call that has waited longest. */
  leave(): void {
    const next = this.#queue[this.#head];
    if (!next) {
      this.#free += 1;
      return;
    }
    this.#head += 1;
    if (this.#head > 1024 && this.#head * 2 > this.#queue.length) {
      this.#queue = this.#queue.slice(this.#head);
      this.#head = 0;
    }
    next();
  }
}

function withTimeout(
  result: Promise<unknown>,
  milliseconds: number,
  member: string,
  clock: Clock,
): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const message = `${member} timed out after ${milliseconds} ms. Raise \`timeout\`, or find the cause of the delay.`;
    const cancel = clock.after(milliseconds, () => reject(new SleeveError("TOO_LATE", message)));
    result.finally(cancel).then(resolve, reject);
  });
}

function queueFull(member: string, maxQueue: number): SleeveError {
  const waiting = maxQueue === 1 ? "1 call was" : `${maxQueue} calls were`;
  const message = `${member} was called while ${waiting} waiting. Call it less often, or raise \`queue\`.`;
  return new SleeveError("QUEUE_FULL", message);
}
