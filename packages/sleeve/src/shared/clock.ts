import { host } from "./host.ts";

/** Source of the time and of timers. Tests can pass their own. */
export interface Clock {
  /** Returns the time in milliseconds since an arbitrary start. */
  now(): number;
  /** Calls `run` after a delay in milliseconds. Returns a function that cancels it. */
  after(milliseconds: number, run: () => void): () => void;
}

/** The clock of the host. */
export const hostClock: Clock = {
  now: () => (host.performance ?? Date).now(),
  after(milliseconds, run) {
    const timer = host.setTimeout?.(run, milliseconds);
    return () => host.clearTimeout?.(timer);
  },
};
