import { isObject, safeGet, tagOf } from "./schema.ts";

/** Decides whether two results are equal. */
export type EqualityFunction = (left: unknown, right: unknown) => boolean;

/**
 * Returns an equality that accepts numbers within a tolerance, anywhere in a value.
 *
 * @param tolerance maximum difference, in the unit of the numbers
 */
export function within(tolerance: number): EqualityFunction {
  return (left, right) =>
    equalValues(
      left,
      right,
      (one, candidate) => Object.is(one, candidate) || Math.abs(one - candidate) <= tolerance,
    );
}

/**
 * Whether two values are deeply equal.
 *
 * Compares primitives (`NaN` equals itself, `0` differs from `-0`), plain objects and arrays by their own properties,
 * built-in objects by their content, and instances of one class by their fields. Errors are equal by class name,
 * message, code and cause. Instances of two different classes are compared by their JSON form, if they have one. Any two
 * functions, promises, generators and weak collections are equal, because their content cannot be read. Of a `Blob`, only
 * size and type can be read synchronously.
 *
 * No package is used: this library has no dependencies, and the equality packages that were examined do not combine
 * tolerances, sparse arrays, shared buffers, headers and blobs.
 */
export function equalValues(left: unknown, right: unknown, numbers: NumberEquality = Object.is): boolean {
  return new ValueComparison(numbers).equal(left, right);
}

type NumberEquality = (left: number, right: number) => boolean;

class ValueComparison {
  readonly #numbers: NumberEquality;
  /** Pairs being compared, for circular objects. */
  readonly #pairs = new Map<object, object>();

  constructor(numbers: NumberEquality) {
    this.#numbers = numbers;
  }

  equal(left: unknown, right: unknown): boolean {
    if (Object.is(left, right)) return true;
    if (typeof left === "number" && typeof right === "number") return this.#numbers(left, right);
    if (!isObject(left) || !isObject(right) || typeof left !== typeof right) return false;
    if (typeof left === "function") return true;
    const tag = tagOf(left);
    if (tag !== tagOf(right) || isPlain(left) !== isPlain(right)) return false;
    if (this.#pairs.get(left) === right) return true;
    this.#pairs.set(left, right);
    return this.#equalObjects(tag, left, right);
  }

  #equalObjects(tag: string, left: object, right: object): boolean {
    if (isPlain(left)) return this.#equalFields(left, right);
    if (left instanceof Error && right instanceof Error)
      return classOf(left) === classOf(right) && this.equal(partsOfError(left), partsOfError(right));
    const read = Object.hasOwn(CONTENT, tag) ? CONTENT[tag] : undefined;
    const contents = read && [left, right].map((item) => readContent(item, read));
    if (contents?.every((content) => content !== undefined)) return this.equal(contents[0], contents[1]);
    if (left.constructor !== right.constructor) return this.#equalForms(left, right);
    return this.#equalFields(left, right) && this.#equalForms(left, right);
  }

  /** Whether two objects have equal JSON forms, or have none. */
  #equalForms(left: object, right: object): boolean {
    const [one, another] = [left, right].map((item) => safeGet(item, "toJSON"));
    return (
      typeof one !== "function" ||
      typeof another !== "function" ||
      this.equal(one.call(left), another.call(right))
    );
  }

  #equalFields(left: object, right: object): boolean {
    const keys = Reflect.ownKeys(left);
    return (
      keys.length === Reflect.ownKeys(right).length &&
      keys.every(
        (key) => Object.hasOwn(right, key) && this.equal(Reflect.get(left, key), Reflect.get(right, key)),
      )
    );
  }
}

function classOf(error: Error): string {
  return error.constructor?.name ?? error.name;
}

function partsOfError(error: Error): readonly unknown[] {
  const { message, cause } = error;
  return [message, Reflect.get(error, "code"), "cause" in error, cause, Reflect.get(error, "errors")];
}

type ReadContent = (value: never) => unknown;

const bytesIn = (buffer: ArrayBufferLike, start = 0, length = buffer.byteLength): string =>
  new Uint8Array(buffer, start, length).join();
const items = (value: Iterable<unknown>) => [...value];
const primitive = (value: object) => [value.valueOf()];
const nothing = () => [];

/** Reads the content of built-in objects, by tag. Bytes are compared exactly, whatever the tolerance of numbers. */
const CONTENT: Readonly<Record<string, ReadContent>> = {
  ArrayBuffer: (buffer: ArrayBuffer) => [buffer.byteLength, bytesIn(buffer)],
  SharedArrayBuffer: (buffer: SharedArrayBuffer) => [buffer.byteLength, bytesIn(buffer)],
  DataView: (view: DataView) => [bytesIn(view.buffer, view.byteOffset, view.byteLength)],
  Int8Array: items,
  Uint8Array: items,
  Uint8ClampedArray: items,
  Int16Array: items,
  Uint16Array: items,
  Int32Array: items,
  Uint32Array: items,
  Float16Array: items,
  Float32Array: items,
  Float64Array: items,
  BigInt64Array: items,
  BigUint64Array: items,
  Date: (date: Date) => [date.getTime()],
  Number: primitive,
  String: primitive,
  Boolean: primitive,
  BigInt: primitive,
  Symbol: primitive,
  RegExp: ({ source, flags, lastIndex }: RegExp) => [source, flags, lastIndex],
  Map: (map: ReadonlyMap<unknown, unknown>) => [...map],
  Set: items,
  URL: (url: { readonly href: string }) => [url.href],
  URLSearchParams: items,
  Headers: items,
  FormData: items,
  Blob: ({ size, type }: { readonly size: number; readonly type: string }) => [size, type],
  File: ({ name, size, type }: { readonly name: string; readonly size: number; readonly type: string }) => [
    name,
    size,
    type,
  ],
  Promise: nothing,
  WeakMap: nothing,
  WeakSet: nothing,
  WeakRef: nothing,
  Generator: nothing,
  AsyncGenerator: nothing,
};

/** Returns the content of an object, or `undefined` if it only claims to be of a built-in kind. */
function readContent(value: object, read: ReadContent): unknown {
  try {
    return read(value as never);
  } catch {
    return undefined;
  }
}

export function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  return prototype === null || prototype === Object.prototype || Array.isArray(value);
}

/**
 * Returns a deep copy of plain objects, arrays, dates, maps, sets and binary data, so that writing to it
 * changes nothing else. Other values are passed to `other`. Default: they are kept.
 */
export function deepCopy<Value>(
  value: Value,
  identityOf: (value: object) => unknown = (item) => item,
  cache = new Map<object, unknown>(),
): Value {
  if (!isObject(value)) return value;
  const before = cache.get(value);
  // A copy has the type of its original.
  return (before ?? copyObject(value, identityOf, cache)) as Value;
}

function copyObject(
  value: object,
  identityOf: (value: object) => unknown,
  copies: Map<object, unknown>,
): unknown {
  const note = <Copy>(copy: Copy): Copy => {
    copies.set(value, copy);
    return copy;
  };
  const copy = (item: unknown): unknown => deepCopy(item, identityOf, copies);
  if (Array.isArray(value)) {
    const list: unknown[] = note(new Array(value.length));
    // Holes stay holes.
    for (const key of Object.keys(value)) Reflect.set(list, key, copy(Reflect.get(value, key)));
    return list;
  }
  if (value instanceof Date) return new Date(value.getTime());
  if (value instanceof Map) return new Map([...value].map(([key, item]) => [copy(key), copy(item)]));
  if (value instanceof Set) return new Set([...value].map(copy));
  if (value instanceof ArrayBuffer) return value.slice();
  if (value instanceof DataView)
    return new DataView(copy(value.buffer) as ArrayBuffer, value.byteOffset, value.byteLength);
  // A typed array, whichever: all have `slice`.
  if (ArrayBuffer.isView(value)) return (value as Uint8Array).slice();
  if (typeof value === "function" || !isPlain(value)) return note(identityOf(value));
  const record: object = note(Object.create(Object.getPrototypeOf(value)));
  for (const key of Reflect.ownKeys(value)) Reflect.set(record, key, copy(Reflect.get(value, key)));
  return record;
}
