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
