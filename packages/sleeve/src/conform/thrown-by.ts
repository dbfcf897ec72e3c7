import { isPromise } from "./values/schema.ts";

/**
 * Returns what a function throws, or what its promise rejects with; `undefined` if it succeeds.
 *
 * @example
 * import { contract, thrownBy } from "sleeve/conform";
 *
 * interface Tables { parse(text: string): number; isBroken(error: unknown): boolean }
 * const tables = contract<Tables>("Tables", {
 *   examples: { "a broken table is reported": (subject) => subject.isBroken(thrownBy(() => subject.parse("?"))) },
 * });
 */
export function thrownBy(run: () => Promise<unknown>): Promise<unknown>;
export function thrownBy(run: () => unknown): unknown;
export function thrownBy(run: () => unknown): unknown {
  try {
    const result = run();
    if (!isPromise(result)) return undefined;
    return (result as Promise<unknown>).then(
      () => undefined,
      (error: unknown) => error,
    );
  } catch (error) {
    return error;
  }
}
