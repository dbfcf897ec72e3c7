import type { Call, Layer } from "../forward/call.ts";
import type { Signal } from "../shared/cancellation.ts";
import { requireFunction, requireOptions } from "../shared/options.ts";
import {
  type AsyncKey,
  type AsyncMembers,
  type AsyncMembersOptions,
  callUnlessAborted,
} from "./async-members.ts";
import { Retries, type RetriesOptions } from "./core/retries.ts";
import { layer } from "./layer.ts";

export interface RetryingOptions<Key extends PropertyKey, Context = unknown>
  extends AsyncMembersOptions<Key>,
    RetriesOptions {
  /**
   * Ends the call, also while an attempt or a delay is in progress: its promise rejects with the reason of the signal at once.
   * A call that is made after the signal was aborted does not reach the subject. Default: none.
   */
  readonly signal?: Signal;
  /** Returns the signal of a request, with `inContext`, in place of `signal`. Default: none. */
  readonly signalFor?: (context: Context) => Signal;
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
  const optionNames = [
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
  requireOptions(options, "retrying", optionNames, "retrying({ attempts: 5 })");
  const { only, signalFor } = options;
  const retries = new Retries(options);
  if (signalFor !== undefined) requireFunction(signalFor, "retrying: signalFor");
  const signalOf = (call: Call<Context>) => (signalFor ? signalFor(call.context) : options.signal);

  return layer<AsyncMembers<Key>, Context>(
    "retrying",
    {
      call: (next) => (call) => {
        const signal = signalOf(call);
        return retries.run(() => callUnlessAborted(next, call, signal, only), signal);
      },
    },
    { ...(only && { only }), asyncMembers: true, repeats: "errors", needsContext: signalFor !== undefined },
  );
}
