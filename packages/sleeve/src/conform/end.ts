import { host } from "../host.ts";

/** What a promise resolves to, or `undefined` where it does not settle within the milliseconds. */
export function endOf<Value>(promise: PromiseLike<Value>, milliseconds: number): Promise<Value | undefined> {
  return new Promise((resolve, reject) => {
    const timer = host.setTimeout?.(() => resolve(undefined), milliseconds);
    const end = (settle: () => void) => {
      host.clearTimeout?.(timer);
      settle();
    };
    promise.then(
      (value) => end(() => resolve(value)),
      (error: unknown) => end(() => reject(error)),
    );
  });
}
