import { SleeveError } from "../errors.ts";
import type { Call, Layer, Next } from "../forward/call.ts";
import { type Clock, hostClock } from "./clock.ts";
import { layer } from "./layer.ts";
import { type Duration, millisecondsOf, wholeNumber } from "./options.ts";
import type { Promising, PromisingOptions } from "./promising.ts";

export interface LimitedOptions<Key extends PropertyKey> extends PromisingOptions<Key> {
  /** How long a call may take, from when it begins. The work itself cannot be stopped; its result is dropped. */
  readonly deadline?: Duration;
  /** How many calls may be under way at a time, over all members that the layer is on and all its subjects. */
  readonly concurrency?: number;
  /** How many more may wait for their turn. As many as come, unless given. */
  readonly queue?: number;
  readonly clock?: Clock;
}

/**
 * Limits how long calls take, and how many of them are under way at a time; further ones wait for their turn, first
 * come, first served.
 *
 * Rejects with `TOO_LATE` after the deadline, and with `QUEUE_FULL` where too many wait already. A member that gives
 * no promise is over at once; it still has to wait for its turn, and answers with a promise then, so keep the layer
 * to members that give promises.
 *
 * @example
 * import { decorate, limited } from "sleeve";
 *
 * const ledger = { book: async (berth: number) => berth };
 * decorate(ledger, limited({ only: ["book"], deadline: "2s", concurrency: 4, queue: 100 }));
 */
export function limited<Key extends PropertyKey = never>(
  options: LimitedOptions<Key>,
): Layer<Promising<NoInfer<Key>>> {
  const { only, clock = hostClock } = options;
  const deadline =
    options.deadline === undefined ? undefined : millisecondsOf(options.deadline, "limited: deadline");
  const concurrency = wholeNumber(options.concurrency ?? Number.POSITIVE_INFINITY, 1, "limited: concurrency");
  const longest = wholeNumber(options.queue ?? Number.POSITIVE_INFINITY, 0, "limited: queue");
  const turns = new Turns(concurrency);

  const timed = (next: Next, call: Call): unknown => {
    const result = next(call);
    return deadline !== undefined && result instanceof Promise
      ? withDeadline(result, deadline, call.member.label, clock)
      : result;
  };
  const inTurn = (next: Next, call: Call): unknown => {
    try {
      const result = timed(next, call);
      if (!(result instanceof Promise)) {
        turns.leave();
        return result;
      }
      return result.finally(() => turns.leave());
    } catch (error) {
      turns.leave();
      throw error;
    }
  };
  return layer<Promising<Key>>(
    "limited",
    {
      call: (next) => (call) => {
        if (concurrency === Number.POSITIVE_INFINITY) return timed(next, call);
        if (turns.enter()) return inTurn(next, call);
        if (turns.waiting >= longest) return Promise.reject(queueFull(call.member.label, longest));
        return turns.wait().then(() => inTurn(next, call));
      },
    },
    only ? { only } : {},
  );
}

/** Who is at work, and who waits to be. */
class Turns {
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

  /** Hands the place on to who has waited longest. */
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

function withDeadline(
  result: Promise<unknown>,
  milliseconds: number,
  member: string,
  clock: Clock,
): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const message = `${member} took longer than its ${milliseconds} ms. Give it longer with \`deadline\`, or find what holds it up.`;
    const callOff = clock.after(milliseconds, () => reject(new SleeveError("TOO_LATE", message)));
    result.finally(callOff).then(resolve, reject);
  });
}

function queueFull(member: string, longest: number): SleeveError {
  const message = `${member} was called while ${longest} calls were waiting already. Call it less often, or let more wait with \`queue\`.`;
  return new SleeveError("QUEUE_FULL", message);
}
