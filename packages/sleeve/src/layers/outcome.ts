/** How a call ended: at once (`returned`, `threw`) or when its promise settled (`resolved`, `rejected`). */
export type Outcome =
  | { readonly status: "returned" | "resolved"; readonly value: unknown }
  | { readonly status: "threw" | "rejected"; readonly error: unknown };

/** Whether a call gave its caller what it was asked for. */
export function succeeded(outcome: Outcome): outcome is Extract<Outcome, { value: unknown }> {
  return outcome.status === "returned" || outcome.status === "resolved";
}

/**
 * Whether a result takes its time: a promise, until it settles, a generator or an async generator, until it ends.
 *
 * Only native promises are waited for, since asking another thenable for its outcome may start its work.
 */
export function isOverLater(result: object): result is Promise<unknown> | Generator {
  return (
    result instanceof Promise || inherits.call(GENERATOR, result) || inherits.call(ASYNC_GENERATOR, result)
  );
}

/**
 * Tells how such a result ended. It stays the object that it is, for whom it is a key or an identity. A rejection
 * that nobody else looks at is marked as handled by that.
 */
export function whenOver(result: Promise<unknown> | Generator, told: (outcome: Outcome) => void): void {
  if (result instanceof Promise) {
    // To look at a promise of a decorated class is to construct another, which is not to be looked at in turn.
    if (isLooking) {
      told({ status: "returned", value: result });
      return;
    }
    isLooking = true;
    try {
      Promise.prototype.then.call(
        result,
        (value) => told({ status: "resolved", value }),
        (error) => told({ status: "rejected", error }),
      );
    } finally {
      isLooking = false;
    }
  } else if (Object.isExtensible(result)) whenGeneratorEnded(result, told);
  else told({ status: "returned", value: result });
}

let isLooking = false;
const inherits = Object.prototype.isPrototypeOf;
const GENERATOR: object = Object.getPrototypeOf(function* () {}).prototype;
const ASYNC_GENERATOR: object = Object.getPrototypeOf(async function* () {}).prototype;

/** Every loop asks a generator for its methods, so that own ones in their place see each step. */
function whenGeneratorEnded(generator: Generator, told: (outcome: Outcome) => void): void {
  let isTold = false;
  const end = (outcome: Outcome) => {
    if (!isTold) told(outcome);
    isTold = true;
  };
  const seen = (step: IteratorResult<unknown>, status: "returned" | "resolved") => {
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
            (each) => seen(each, "resolved"),
            (error) => end({ status: "rejected", error }),
          );
        } else seen(result, "returned");
        return result;
      } catch (error) {
        end({ status: "threw", error });
        throw error;
      }
    };
    Object.defineProperty(generator, name, { value, writable: true, configurable: true });
  }
}
