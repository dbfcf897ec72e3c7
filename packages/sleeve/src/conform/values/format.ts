import fc, { stringify } from "fast-check";
import { describe } from "../../forward/subject.ts";
import { Iterated } from "../sequences/iteration.ts";
import { SELF, type StepOutcome } from "../sequences/sequence-run.ts";
import { isPlain } from "./equality.ts";
import { isOneShot, itemsOf } from "./one-shot.ts";
import { isObject, tagOf } from "./schema.ts";

const MAX_LENGTH = 200;

/** Formats a value as one line of JavaScript-like text. */
export function formatValue(value: unknown): string {
  const text = valueCode(value);
  return text.length > MAX_LENGTH ? `${text.slice(0, MAX_LENGTH)} …` : text;
}

/** Returns code that creates a value; instances of unknown classes are only named. */
export function valueCode(value: unknown): string {
  if (!isObject(value)) return primitiveCode(value);
  if (value instanceof Error) return errorText(value);
  if (hasOwnText(value)) return stringify(value);
  if (value instanceof Date)
    return Number.isNaN(value.getTime()) ? "new Date(NaN)" : `new Date("${value.toISOString()}")`;
  if (typeof value === "function") return value.name ? `the function ${value.name}` : "a function";
  if (isPlain(value) || /^(?:Map|Set|RegExp|\w+Array|ArrayBuffer)$/.test(tagOf(value))) {
    try {
      return stringify(value);
    } catch {
      return describe(value);
    }
  }
  if (isOneShot(value)) return `${valueCode(itemsOf(value))}.values()`;
  const tag = tagOf(value);
  return tag !== "Object" && describe(value) === "an object" ? `a ${tag}` : describe(value);
}

function primitiveCode(value: unknown): string {
  if (typeof value === "symbol") return String(value);
  if (typeof value === "number") return Object.is(value, -0) ? "-0" : String(value);
  return stringify(value);
}

/** Whether a value says itself how it is written. */
function hasOwnText(value: object): boolean {
  return typeof Reflect.get(value, fc.toStringMethod) === "function";
}

/** Returns code that creates a value, or an equal one. An object of an unknown class is only described, in a comment. */
export function literal(value: unknown): string {
  if (typeof value === "symbol") return symbolCode(value);
  if (!isObject(value)) return valueCode(value);
  if (value instanceof Error) {
    const isBuiltInError = /^(?:Aggregate|Eval|Range|Reference|Syntax|Type|URI)?Error$/.test(
      value.constructor.name,
    );
    return `new ${isBuiltInError ? value.constructor.name : "Error"}(${JSON.stringify(value.message)})`;
  }
  if (typeof value === "function") return "() => {}";
  const { href } = value as { href?: unknown };
  if (typeof href === "string" && tagOf(value) === "URL") return `new URL(${JSON.stringify(href)})`;
  if (isPlain(value)) return plainCode(value);
  return isCreated(value) ? valueCode(value) : `{ /* ${valueCode(value).replaceAll("*/", "")} */ }`;
}

function symbolCode(symbol: symbol): string {
  const key = Symbol.keyFor(symbol);
  return key === undefined
    ? `Symbol(${JSON.stringify(symbol.description ?? "")})`
    : `Symbol.for(${JSON.stringify(key)})`;
}

/** A plain object, also one that contains itself. */
function plainCode(value: object): string {
  const self = Object.entries(value).find(([, field]) => field === value)?.[0];
  if (!self) return valueCode(value);
  const fields = Object.fromEntries(Object.entries(value).filter(([name]) => name !== self));
  return `((value) => Object.assign(value, { ${JSON.stringify(self)}: value }))(${literal(fields)})`;
}

/** Whether code can create a value, rather than describe it. */
function isCreated(value: object): boolean {
  return (
    isOneShot(value) ||
    hasOwnText(value) ||
    /^(?:Map|Set|RegExp|Date|\w+Array|ArrayBuffer)$/.test(tagOf(value))
  );
}

/** Formats an error. */
export function errorText(error: unknown): string {
  if (!(error instanceof Error)) return `the non-error ${formatValue(error)}`;
  const name = error.name === "Error" && error.constructor ? error.constructor.name : error.name;
  return error.message ? `${name}: ${error.message}` : name;
}

/** Describes how a step ended. */
export function outcomeText({ status, value }: StepOutcome): string {
  switch (status) {
    case "returned":
      return `the result ${valueText(value)}`;
    case "resolved":
      return `a promise of ${valueText(value)}`;
    case "threw":
      return errorText(value);
    case "rejected":
      return `a promise rejected with ${errorText(value)}`;
    case "unsettled":
      return "no end within the timeout";
  }
}

function valueText(value: unknown): string {
  if (value === SELF) return "the object itself";
  if (!(value instanceof Iterated)) return formatValue(value);
  const { reading, values, returned, error } = value;
  const stop = { all: "", return: ", then stopped", throw: ", then an error thrown into it" }[reading];
  const end = returned === undefined ? "" : `, that returns ${formatValue(returned)}`;
  const failure = error === undefined ? "" : `, that throws ${errorText(error)}`;
  return `an iterator of ${formatValue(values)}${stop}${end}${failure}`;
}

/** Returns the message of an assertion error, without its class name. */
export function reasonOf(error: unknown): string {
  return error instanceof Error ? error.message : formatValue(error);
}
