import { stringify } from "fast-check";
import { describe } from "../forward/subject.ts";
import { isPlain } from "./alike.ts";
import { Iterated, SELF, type Seen } from "./play.ts";
import { isObject, tagOf } from "./schema.ts";
import { CallbackValue } from "./values.ts";

const LONGEST = 200;

/** A value in the words of the language, fit for one line of text. */
export function shown(value: unknown): string {
  const text = codeOfValue(value);
  return text.length > LONGEST ? `${text.slice(0, LONGEST)} …` : text;
}

/** A value as code that makes it; objects of classes that nobody knows here are only named. */
export function codeOfValue(value: unknown): string {
  if (typeof value === "number") return Object.is(value, -0) ? "-0" : String(value);
  if (!isObject(value)) return typeof value === "symbol" ? String(value) : stringify(value);
  if (value instanceof Error) return errorText(value);
  if (value instanceof CallbackValue) return stringify(value);
  if (value instanceof Date)
    return Number.isNaN(value.getTime()) ? "new Date(NaN)" : `new Date("${value.toISOString()}")`;
  if (typeof value === "function") return value.name ? `the function ${value.name}` : "a function";
  if (isPlain(value) || /^(Map|Set|RegExp|Uint8Array)$/.test(tagOf(value))) {
    try {
      return stringify(value);
    } catch {
      return describe(value);
    }
  }
  const tag = tagOf(value);
  return tag !== "Object" && describe(value) === "an object" ? `a ${tag}` : describe(value);
}

/** An error as it is told in a text. */
export function errorText(error: unknown): string {
  if (!(error instanceof Error)) return `the non-error ${shown(error)}`;
  const name = error.name === "Error" && error.constructor ? error.constructor.name : error.name;
  return error.message ? `${name}: ${error.message}` : name;
}

/** How a step ended, in words. */
export function seenText({ status, value }: Seen): string {
  switch (status) {
    case "returned":
      return `the answer ${valueText(value)}`;
    case "resolved":
      return `a promise of ${valueText(value)}`;
    case "threw":
      return errorText(value);
    case "rejected":
      return `a promise rejected with ${errorText(value)}`;
    case "unsettled":
      return "no end within the deadline";
  }
}

function valueText(value: unknown): string {
  if (value === SELF) return "the object itself";
  if (!(value instanceof Iterated)) return shown(value);
  const read = `an iterator of ${shown(value.values)}`;
  return value.error === undefined ? read : `${read} and then ${errorText(value.error)}`;
}

/** What an assertion said, without the name of its class, which tells nothing. */
export function reasonOf(error: unknown): string {
  return error instanceof Error ? error.message : shown(error);
}
