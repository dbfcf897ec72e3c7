import type { Clock } from "./clock.ts";

/** The part of `AbortSignal` that layers use. */
export interface Signal {
  readonly aborted: boolean;
  readonly reason: unknown;
  addEventListener(type: "abort", listener: () => void): void;
  removeEventListener(type: "abort", listener: () => void): void;
}

/**
 * Settles as a promise does, or rejects with the reason of a signal as soon as it is aborted. The work behind the promise
 * goes on, and its result is dropped.
 */
export function unlessAborted<Value>(work: Promise<Value>, signal: Signal | undefined): Promise<Value> {
  if (!signal) return work;
  return new Promise((resolve, reject) => {
    if (signal.aborted) {
      work.catch(() => {});
      return reject(signal.reason);
    }
    const unsubscribe = onAbort(signal, () => reject(signal.reason));
    work.finally(unsubscribe).then(resolve, reject);
  });
}

/** Waits for a number of milliseconds. Rejects with the signal's reason as soon as it is aborted. */
export function pause(clock: Clock, milliseconds: number, signal?: Signal): Promise<void> {
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(signal.reason);
    const unsubscribe =
      signal &&
      onAbort(signal, () => {
        cancel();
        reject(signal.reason);
      });
    const cancel = clock.after(milliseconds, () => {
      unsubscribe?.();
      resolve();
    });
  });
}

interface Subscription {
  readonly callbacks: Set<() => void>;
  readonly listener: () => void;
}

const subscriptions = new WeakMap<Signal, Subscription>();

/**
 * Calls `callback` when a signal is aborted. Returns a function that cancels it. Each signal has one listener, because
 * hosts warn about signals with many.
 */
function onAbort(signal: Signal, callback: () => void): () => void {
  const cached = subscriptions.get(signal) ?? subscribe(signal);
  cached.callbacks.add(callback);
  return () => {
    cached.callbacks.delete(callback);
    if (cached.callbacks.size > 0 || subscriptions.get(signal) !== cached) return;
    subscriptions.delete(signal);
    signal.removeEventListener("abort", cached.listener);
  };
}

function subscribe(signal: Signal): Subscription {
  const callbacks = new Set<() => void>();
  const listener = () => {
    for (const callback of callbacks) callback();
  };
  const subscription = { callbacks, listener };
  subscriptions.set(signal, subscription);
  signal.addEventListener("abort", listener);
  return subscription;
}
