import { rejectedPromise } from "../shared/intrinsics.ts";
import type { Callable } from "../surface/member.ts";
import { isAsyncFunction } from "../surface/member-functions.ts";

/**
 * How a function fails because of the library: with a rejected promise if it is known to return promises, otherwise by
 * throwing. A function is known to if it is declared `async`, or after it has returned a promise.
 */
export class FailureMode {
  #isAsync: boolean;

  constructor(fn: Callable | undefined) {
    this.#isAsync = fn !== undefined && isAsyncFunction(fn);
  }

  /** Learns from a result, and returns it. */
  note(result: unknown): unknown {
    if (typeof result === "object" && result instanceof Promise) this.#isAsync = true;
    return result;
  }

  fail(error: unknown): Promise<never> {
    if (!this.#isAsync) throw error;
    return rejectedPromise(error);
  }
}
