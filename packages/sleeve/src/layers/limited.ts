import type { Layer } from "../forward/call.ts";
import { requireOptions } from "../shared/options.ts";
import type { AsyncKey, AsyncMembers, AsyncMembersOptions } from "./async-members.ts";
import { CallLimits, type CallLimitsOptions } from "./core/call-limits.ts";
import { layer } from "./layer.ts";

export interface LimitedOptions<Key extends PropertyKey>
  extends AsyncMembersOptions<Key>,
    CallLimitsOptions {}

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
  const optionNames = ["only", "timeout", "concurrency", "releaseOnTimeout", "queue", "clock"];
  requireOptions(options, "limited", optionNames, 'limited({ timeout: "2s", concurrency: 4 })');
  const { only } = options;
  const limits = new CallLimits(options);
  return layer<AsyncMembers<Key>>(
    "limited",
    {
      call: (next) => (call) => limits.run(call.member.label, next, call),
    },
    { ...(only && { only }), asyncMembers: true, limits: true },
  );
}
