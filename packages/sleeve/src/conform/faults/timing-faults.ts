import { swallow } from "./changes.ts";
import type { Fault, Method } from "./fault.ts";

/** Faults in timing and order. */
export const ofTime: readonly Fault[] = [
  {
    name: "returns a promise of a synchronous result",
    fits: ({ isLater }) => !isLater,
    change:
      (next) =>
      async (...args) =>
        next(...args),
  },
  {
    name: "drops the promise",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      (...args) =>
        void swallow(() => next(...args)),
  },
  {
    name: "returns a promise that never settles",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      (...args) => {
        swallow(() => next(...args));
        return new Promise(() => {});
      },
  },
  {
    name: "defers synchronous work",
    fits: ({ isLater }) => !isLater,
    change:
      (next) =>
      (...args) =>
        void Promise.resolve().then(() => swallow(() => next(...args))),
  },
  {
    name: "resolves before the work is done",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      async (...args) =>
        void swallow(() => next(...args)),
  },
  {
    name: "loses the first of two overlapping calls",
    fits: ({ isLater }) => isLater,
    change: losingOverlaps,
  },
];

function losingOverlaps(next: Method): Method {
  let turn = 0;
  return async (...args) => {
    turn += 1;
    const own = turn;
    const result = await next(...args);
    return own === turn ? result : undefined;
  };
}
