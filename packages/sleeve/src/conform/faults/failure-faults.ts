import { failing, rethrow } from "./changes.ts";
import type { Fault } from "./fault.ts";

/** Faults in the handling of failed calls. */
export const ofFailures: readonly Fault[] = [
  { name: "swallows an error", fits: ({ hasFailed }) => hasFailed, change: failing(() => undefined) },
  {
    name: "replaces an error",
    fits: ({ hasFailed }) => hasFailed,
    change: failing(() => rethrow(new Error("failed"))),
  },
  {
    name: "throws only the message of an error",
    fits: ({ hasFailed }) => hasFailed,
    change: failing((error) => rethrow((error as Error)?.message ?? error)),
  },
  {
    name: "returns an error as the result",
    fits: ({ hasFailed }) => hasFailed,
    change: failing((error) => error),
  },
  {
    name: "turns a synchronous error into a rejected promise",
    fits: ({ hasFailed, isLater }) => hasFailed && !isLater,
    change: failing((error) => Promise.reject(error)),
  },
  {
    name: "retries a failed call",
    fits: ({ hasFailed }) => hasFailed,
    change: failing((_, again) => again()),
  },
];
