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
 * process did not get to run in, as the machine or the process itself was busy, counts as one part at most.
 */
export function after(milliseconds: number, run: () => void): () => void {
  let left = TICKS;
  let timer: unknown;
  const tick = () => {
    if (left-- === 0) run();
    else timer = host.setTimeout?.(tick, milliseconds / TICKS);
  };
  tick();
  return () => host.clearTimeout?.(timer);
}
