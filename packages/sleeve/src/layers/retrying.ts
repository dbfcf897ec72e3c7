import type { Call, Layer, Next } from "../forward/call.ts";
import { type Clock, hostClock, pause, type Signal } from "./clock.ts";
import { layer } from "./layer.ts";
import { type Duration, millisecondsOf, wholeNumber } from "./options.ts";
import type { Promising, PromisingOptions } from "./promising.ts";

export interface RetryingOptions<Key extends PropertyKey> extends PromisingOptions<Key> {
  /** How often a call is made in all. 3, unless given. */
  readonly attempts?: number;
  /** Which errors are worth another attempt. All of them, unless given. */
  readonly when?: (error: unknown, attempt: number) => boolean;
  /** How long to wait before the second attempt; it doubles before each further one. 100 ms, unless given. */
  readonly delay?: Duration;
  /** How long it waits at most. 10 s, unless given. */
  readonly longest?: Duration;
  /** How much of each delay is left to chance, from 0 to 1, so that clients do not come back all at once. 0.5, unless given. */
  readonly jitter?: number;
  /** Ends the waiting, and with it the call. */
  readonly signal?: Signal;
  readonly clock?: Clock;
  /** Gives numbers from 0 up to 1. `Math.random`, unless given. */
  readonly random?: () => number;
}

/**
 * Makes a call again when its promise is rejected. The last error is the one that the client gets.
 *
 * Sync stays sync: what a member throws at once is not tried again.
 *
 * @example
 * import { decorate, retrying } from "sleeve";
 *
 * const gauge = { read: async (station: string) => station.length };
 * await decorate(gauge, retrying({ only: ["read"], attempts: 5, delay: "200ms" })).read("Ellery");
 */
export function retrying<Key extends PropertyKey = never>(
  options: RetryingOptions<Key> = {},
): Layer<Promising<NoInfer<Key>>> {
  const { only, when = () => true, jitter = 0.5, signal, clock = hostClock, random = Math.random } = options;
  const attempts = wholeNumber(options.attempts ?? 3, 1, "retrying: attempts");
  const delay = millisecondsOf(options.delay ?? 100, "retrying: delay");
  const longest = millisecondsOf(options.longest ?? "10s", "retrying: longest");

  const again = async (next: Next, call: Call, first: unknown): Promise<unknown> => {
    let error = first;
    for (let attempt = 1; attempt < attempts && !signal?.aborted && when(error, attempt); attempt++) {
      const full = Math.min(longest, delay * 2 ** (attempt - 1));
      await pause(clock, full * (1 - jitter * random()), signal);
      try {
        return await next(call);
      } catch (later) {
        error = later;
      }
    }
    throw error;
  };
  return layer<Promising<Key>>(
    "retrying",
    {
      call: (next) => (call) => {
        const result = next(call);
        return result instanceof Promise
          ? result.catch((error: unknown) => again(next, call, error))
          : result;
      },
    },
    only ? { only } : {},
  );
}
