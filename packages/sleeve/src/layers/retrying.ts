import type { Call, Layer, Next } from "../forward/call.ts";
import { pause, type Signal } from "../shared/cancellation.ts";
import { type Clock, hostClock } from "../shared/clock.ts";
import {
  type Duration,
  millisecondsOf,
  requireFunction,
  requireOptions,
  wholeNumber,
} from "../shared/options.ts";
import {
  type AsyncKey,
  type AsyncMembers,
  type AsyncMembersOptions,
  callUnlessAborted,
} from "./async-members.ts";
import { layer } from "./layer.ts";

export interface RetryingOptions<Key extends PropertyKey, Context = unknown>
  extends AsyncMembersOptions<Key> {
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
  /**
   * Ends the call, also while an attempt or a delay is in progress: its promise rejects with the reason of the signal at once.
   * A call that is made after the signal was aborted does not reach the subject. Default: none.
   */
  readonly signal?: Signal;
  /** Returns the signal of a request, with `inContext`, in place of `signal`. Default: none. */
  readonly signalFor?: (context: Context) => Signal;
  readonly clock?: Clock;
  /** Returns random numbers from 0 up to 1. Default: `Math.random`. */
  readonly random?: () => number;
}

/**
 * Retries a call when its promise rejects. The caller gets the last error.
 *
 * A member stays synchronous: an error that it throws immediately is not retried.
 *
 * @example
 * import { decorate, retrying } from "sleeve";
 *
 * const gauge = { read: async (station: string) => station.length };
 * await decorate(gauge, retrying({ only: ["read"], attempts: 5, delay: "200ms" })).read("Ellery");
 */
export function retrying<Key extends PropertyKey = never, Context = unknown>(
  options?: RetryingOptions<Key, Context>,
): Layer<AsyncMembers<NoInfer<Key>>, Context>;
export function retrying<Target extends object, Context = unknown>(
  options: RetryingOptions<AsyncKey<Target>, Context>,
): Layer<Target, Context>;
export function retrying<Key extends PropertyKey, Context>(
  options: RetryingOptions<Key, Context> = {},
): Layer<AsyncMembers<Key>, Context> {
  const known = [
    "only",
    "attempts",
    "when",
    "delay",
    "maxDelay",
    "jitter",
    "signal",
    "signalFor",
    "clock",
    "random",
  ];
  requireOptions(options, "retrying", known, "retrying({ attempts: 5 })");
  const {
    only,
    when = () => true,
    jitter = 0.5,
    signalFor,
    clock = hostClock,
    random = Math.random,
  } = options;
  const attempts = wholeNumber(options.attempts ?? 3, 1, "retrying: attempts");
  const delay = millisecondsOf(options.delay ?? 100, "retrying: delay");
  const maxDelay = millisecondsOf(options.maxDelay ?? "10s", "retrying: maxDelay");

  if (signalFor !== undefined) requireFunction(signalFor, "retrying: signalFor");
  const signalOf = (call: Call<Context>) => (signalFor ? signalFor(call.context) : options.signal);

  const again = async (
    next: Next<Context>,
    call: Call<Context>,
    signal: Signal | undefined,
    first: unknown,
  ): Promise<unknown> => {
    let error = first;
    for (let attempt = 1; attempt < attempts && !signal?.aborted && when(error, attempt); attempt++) {
      const full = Math.min(maxDelay, delay * 2 ** (attempt - 1));
      await pause(clock, full * (1 - jitter * random()), signal);
      try {
        return await callUnlessAborted(next, call, signal, only);
      } catch (later) {
        error = later;
      }
    }
    throw error;
  };
  return layer<AsyncMembers<Key>, Context>(
    "retrying",
    {
      call: (next) => (call) => {
        const signal = signalOf(call);
        const result = callUnlessAborted(next, call, signal, only);
        return result instanceof Promise
          ? result.catch((error: unknown) => again(next, call, signal, error))
          : result;
      },
    },
    { ...(only && { only }), asyncMembers: true, repeats: "errors", needsContext: signalFor !== undefined },
  );
}
