import {
  args,
  callbacks,
  ifNumber,
  ifText,
  isList,
  isNumber,
  isRecord,
  isText,
  mapAll,
  mapFirst,
  passing,
} from "./changes.ts";
import type { Fault } from "./fault.ts";

/** Faults of what goes in. */
export const ofArguments: readonly Fault[] = [
  {
    name: "two arguments are swapped",
    fits: ({ arity }) => arity > 1,
    change: passing(([one, other, ...more]) => [other, one, ...more]),
  },
  {
    name: "the last argument is dropped",
    fits: ({ arity }) => arity > 0,
    change: passing((given) => given.slice(0, -1)),
  },
  { name: "all arguments are dropped", fits: ({ arity }) => arity > 0, change: passing(() => []) },
  {
    name: "a number goes in off by one",
    fits: args(isNumber),
    change: passing(mapFirst(ifNumber((value) => value + 1))),
  },
  {
    name: "a number goes in with its sign changed",
    fits: args(isNumber),
    change: passing(mapAll(ifNumber((value) => -value))),
  },
  {
    name: "a number goes in in another unit",
    fits: args(isNumber),
    change: passing(mapAll(ifNumber((value) => value * 0.3048))),
  },
  {
    name: "a number goes in rounded",
    fits: args((value) => isNumber(value) && !Number.isInteger(value)),
    change: passing(mapAll(ifNumber(Math.round))),
  },
  {
    name: "a text goes in in lower case",
    fits: args((value) => isText(value) && /\p{Lu}/u.test(value as string)),
    change: passing(mapAll(ifText((value) => value.toLowerCase()))),
  },
  {
    name: "a text goes in cut short",
    fits: args(isText),
    change: passing(mapAll(ifText((value) => value.slice(0, -1)))),
  },
  {
    name: "null goes in as undefined",
    fits: args((value) => value === null),
    change: passing(mapAll((value) => value ?? undefined)),
  },
  {
    name: "a field of an argument is dropped",
    fits: args(isRecord),
    change: passing(
      mapAll((value) => (isRecord(value) ? Object.fromEntries(Object.entries(value).slice(1)) : value)),
    ),
  },
  {
    name: "a list goes in without its last item",
    fits: args(isList),
    change: passing(mapAll((value) => (isList(value) ? value.slice(0, -1) : value))),
  },
  {
    name: "an argument is changed",
    fits: args((value) => isRecord(value) || isList(value)),
    change: passing(mapAll(spoiled)),
  },
  {
    name: "a callback is called twice",
    fits: args((value) => typeof value === "function"),
    change: callbacks((callback) => (...given) => {
      callback(...given);
      return callback(...given);
    }),
  },
  {
    name: "a callback is never called",
    fits: args((value) => typeof value === "function"),
    change: callbacks(() => () => undefined),
  },
  {
    name: "a callback has its arguments swapped",
    fits: args((value) => typeof value === "function"),
    change: callbacks(
      (callback) =>
        (one, other, ...more) =>
          callback(other, one, ...more),
    ),
  },
];

function spoiled(value: unknown): unknown {
  if (isList(value)) value.length = 0;
  else if (isRecord(value)) for (const key of Object.keys(value)) delete value[key];
  return value;
}
