import fc, { type Arbitrary } from "fast-check";
import type { StandardSchema } from "../../layers/core/value-checks.ts";
import { SleeveError } from "../../shared/errors.ts";
import { host } from "../../shared/host.ts";
import type { ValueSchema } from "./schema.ts";

/** Represents a callback in generated arguments; each run creates its own, which records its calls. */
export class CallbackValue {
  /** How it is printed in code. */
  [fc.toStringMethod](): string {
    return "(value) => value";
  }
}

/** Returns an arbitrary of all values that a schema allows. Small and awkward values are more frequent. */
export function valuesOf(schema: ValueSchema): Arbitrary<unknown> {
  if (schema.anyOf) return fc.oneof(...schema.anyOf.map(valuesOf));
  if ("const" in schema) return fc.constant(schema.const);
  if (schema.enum) return fc.constantFrom(...schema.enum);
  if (schema.function) return fc.constant(new CallbackValue());
  if (schema.promise) return valuesOf(schema.promise).map((value) => Promise.resolve(value));
  if (schema.iterable) return fc.array(valuesOf(schema.iterable), { maxLength: 4 });
  if (schema.instanceOf !== undefined) return instancesOf(schema.instanceOf);
  if (schema.opaque !== undefined || schema.self) {
    throw badContract(
      `Cannot generate ${schema.opaque ?? "an object of the target's own kind"}: it has members that its type does not declare. ` +
        "Pass generators in the contract's `arguments`.",
    );
  }
  if (schema.type === undefined) return anything();
  const types = typeof schema.type === "string" ? [schema.type] : schema.type;
  return fc.oneof(...types.map((type) => ofType(type, schema)));
}

function ofType(type: string, schema: ValueSchema): Arbitrary<unknown> {
  const { minimum = -1000, maximum = 1000, minLength, maxLength = 8 } = schema;
  switch (type) {
    case "null":
      return fc.constant(null);
    case "undefined":
      return fc.constant(undefined);
    case "boolean":
      return fc.boolean();
    case "integer":
      return fc.integer({ min: minimum, max: Math.max(minimum, maximum) });
    case "number":
      return numbers(minimum, Math.max(minimum, maximum));
    case "bigint":
      return fc.bigInt({ min: -1000n, max: 1000n });
    case "symbol":
      return fc.constantFrom(Symbol.for("a"), Symbol.for("b"));
    case "string":
      return texts(schema, minLength, maxLength);
    case "array":
      return lists(schema);
    case "object":
      return records(schema);
    case "function":
      return fc.constant(new CallbackValue());
    default:
      throw badContract(`Unknown type "${type}" in a schema. Correct it.`);
  }
}

/** Integers and fractions, mostly small, so that calls repeat values. */
function numbers(min: number, max: number): Arbitrary<number> {
  const match = fc.integer({ min: Math.ceil(Math.max(min, -9)), max: Math.floor(Math.min(max, 9)) });
  const broken = fc.double({ min, max, noNaN: true, noDefaultInfinity: true });
  return Math.ceil(Math.max(min, -9)) <= Math.floor(Math.min(max, 9))
    ? fc.oneof({ weight: 3, arbitrary: match }, { weight: 2, arbitrary: broken })
    : broken;
}

function texts({ pattern, format }: ValueSchema, minLength = 0, maxLength = 8): Arbitrary<string> {
  if (pattern !== undefined) return fc.stringMatching(new RegExp(pattern));
  switch (format) {
    case "date-time":
      return dates().map((date) => date.toISOString());
    case "date":
      return dates().map((date) => date.toISOString().slice(0, 10));
    case "uuid":
      return fc.uuid();
    case "email":
      return fc.emailAddress();
    case "uri":
    case "url":
      return fc.webUrl();
    default: {
      const few = ["", "a", "b", "c", "Ellery"].filter(
        ({ length }) => length >= minLength && length <= maxLength,
      );
      const anyText = fc.string({ minLength, maxLength: Math.max(minLength, maxLength) });
      return few.length > 0
        ? fc.oneof({ weight: 3, arbitrary: fc.constantFrom(...few) }, { weight: 1, arbitrary: anyText })
        : anyText;
    }
  }
}

function lists({
  items,
  prefixItems,
  minItems = 0,
  maxItems = 4,
  uniqueItems,
}: ValueSchema): Arbitrary<unknown> {
  if (prefixItems) {
    const first = fc.tuple(...prefixItems.map(valuesOf));
    if (typeof items !== "object") return first;
    return fc
      .tuple(first, fc.array(valuesOf(items), { maxLength: 3 }))
      .map(([some, more]) => [...some, ...more]);
  }
  const arbitrary = typeof items === "object" ? valuesOf(items) : anything();
  const size = { minLength: minItems, maxLength: Math.max(minItems, maxItems) };
  return uniqueItems ? fc.uniqueArray(arbitrary, size) : fc.array(arbitrary, size);
}

function records({ properties = {}, required = [], additionalProperties }: ValueSchema): Arbitrary<unknown> {
  const fields = Object.fromEntries(
    Object.entries(properties).map(([name, field]) => [name, valuesOf(field)]),
  );
  const declaredFields = fc.record(fields, { requiredKeys: [...required] });
  if (typeof additionalProperties !== "object") return declaredFields.map((record) => ({ ...record }));
  const more = fc.dictionary(fc.constantFrom("a", "b", "c"), valuesOf(additionalProperties), { maxKeys: 3 });
  return fc.tuple(declaredFields, more).map(([own, rest]) => ({ ...rest, ...own }));
}

function instancesOf(name: string): Arbitrary<unknown> {
  switch (name) {
    case "Date":
      return dates();
    case "RegExp":
      return fc.constantFrom(/a/, /^b+$/i);
    case "Map":
      return fc.array(fc.tuple(texts({}), numbers(-9, 9)), { maxLength: 3 }).map((item) => new Map(item));
    case "Set":
      return fc.array(texts({}), { maxLength: 3 }).map((item) => new Set(item));
    case "URL":
      return fc.webUrl().map((candidate) => made(name, host.URL && new host.URL(candidate)));
    case "Error":
      return fc.constantFrom("a", "b").map((message) => new Error(message));
    case "Uint8Array":
    case "Buffer":
      return fc.uint8Array({ maxLength: 4 });
    case "AbortSignal":
      return fc
        .constant(undefined)
        .map(() => made(name, host.AbortController && new host.AbortController().signal));
    default:
      throw noneOf(name);
  }
}

function made<Value>(name: string, value: Value | undefined): Value {
  if (value !== undefined) return value;
  throw noneOf(name);
}

function noneOf(name: string): SleeveError {
  return badContract(`Cannot generate ${name}. Pass a generator in the contract's \`arguments\`.`);
}

/** Times within one year, in whole minutes. */
function dates(): Arbitrary<Date> {
  return fc
    .integer({ min: 0, max: 525_599 })
    .map((minute) => new Date(Date.UTC(2031, 0, 1) + minute * 60_000));
}

/** Values of all kinds, for arguments of unknown type. Rare kinds are less frequent. */
export function anything(): Arbitrary<unknown> {
  const common = fc.oneof(
    fc.integer({ min: 0, max: 9 }),
    fc.constantFrom("", "a", "b"),
    fc.boolean(),
    fc.constant(null),
    fc.constant(undefined),
    fc.record({ a: fc.integer({ min: 0, max: 3 }) }, { noNullPrototype: true }),
    fc.array(fc.integer({ min: 0, max: 3 }), { maxLength: 3 }),
  );
  return fc.oneof({ weight: 9, arbitrary: common }, { weight: 1, arbitrary: fc.constantFrom(...RARE) });
}

/** Texts that code tends to change: other alphabets, surrogate pairs, spaces, names of built-in members. */
const RARE_TEXTS = ["é", "ß", "👩‍🚀", " a ", "A", "\n", "__proto__", "constructor", "0", "x".repeat(300)];
const RARE_NUMBERS = [-1, 0.1, 1e21, 2 ** 31, Number.MAX_SAFE_INTEGER];

/** Values that few members expect, and that a member which only stores or passes them must keep. */
const RARE: readonly unknown[] = [
  ...RARE_TEXTS,
  ...RARE_NUMBERS,
  Number.NaN,
  -0,
  Number.POSITIVE_INFINITY,
  3n,
  Symbol.for("a"),
  new Date(Date.UTC(2031, 4, 6)),
  // A sparse array, and one of many items.
  Object.assign(new Array<number>(3), { 1: 2 }),
  Array.from({ length: 300 }, (_, at) => at),
  Object.freeze({ a: 1 }),
  selfReferring(),
  new Map([["a", 1]]),
  new Set([1]),
];

function selfReferring(): object {
  const value: { a: number; self?: object } = { a: 1 };
  value.self = value;
  return value;
}

/** Returns valid but rare values of a schema; `undefined` if there are none. */
export function rareValues({ type, anyOf }: ValueSchema): Arbitrary<unknown> | undefined {
  if (anyOf) {
    const some = anyOf.flatMap((one) => rareValues(one) ?? []);
    return some.length > 0 ? fc.oneof(...some) : undefined;
  }
  if (type === "string") return fc.constantFrom(...RARE_TEXTS);
  return type === "number" ? fc.constantFrom(...RARE_NUMBERS) : undefined;
}

/**
 * Returns an arbitrary of the values that a Standard Schema accepts, from the JSON Schema that its Standard
 * JSON Schema interface provides for its input.
 *
 * @throws {SleeveError} `BAD_CONTRACT` if it provides none
 */
export function valuesOfStandard(schema: StandardSchema): Arbitrary<unknown> {
  const standard = schema["~standard"] as StandardSchema["~standard"] & {
    readonly jsonSchema?: { input(options: { readonly target: string }): ValueSchema };
  };
  if (typeof standard.jsonSchema?.input !== "function") {
    throw badContract(
      `The schema of ${standard.vendor} provides no JSON Schema of its input, so no values can be generated. ` +
        "Pass a fast-check arbitrary instead.",
    );
  }
  const taken = (value: unknown): boolean => {
    const result = standard.validate(value);
    // An asynchronous validation is left to the wrapper.
    return result instanceof Promise || !("issues" in result && result.issues);
  };
  return valuesOf(standard.jsonSchema.input({ target: "draft-2020-12" })).filter(taken);
}

export function badContract(message: string): SleeveError {
  return new SleeveError("BAD_CONTRACT", message);
}
