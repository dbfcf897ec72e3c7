/** A Node.js callback: called with an error, or with `null` and a result. */
export type Callback<Result> = (error: unknown, result?: Result) => void;

/**
 * Returns a promise for the result of a callback. Only the first call of the callback counts.
 *
 * @example
 * import { fromCallback } from "sleeve";
 *
 * declare const feed: { requestLevel(time: string, callback: (error: Error | null, feet?: number) => void): void };
 * const feet = await fromCallback<number>((callback) => feed.requestLevel("14:05", callback));
 */
export function fromCallback<Result>(start: (callback: Callback<Result>) => unknown): Promise<Result> {
  return new Promise((resolve, reject) => {
    start((error, result) => {
      if (error) reject(error);
      // Whether the result may be missing depends on the outside code and its declared type.
      else resolve(result as Result);
    });
  });
}
