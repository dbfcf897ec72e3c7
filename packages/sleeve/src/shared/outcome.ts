import { promiseThen } from "./intrinsics.ts";

/**
 * How a call ended: immediately (`returned`, `threw`), or when its promise settled (`resolved`, `rejected`).
 */
export type Outcome =
  | { readonly status: "returned" | "resolved"; readonly value: unknown }
  | { readonly status: "threw" | "rejected"; readonly error: unknown };

/** Whether a call returned or resolved. */
export function succeeded(outcome: Outcome): outcome is Extract<Outcome, { value: unknown }> {
  return outcome.status === "returned" || outcome.status === "resolved";
}

/**
 * Whether a result settles later: a promise, a generator or an async generator.
 *
 * Only native promises are observed, because subscribing to another thenable may start its work.
 */
export function isPending(result: object): result is Promise<unknown> | Generator {
  return (
    result instanceof Promise || inherits.call(GENERATOR, result) || inherits.call(ASYNC_GENERATOR, result)
  );
}

/**
 * Calls `callback` with the outcome when such a result settles. The result keeps its identity. A rejection
 * that no one else handles counts as handled.
 */
export function onSettled(result: Promise<unknown> | Generator, callback: (outcome: Outcome) => void): void {
  if (result instanceof Promise) {
    // `then` on an instance of a decorated promise class constructs another one, which must not be observed
    // in turn.
    if (isSubscribing) {
      callback({ status: "returned", value: result });
      return;
    }
    isSubscribing = true;
    try {
      promiseThen(
        result,
        (value) => callback({ status: "resolved", value }),
        (error) => callback({ status: "rejected", error }),
      );
    } catch {
      // An object that only inherits from `Promise.prototype`, such as a wrapped promise, cannot be observed.
      callback({ status: "returned", value: result });
    } finally {
      isSubscribing = false;
    }
  } else if (Object.isExtensible(result)) onGeneratorEnd(result, callback);
  else callback({ status: "returned", value: result });
}

/** Calls `callback` with the outcome of a call: at once, or when its promise or generator ends. */
export function observe(result: unknown, callback: (outcome: Outcome) => void): void {
  if (typeof result === "object" && result !== null && isPending(result)) onSettled(result, callback);
  else callback({ status: "returned", value: result });
}

let isSubscribing = false;
const inherits = Object.prototype.isPrototypeOf;
const GENERATOR: object = /* @__PURE__ */ (() => Object.getPrototypeOf(function* () {}).prototype)();
const ASYNC_GENERATOR: object = /* @__PURE__ */ (() =>
  Object.getPrototypeOf(async function* () {}).prototype)();

/** Loops read the methods of a generator from the object, so own methods see each step. */
function onGeneratorEnd(generator: Generator, callback: (outcome: Outcome) => void): void {
  let hasEnded = false;
  const end = (outcome: Outcome) => {
    if (!hasEnded) callback(outcome);
    hasEnded = true;
  };
  const observed = (step: IteratorResult<unknown>, status: "returned" | "resolved") => {
    if (step.done) end({ status, value: step.value });
  };
  for (const name of ["next", "return", "throw"] as const) {
    const step = generator[name] as (
      value: unknown,
    ) => IteratorResult<unknown> | Promise<IteratorResult<unknown>>;
    const value = (...args: [unknown]) => {
      try {
        const result = step.apply(generator, args);
        if (result instanceof Promise) {
          result.then(
            (iteratorResult) => observed(iteratorResult, "resolved"),
            (error) => end({ status: "rejected", error }),
          );
        } else observed(result, "returned");
        return result;
      } catch (error) {
        end({ status: "threw", error });
        throw error;
      }
    };
    Object.defineProperty(generator, name, { value, writable: true, configurable: true });
  }
}
