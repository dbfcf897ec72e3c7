import { getOwnPropertyDescriptor, isObject, PrivateWeakSet } from "../shared/intrinsics.ts";
import type { Callable } from "../surface/member.ts";
import { functionOf, isAsyncFunction, parameterNames } from "../surface/member-functions.ts";
import type { Call } from "./call.ts";
import { recordOf } from "./wrapper-record.ts";

/**
 * Returns the subject's function that a call reaches.
 *
 * Subjects of one shape share their members, but not the functions that they have as own properties, so those are looked
 * up in each call. Not for layers of a client's own, which must not get the subject's functions.
 */
export function calledFunction({ member, wrapper }: Call): Callable | undefined {
  const shared = functionOf(member);
  if (shared || !member.own || !isObject(wrapper)) return shared;
  const subject = recordOf(wrapper)?.subject;
  const value: unknown = subject && getOwnPropertyDescriptor(subject, member.key)?.value;
  return typeof value === "function" ? (value as Callable) : undefined;
}

/** Returns the names of the parameters of a call, as far as they are known. */
export function calledParameters(call: Call): readonly (string | undefined)[] | undefined {
  const fn = calledFunction(call);
  return fn && parameterNames(fn);
}

const returningPromises = /* @__PURE__ */ new PrivateWeakSet<Callable>();

/** Records that a call has returned a promise. */
export function notePromise(call: Call): void {
  const fn = calledFunction(call);
  if (fn) returningPromises.add(fn);
}

/** Whether a call is known to return a promise: its function is declared `async`, or it has returned one before. */
export function returnsPromise(call: Call): boolean {
  const fn = calledFunction(call);
  return fn !== undefined && (isAsyncFunction(fn) || returningPromises.has(fn));
}
