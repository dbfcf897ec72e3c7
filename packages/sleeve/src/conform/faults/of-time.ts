import { swallow } from "./changes.ts";
import type { Fault, Method } from "./fault.ts";

/** Faults of when things are done. */
export const ofTime: readonly Fault[] = [
  {
    name: "an answer at once becomes a promise",
    fits: ({ isLater }) => !isLater,
    change:
      (next) =>
      async (...given) =>
        next(...given),
  },
  {
    name: "the promise is dropped",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      (...given) =>
        void swallow(() => next(...given)),
  },
  {
    name: "the promise never settles",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      (...given) => {
        swallow(() => next(...given));
        return new Promise(() => {});
      },
  },
  {
    name: "what is done at once is put off",
    fits: ({ isLater }) => !isLater,
    change:
      (next) =>
      (...given) =>
        void Promise.resolve().then(() => swallow(() => next(...given))),
  },
  {
    name: "it is promised before it is done",
    fits: ({ isLater }) => isLater,
    change:
      (next) =>
      async (...given) =>
        void swallow(() => next(...given)),
  },
  { name: "of calls that overlap the first is lost", fits: ({ isLater }) => isLater, change: losingOverlaps },
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
