/** The callback that Node.js code calls: with an error, or with `null` and a result. */
export type Callback<Result> = (error: unknown, result?: Result) => void;

/**
 * Turns the result of a callback into a promise. The first call of the callback counts.
 *
 * @example
 * import { fromCallback } from "sleeve";
 *
 * declare const feed: { requestLevel(time: string, then: (error: Error | null, feet?: number) => void): void };
 * const feet = await fromCallback<number>((callback) => feed.requestLevel("14:05", callback));
 */
export function fromCallback<Result>(start: (callback: Callback<Result>) => unknown): Promise<Result> {
  return new Promise((resolve, reject) => {
    start((error, result) => {
      if (error) reject(error);
      // Whether there is a result at all is between the outside code and the type it declares.
      else resolve(result as Result);
    });
  });
}
