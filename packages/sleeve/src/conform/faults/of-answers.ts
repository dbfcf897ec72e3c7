import { isIterator, isObject } from "../schema.ts";
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

/** Faults of what comes out. */
export const ofAnswers: readonly Fault[] = [
  {
    name: "the answer is dropped",
    fits: answers((value) => value !== undefined),
    change: answer(() => undefined),
  },
  {
    name: "undefined comes out as null",
    fits: answers((value) => value === undefined),
    change: answer((value) => value ?? null),
  },
  {
    name: "null comes out as undefined",
    fits: answers((value) => value === null),
    change: answer((value) => value ?? undefined),
  },
  {
    name: "a number comes out off by one",
    fits: answers(isNumber),
    change: answer(ifNumber((value) => value + 1)),
  },
  {
    name: "a number comes out in another unit",
    fits: answers(isNumber),
    change: answer(ifNumber((value) => value * 0.3048)),
  },
  {
    name: "a number comes out rounded",
    fits: answers((value) => isNumber(value) && !Number.isInteger(value)),
    change: answer(ifNumber(Math.round)),
  },
  { name: "a number comes out as text", fits: answers(isNumber), change: answer(ifNumber(String)) },
  {
    name: "a yes comes out as a no",
    fits: answers((value) => typeof value === "boolean"),
    change: answer((value) => (typeof value === "boolean" ? !value : value)),
  },
  {
    name: "a text comes out cut short",
    fits: answers(isText),
    change: answer(ifText((value) => value.slice(0, -1))),
  },
  {
    name: "a text comes out in capitals",
    fits: answers(isText),
    change: answer(ifText((value) => value.toUpperCase())),
  },
  {
    name: "a list comes out empty",
    fits: answers(isList),
    change: answer((value) => (Array.isArray(value) ? [] : value)),
  },
  {
    name: "a list comes out reversed",
    fits: answers(isList),
    change: answer((value) => (isList(value) ? value.toReversed() : value)),
  },
  {
    name: "a list comes out without its last item",
    fits: answers(isList),
    change: answer((value) => (isList(value) ? value.slice(0, -1) : value)),
  },
  {
    name: "a field of the answer is dropped",
    fits: answers(isRecord),
    change: answer((value) => (isRecord(value) ? Object.fromEntries(Object.entries(value).slice(1)) : value)),
  },
  {
    name: "a date comes out an hour late",
    fits: answers((value) => value instanceof Date),
    change: answer((value) => (value instanceof Date ? new Date(value.getTime() + 3_600_000) : value)),
  },
  { name: "the iterator is read before it is given", fits: answers(isIterator), change: answer(exhausted) },
  {
    name: "nothing comes out where the object itself should",
    fits: answers((value) => value === SELF_ANSWER),
    change: answer(() => undefined),
  },
  { name: "the answer is kept for ever", change: keeping((given) => given.map(keyText).join()) },
  {
    name: "the answer is kept by the first argument",
    fits: ({ arity }) => arity > 1,
    change: keeping(([first]) => keyText(first)),
  },
];

/** Reads an iterator to its end before it is given. */
function exhausted(value: unknown): unknown {
  if (isObject(value) && typeof Reflect.get(value, Symbol.iterator) === "function")
    for (const each of value as Iterable<unknown>) if (each === exhausted) break;
  return value;
}
