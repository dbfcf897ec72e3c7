import { swallow } from "./changes.ts";
import type { Fault, Method } from "./fault.ts";

/** Faults in timing and order. */
export const ofTime: readonly Fault[] = [
  {
    name: "returns a promise of a synchronous result",
    fits: ({ isLater }) => !isLater,
    change:
      (next) =>
      async (...given) =>
        next(...given),
  },
  {
    name: "drops the promise",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      (...given) =>
        void swallow(() => next(...given)),
  },
  {
    name: "returns a promise that never settles",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      (...given) => {
        swallow(() => next(...given));
        return new Promise(() => {});
      },
  },
  {
    name: "defers synchronous work",
    fits: ({ isLater }) => !isLater,
    change:
      (next) =>
      (...given) =>
        void Promise.resolve().then(() => swallow(() => next(...given))),
  },
  {
    name: "resolves before the work is done",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      async (...given) =>
        void swallow(() => next(...given)),
  },
  {
    name: "loses the first of two overlapping calls",
    fits: ({ isLater }) => isLater,
    change: losingOverlaps,
  },
];

function losingOverlaps(next: Method): Method {
  let turn = 0;
  return async (...given) => {
    turn += 1;
    const own = turn;
    const result = await next(...given);
    return own === turn ? result : undefined;
  };
}
