import { host } from "../host.ts";

/** Tells the time, and when a while of it has passed. Tests hand in one of their own. */
export interface Clock {
  /** The time in milliseconds, from any beginning. */
  now(): number;
  /** Runs something after so many milliseconds. Calling what it gives back calls that off. */
  after(milliseconds: number, run: () => void): () => void;
}

/** The host's own clock. */
export const hostClock: Clock = {
  now: () => (host.performance ?? Date).now(),
  after(milliseconds, run) {
    const timer = host.setTimeout?.(run, milliseconds);
    return () => host.clearTimeout?.(timer);
  },
};

/** What the layers need of an `AbortSignal`. */
export interface Signal {
  readonly aborted: boolean;
  readonly reason: unknown;
  addEventListener(type: "abort", listener: () => void): void;
  removeEventListener(type: "abort", listener: () => void): void;
}

/** Waits so many milliseconds; rejects with the reason as soon as the signal is aborted. */
export function pause(clock: Clock, milliseconds: number, signal?: Signal): Promise<void> {
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(signal.reason);
    const abort = () => {
      callOff();
      reject(signal?.reason);
    };
    const callOff = clock.after(milliseconds, () => {
      signal?.removeEventListener("abort", abort);
      resolve();
    });
    signal?.addEventListener("abort", abort);
  });
}
