import { isIterator, isObject } from "../values/schema.ts";
import {
  answer,
  answers,
  ifNumber,
  ifText,
  isList,
  isNumber,
  isRecord,
  isText,
  keeping,
  keyText,
} from "./changes.ts";
import { type Fault, SELF_ANSWER } from "./fault.ts";

/** Faults in results. */
export const ofAnswers: readonly Fault[] = [
  {
    name: "drops the result",
    fits: answers((value) => value !== undefined),
    change: answer(() => undefined),
  },
  {
    name: "returns null for undefined",
    fits: answers((value) => value === undefined),
    change: answer((value) => value ?? null),
  },
  {
    name: "returns undefined for null",
    fits: answers((value) => value === null),
    change: answer((value) => value ?? undefined),
  },
  {
    name: "returns a number off by one",
    fits: answers(isNumber),
    change: answer(ifNumber((value) => value + 1)),
  },
  {
    name: "returns a number in another unit",
    fits: answers(isNumber),
    change: answer(ifNumber((value) => value * 0.3048)),
  },
  {
    name: "rounds a returned number",
    fits: answers((value) => isNumber(value) && !Number.isInteger(value)),
    change: answer(ifNumber(Math.round)),
  },
  { name: "returns a number as a string", fits: answers(isNumber), change: answer(ifNumber(String)) },
  {
    name: "negates a returned boolean",
    fits: answers((value) => typeof value === "boolean"),
    change: answer((value) => (typeof value === "boolean" ? !value : value)),
  },
  {
    name: "truncates a returned string",
    fits: answers(isText),
    change: answer(ifText((value) => value.slice(0, -1))),
  },
  {
    name: "upper-cases a returned string",
    fits: answers(isText),
    change: answer(ifText((value) => value.toUpperCase())),
  },
  {
    name: "returns an empty array",
    fits: answers(isList),
    change: answer((value) => (Array.isArray(value) ? [] : value)),
  },
  {
    name: "reverses a returned array",
    fits: answers(isList),
    change: answer((value) => (isList(value) ? value.toReversed() : value)),
  },
  {
    name: "drops the last item of a returned array",
    fits: answers(isList),
    change: answer((value) => (isList(value) ? value.slice(0, -1) : value)),
  },
  {
    name: "drops a field of the result",
    fits: answers(isRecord),
    change: answer((value) => (isRecord(value) ? Object.fromEntries(Object.entries(value).slice(1)) : value)),
  },
  {
    name: "returns a date one hour late",
    fits: answers((value) => value instanceof Date),
    change: answer((value) => (value instanceof Date ? new Date(value.getTime() + 3_600_000) : value)),
  },
  { name: "consumes an iterator before returning it", fits: answers(isIterator), change: answer(exhausted) },
  {
    name: "returns undefined for the object itself",
    fits: answers((value) => value === SELF_ANSWER),
    change: answer(() => undefined),
  },
  { name: "caches the first result for ever", change: keeping((args) => args.map(keyText).join()) },
  {
    name: "caches results by the first argument only",
    fits: ({ arity }) => arity > 1,
    change: keeping(([firstArgument]) => keyText(firstArgument)),
  },
];

/** Reads an iterator to its end before returning it. */
function exhausted(value: unknown): unknown {
  if (isObject(value) && typeof Reflect.get(value, Symbol.iterator) === "function")
    for (const item of value as Iterable<unknown>) if (item === exhausted) break;
  return value;
}
