import { describe } from "../../forward/subject.ts";
import { SleeveError } from "../../shared/errors.ts";
import { isPlain } from "../values/equality.ts";
import { isObject, tagOf } from "../values/schema.ts";
import { isRecordableIterator, playedIterator, type RecordedItems } from "./recorded-iterator.ts";

/**
 * Encodes a value as JSON. A value that JSON cannot represent becomes an object with the keys `~`, its kind,
 * and `is`, its content. An object with a key `~` is encoded in this way too.
 *
 * @param self whether an object is the subject itself, or its wrapper
 */
export function encoded(value: unknown, self?: (value: object) => boolean): unknown {
  if (isObject(value) && self?.(value)) return { "~": "self" };
  const item = (one: unknown) => encoded(one, self);
  switch (typeof value) {
    case "undefined":
      return { "~": "undefined" };
    case "bigint":
      return { "~": "bigint", is: String(value) };
    case "number":
      return Number.isFinite(value) && !Object.is(value, -0)
        ? value
        : { "~": "number", is: numberText(value) };
    case "symbol":
      return { "~": "symbol", is: value.description ?? "" };
    case "function":
      return { "~": "function" };
    case "object":
      return value === null ? null : encodedObject(value, item);
    default:
      return value;
  }
}

function numberText(value: number): string {
  return Object.is(value, -0) ? "-0" : String(value);
}

function encodedObject(value: object, encode: (value: unknown) => unknown): unknown {
  if (Array.isArray(value)) return value.map(encode);
  if (value instanceof Date)
    return { "~": "Date", is: Number.isNaN(value.getTime()) ? null : value.toISOString() };
  if (value instanceof Map)
    return { "~": "Map", is: [...value].map(([key, item]) => [encode(key), encode(item)]) };
  if (value instanceof Set) return { "~": "Set", is: [...value].map(encode) };
  if (value instanceof RegExp) return { "~": "RegExp", is: [value.source, value.flags] };
  if (value instanceof Uint8Array) return { "~": "bytes", is: [...value] };
  if (value instanceof Error) return encodedError(value, encode);
  // Reading it here would take its items from the client.
  if (isReadOnce(value)) return { "~": "unrecorded", is: describe(value) };
  const fields = Object.entries(value).map(([key, item]) => [key, encode(item)] as const);
  if (isPlain(value) && !Object.hasOwn(value, "~")) return Object.fromEntries(fields);
  return { "~": isPlain(value) ? "Object" : tagOf(value), is: Object.fromEntries(fields) };
}

/** Whether an object is read by its client, such as an iterator or a stream. */
function isReadOnce(value: object): boolean {
  return isRecordableIterator(value) || Symbol.asyncIterator in value;
}

function encodedError(error: Error, encode: (value: unknown) => unknown): unknown {
  const fields = Object.entries(error).map(([key, item]) => [key, encode(item)] as const);
  return { "~": "Error", is: { ...Object.fromEntries(fields), name: error.name, message: error.message } };
}

/** Represents the subject itself as a result. */
export const SUBJECT = Symbol("the subject itself");

/**
 * Decodes a value; {@link SUBJECT} represents the subject itself. Class instances are decoded as their
 * fields, and functions as functions that do nothing.
 */
export function decoded(value: unknown): unknown {
  if (!isObject(value)) return value;
  if (Array.isArray(value)) return value.map(decoded);
  if (!Object.hasOwn(value, "~")) return decodedFields(value);
  const { "~": kind, is } = value as { "~": unknown; is?: unknown };
  const decode = Object.hasOwn(DECODERS, String(kind)) ? DECODERS[String(kind)] : undefined;
  return decode ? decode(is) : decodedFields(is as object);
}

/** Creates values from what they were encoded as, by kind. */
const DECODERS: Readonly<Record<string, (is: unknown) => unknown>> = {
  self: () => SUBJECT,
  undefined: () => undefined,
  bigint: (is) => BigInt(String(is)),
  number: (is) => Number(is),
  symbol: (is) => Symbol.for(String(is)),
  function: () => () => undefined,
  Date: (is) => new Date(is === null ? Number.NaN : String(is)),
  Map: (is) => new Map((is as [unknown, unknown][]).map(([key, item]) => [decoded(key), decoded(item)])),
  Set: (is) => new Set((is as unknown[]).map(decoded)),
  RegExp: (is) => new RegExp(...(is as [string, string])),
  bytes: (is) => Uint8Array.from(is as number[]),
  generator: (is) => playedIterator(decodedItems(is as RecordedItems), false),
  "async generator": (is) => playedIterator(decodedItems(is as RecordedItems), true),
  unrecorded: (is) => unrecorded(String(is)),
  Error: (is) => decodedError(is as { name: string; message: string }),
};

function decodedItems({ items, returned, error, end }: RecordedItems): RecordedItems {
  return {
    items: items.map(decoded),
    returned: decoded(returned),
    end,
    ...(error !== undefined && { error: decoded(error) }),
  };
}

/** Returns an object in place of one that was not recorded; every use of it fails. */
function unrecorded(kind: string): object {
  const fail = (): never => {
    throw new SleeveError(
      "NOT_RECORDED",
      `The recording has only the kind of this object: ${kind}. Replace it by a fake.`,
    );
  };
  // A promise may resolve to it, and tests print it.
  return new Proxy(
    {},
    { get: (_, key) => (key === "then" || key === Symbol.toStringTag ? undefined : fail()) },
  );
}

function decodedFields(value: object): object {
  return Object.fromEntries(Object.entries(value).map(([key, item]) => [key, decoded(item)]));
}

function decodedError({ name, message, ...fields }: { name: string; message: string }): Error {
  const error = new Error(message);
  Object.defineProperty(error, "name", { value: name, configurable: true, writable: true });
  return Object.assign(error, decodedFields(fields));
}
