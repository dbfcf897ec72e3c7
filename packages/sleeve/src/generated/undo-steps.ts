/** Undoes completed steps, the last one first. Returns the error to throw, which has `failures` if steps cannot be undone. */
export async function undoSteps(undo: readonly (() => unknown)[], error: unknown): Promise<unknown> {
  const failures: unknown[] = [];
  for (const step of [...undo].reverse()) {
    try {
      await step();
    } catch (failure) {
      failures.push(failure);
    }
  }
  return failures.length === 0 ? error : undoError(error, failures);
}

/** Undoes completed steps of an operation that is synchronous, as `undoSteps` does. */
export function undoStepsNow(undo: readonly (() => unknown)[], error: unknown): unknown {
  const failures: unknown[] = [];
  for (const step of [...undo].reverse()) {
    try {
      step();
    } catch (failure) {
      failures.push(failure);
    }
  }
  return failures.length === 0 ? error : undoError(error, failures);
}

/** Creates the error of an operation that failed with a `cause`, and of which completed steps could not be undone. */
function undoError(cause: unknown, failures: readonly unknown[]): Error {
  const message = `The operation failed, and ${failures.length} of its completed steps cannot be undone.`;
  return Object.assign(new Error(message), { name: "UndoError", cause, failures });
}
