import type { Call, Next } from "../forward/call.ts";
import { calledFunction, isKnownAsync, noteResult } from "../forward/called-function.ts";
import { type Signal, unlessAborted } from "../shared/cancellation.ts";
import { rejectedPromise } from "../shared/intrinsics.ts";
import type { Member } from "../surface/member.ts";

/** A target whose named members return promises: what an asynchronous layer can be applied to. */
export type AsyncMembers<Key extends PropertyKey> = {
  readonly [Each in Key]: (...args: never[]) => PromiseLike<unknown>;
};

/** The members of a target that return promises. */
export type AsyncKey<Target> = {
  [Key in keyof Target]: NonNullable<Target[Key]> extends (...args: never[]) => PromiseLike<unknown>
    ? Key
    : never;
}[keyof Target];

/** Options of a layer that needs members that return promises. */
export interface AsyncMembersOptions<Key extends PropertyKey> {
  /**
   * Members that the layer applies to: names of members that return promises, or a predicate. Other results
   * pass unchanged. Default: all members.
   */
  readonly only?: readonly Key[] | ((member: Member) => boolean);
}

/**
 * Makes a call unless a signal has been aborted, and rejects as soon as it is. A member that is not known to return promises
 * is called in any case, because a synchronous one stays synchronous.
 */
export function callUnlessAborted<Context>(
  next: Next<Context>,
  call: Call<Context>,
  signal: Signal | undefined,
  only: AsyncMembersOptions<PropertyKey>["only"],
): unknown {
  if (!signal) return next(call);
  if (signal.aborted && (typeof only === "object" || isKnownAsync(call)))
    return rejectedPromise(signal.reason);
  const result = next(call);
  if (!(result instanceof Promise)) return result;
  noteResult(calledFunction(call.member, call.wrapper), result);
  return unlessAborted(result, signal);
}
