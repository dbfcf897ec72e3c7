import type { Outcome } from "../../shared/outcome.ts";

/** The watcher of one call: a function that receives the outcome, or hooks that also run the call. */
export type Watch = ((outcome: Outcome) => void) | WatchHooks | FailureWatch;

/** Receives failures only. Costs less than a function, because successful calls need no outcome. */
export interface FailureWatch {
  readonly failed: (outcome: Outcome) => void;
}

export interface WatchHooks {
  /** Runs the call, for example in a context. Must call `run` once and return its result. */
  readonly around: (run: () => unknown) => unknown;
  readonly ended: (outcome: Outcome) => void;
}
