import { host } from "../host.ts";

/** What a promise resolves to, or `undefined` where it does not settle within the milliseconds. */
export function endOf<Value>(promise: PromiseLike<Value>, milliseconds: number): Promise<Value | undefined> {
  return new Promise((resolve, reject) => {
    const stop = after(milliseconds, () => resolve(undefined));
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
 * Runs something after so many milliseconds, unless it is stopped before. They are waited for in parts, so that what the
 * process did not get to run in, as the machine or the process itself was busy, counts as one part at most. It is never too
 * early: what has a deadline of its own of the same length, and began before, ends before.
 */
export function after(milliseconds: number, run: () => void): () => void {
  const { performance } = host;
  const start = performance?.now() ?? 0;
  let left = TICKS;
  let timer: unknown;
  const tick = () => {
    if (left > 0) {
      left -= 1;
      timer = host.setTimeout?.(tick, milliseconds / TICKS);
      return;
    }
    // Timers count in whole milliseconds, and may leave out a part of each.
    const early = performance ? milliseconds + 1 - (performance.now() - start) : 0;
    if (early > 0) timer = host.setTimeout?.(tick, Math.ceil(early));
    else run();
  };
  tick();
  return () => host.clearTimeout?.(timer);
}
