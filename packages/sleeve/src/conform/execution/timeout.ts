import { host } from "../../shared/host.ts";
import { watchTimeout } from "./stalls.ts";

/** Returns the value of a promise, or `undefined` if it does not settle within a number of milliseconds. */
export function withTimeout<Value>(
  promise: PromiseLike<Value>,
  milliseconds: number,
): Promise<Value | undefined> {
  return new Promise((resolve, reject) => {
    const stop = afterMilliseconds(milliseconds, () => resolve(undefined));
    const end = (settle: () => void) => {
      stop();
      settle();
    };
    promise.then(
      (value) => end(() => resolve(value)),
      (error: unknown) => end(() => reject(error)),
    );
  });
}

const TICKS = 4;

/**
 * Runs a function after a number of milliseconds, unless cancelled.
 *
 * The delay is divided into parts, and a part in which the process could not run, because it or the machine
 * was busy, counts once. The function never runs early: a timer of the same delay that started earlier fires
 * first.
 */
export function afterMilliseconds(milliseconds: number, run: () => void): () => void {
  const { performance } = host;
  const start = performance?.now() ?? 0;
  const watch = watchTimeout(milliseconds);
  let remaining = TICKS;
  let timer: unknown;
  const tick = () => {
    if (remaining > 0) {
      remaining -= 1;
      timer = host.setTimeout?.(tick, milliseconds / TICKS);
      return;
    }
    // Timers use whole milliseconds and may drop a fraction of each.
    const elapsed = performance ? performance.now() - start : milliseconds + 1;
    const early = milliseconds + 1 - elapsed;
    if (early > 0) timer = host.setTimeout?.(tick, Math.ceil(early));
    else {
      watch.fired();
      run();
    }
  };
  tick();
  return () => host.clearTimeout?.(timer);
}
