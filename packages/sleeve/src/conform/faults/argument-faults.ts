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

/** Faults in arguments. */
export const ofArguments: readonly Fault[] = [
  {
    name: "swaps two arguments",
    fits: ({ arity }) => arity > 1,
    change: passing(([former, latter, ...more]) => [latter, former, ...more]),
  },
  {
    name: "drops the last argument",
    fits: ({ arity }) => arity > 0,
    change: passing((args) => args.slice(0, -1)),
  },
  { name: "drops all arguments", fits: ({ arity }) => arity > 0, change: passing(() => []) },
  {
    name: "passes a number off by one",
    fits: args(isNumber),
    change: passing(mapFirst(ifNumber((value) => value + 1))),
  },
  {
    name: "negates a number argument",
    fits: args(isNumber),
    change: passing(mapAll(ifNumber((value) => -value))),
  },
  {
    name: "passes a number in another unit",
    fits: args(isNumber),
    change: passing(mapAll(ifNumber((value) => value * 0.3048))),
  },
  {
    name: "rounds a number argument",
    fits: args((value) => isNumber(value) && !Number.isInteger(value)),
    change: passing(mapAll(ifNumber(Math.round))),
  },
  {
    name: "lower-cases a string argument",
    fits: args((value) => isText(value) && /\p{Lu}/u.test(value as string)),
    change: passing(mapAll(ifText((value) => value.toLowerCase()))),
  },
  {
    name: "truncates a string argument",
    fits: args(isText),
    change: passing(mapAll(ifText((value) => value.slice(0, -1)))),
  },
  {
    name: "passes undefined for null",
    fits: args((value) => value === null),
    change: passing(mapAll((value) => value ?? undefined)),
  },
  {
    name: "drops a field of an argument",
    fits: args(isRecord),
    change: passing(
      mapAll((value) => (isRecord(value) ? Object.fromEntries(Object.entries(value).slice(1)) : value)),
    ),
  },
  {
    name: "drops the last item of an array argument",
    fits: args(isList),
    change: passing(mapAll((value) => (isList(value) ? value.slice(0, -1) : value))),
  },
  {
    name: "mutates an argument",
    fits: args((value) => isRecord(value) || isList(value)),
    change: passing(mapAll(spoiled)),
  },
  {
    name: "calls a callback twice",
    fits: args((value) => typeof value === "function"),
    change: callbacks((callback) => (...args) => {
      callback(...args);
      return callback(...args);
    }),
  },
  {
    name: "never calls a callback",
    fits: args((value) => typeof value === "function"),
    change: callbacks(() => () => undefined),
  },
  {
    name: "swaps the arguments of a callback",
    fits: args((value) => typeof value === "function"),
    change: callbacks(
      (callback) =>
        (former, latter, ...more) =>
          callback(latter, former, ...more),
    ),
  },
];

function spoiled(value: unknown): unknown {
  if (isList(value)) value.length = 0;
  else if (isRecord(value)) for (const key of Object.keys(value)) delete value[key];
  return value;
}
