import { failing, rethrow } from "./changes.ts";
import type { Fault } from "./fault.ts";

/** Faults of what is done where a call fails. */
export const ofFailures: readonly Fault[] = [
  { name: "an error is swallowed", fits: ({ hasFailed }) => hasFailed, change: failing(() => undefined) },
  {
    name: "an error is replaced by another",
    fits: ({ hasFailed }) => hasFailed,
    change: failing(() => rethrow(new Error("failed"))),
  },
  {
    name: "only the message of an error comes out",
    fits: ({ hasFailed }) => hasFailed,
    change: failing((error) => rethrow((error as Error)?.message ?? error)),
  },
  {
    name: "an error comes out as the answer",
    fits: ({ hasFailed }) => hasFailed,
    change: failing((error) => error),
  },
  {
    name: "an error thrown at once becomes a rejected promise",
    fits: ({ hasFailed, isLater }) => hasFailed && !isLater,
    change: failing((error) => Promise.reject(error)),
  },
  {
    name: "what fails is tried again",
    fits: ({ hasFailed }) => hasFailed,
    change: failing((_, again) => again()),
  },
];
