/** Whether a value has a `then` method, as promises have. */
export function isThenable(value: unknown): value is PromiseLike<unknown> {
  if ((typeof value !== "object" || value === null) && typeof value !== "function") return false;
  return typeof (value as { readonly then?: unknown }).then === "function";
}

/** Handles the rejection of a promise that is not awaited, such as that of an asynchronous listener. */
export function handleRejection(result: unknown, report: (error: unknown) => void): void {
  if (typeof result !== "object" || result === null) return;
  try {
    if (isThenable(result)) result.then(undefined, report);
  } catch (error) {
    report(error);
  }
}
