import { SleeveError } from "../shared/errors.ts";
import {
  every,
  getOwnPropertyDescriptor,
  isObject,
  PrivateWeakSet,
  rejectedPromise,
} from "../shared/intrinsics.ts";
import type { Callable, Member } from "../surface/member.ts";
import { functionOf, isAsyncFunction } from "../surface/member-functions.ts";
import type { Call, Layer, Next } from "./call.ts";
import { recordOf } from "./wrapper-record.ts";

/**
 * Returns the subject's function that a call reaches.
 *
 * Subjects of one shape share their members, but not the functions that they have as own properties, so those are looked
 * up in each call. Not for layers of a client's own, which must not get the subject's functions.
 */
export function calledFunction(member: Member, wrapper: unknown): Callable | undefined {
  const shared = functionOf(member);
  if (shared || !member.own || !isObject(wrapper)) return shared;
  const subject = recordOf(wrapper)?.subject;
  const value: unknown = subject && getOwnPropertyDescriptor(subject, member.key)?.value;
  return typeof value === "function" ? (value as Callable) : undefined;
}

const returningPromises = /* @__PURE__ */ new PrivateWeakSet<Callable>();

/**
 * Returns whether layers may make calls of a member fail that may return promises and, if so, whether it is declared to.
 *
 * A method that subjects share and that is not declared `async` is left to the layers that reject calls, because observing
 * all its results takes time.
 */
export function failingLayers(
  layers: readonly Layer<never>[],
  member: Member,
): { readonly isAsync: boolean } | undefined {
  let mayFail = false;
  let isAsync = false;
  for (let index = 0; index < layers.length; index++) {
    const layer = layers[index] as Layer<never>;
    mayFail ||= layer.mayFail === true;
    isAsync ||= layer.asyncMembers === true && namesMember(layer, member);
  }
  const fn = functionOf(member);
  const mayBeAsync = isAsync || fn === undefined || isAsyncFunction(fn);
  return mayFail && mayBeAsync ? { isAsync } : undefined;
}

function namesMember({ only }: Layer<never>, { key }: Member): boolean {
  return only !== undefined && !every(only as readonly PropertyKey[], (name) => name !== key);
}

/**
 * Returns a method that calls layers, and whose errors arrive as those of the member do: by a rejected promise if the
 * member returns promises.
 */
export function rejectingMethod(
  outermost: Next,
  member: Member,
  isAsync: boolean,
): (this: object, ...args: unknown[]) => unknown {
  return {
    method(this: object, ...args: unknown[]): unknown {
      try {
        const result = outermost({ member, args, wrapper: this, context: undefined });
        return typeof result === "object" ? noted(result, member, this) : result;
      } catch (error) {
        return failLike(member, this, error, isAsync);
      }
    },
  }.method;
}

/** The same for calls that have been described. */
export function rejectingLike(next: Next, isAsync: boolean): Next {
  return (call) => {
    try {
      return noted(next(call), call.member, call.wrapper);
    } catch (error) {
      return failLike(call.member, call.wrapper, error, isAsync);
    }
  };
}

/** Whether the function that a call reaches is declared `async`, or has returned a promise before. */
export function isKnownAsync({ member, wrapper }: Call): boolean {
  const fn = calledFunction(member, wrapper);
  return fn !== undefined && (isAsyncFunction(fn) || returningPromises.has(fn));
}

/** Learns from a result that a member returns promises. */
function noted(result: unknown, member: Member, wrapper: unknown): unknown {
  if (typeof result === "object" && result instanceof Promise)
    noteResult(calledFunction(member, wrapper), result);
  return result;
}

/** Learns from a result whether a function returns promises. Returns the result. */
export function noteResult(fn: Callable | undefined, result: unknown): unknown {
  if (fn && typeof result === "object" && result instanceof Promise) returningPromises.add(fn);
  return result;
}

/** Fails as the member of a call does. */
export function failLike(member: Member, wrapper: unknown, error: unknown, isAsync: boolean): Promise<never> {
  return failAs(calledFunction(member, wrapper), error, isAsync);
}

/**
 * Fails as a function does: rejects if it is declared `async`, or has returned a promise before. In the latter case it may
 * throw errors of its own synchronously, so only those of the library reject.
 */
export function failAs(fn: Callable | undefined, error: unknown, isAsync = false): Promise<never> {
  const isRejected =
    isAsync ||
    (fn !== undefined &&
      (isAsyncFunction(fn) || (returningPromises.has(fn) && error instanceof SleeveError)));
  if (isRejected) return rejectedPromise(error);
  throw error;
}
