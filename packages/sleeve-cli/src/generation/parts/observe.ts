/** How a call ended: at once (`returned`, `threw`), or when its promise or generator ended. */
export type Outcome =
  | { readonly status: "returned" | "resolved"; readonly value: unknown }
  | { readonly status: "threw" | "rejected"; readonly error: unknown };

/** Calls `ended` when a promise settles. `ended` must not throw. */
export function observePromise(result: unknown, ended: (outcome: Outcome) => void): void {
  if (result instanceof Promise)
    result.then(
      (value: unknown) => ended({ status: "resolved", value }),
      (error: unknown) => ended({ status: "rejected", error }),
    );
  else ended({ status: "returned", value: result });
}

/** Calls `ended` with the outcome of a call: at once, or when its promise or generator ends. `ended` must not throw. */
export function observe(result: unknown, ended: (outcome: Outcome) => void): void {
  const tag = Object.prototype.toString.call(result);
  const isGenerator = tag === "[object Generator]" || tag === "[object AsyncGenerator]";
  if (isGenerator && Object.isExtensible(result)) observeGenerator(result as Generator, ended);
  else observePromise(result, ended);
}

/** Calls `ended` when a generator ends. */
function observeGenerator(generator: Generator, ended: (outcome: Outcome) => void): void {
  let hasEnded = false;
  const end = (outcome: Outcome) => {
    if (!hasEnded) ended(outcome);
    hasEnded = true;
  };
  const seen = (step: unknown, status: "returned" | "resolved") => {
    const { done, value } = step as IteratorResult<unknown>;
    if (done) end({ status, value });
  };
  for (const name of ["next", "return", "throw"] as const) {
    const step = generator[name] as (...args: unknown[]) => unknown;
    const value = (...args: unknown[]) => {
      try {
        const taken = step.apply(generator, args);
        if (taken instanceof Promise)
          taken.then(
            (later) => seen(later, "resolved"),
            (error: unknown) => end({ status: "rejected", error }),
          );
        else seen(taken, "returned");
        return taken;
      } catch (error) {
        end({ status: "threw", error });
        throw error;
      }
    };
    // Loops read the methods of a generator from the object, so own methods see each step.
    Object.defineProperty(generator, name, { value, writable: true, configurable: true });
  }
}
