/** Source of the time and of timers. Tests can pass their own. */
export interface TimerClock {
  /** Returns the time in milliseconds since an arbitrary start. */
  now(): number;
  /** Calls `run` after a delay in milliseconds. Returns a function that cancels it. */
  after(milliseconds: number, run: () => void): () => void;
}

interface TimerHost {
  readonly performance?: { now(): number };
  readonly setTimeout: (run: () => void, milliseconds: number) => unknown;
  readonly clearTimeout: (timer: unknown) => void;
}

const timerHost = globalThis as unknown as TimerHost;

export const systemClock: TimerClock = {
  now: () => (timerHost.performance ?? Date).now(),
  after(milliseconds, run) {
    const timer = timerHost.setTimeout(run, milliseconds);
    return () => timerHost.clearTimeout(timer);
  },
};
