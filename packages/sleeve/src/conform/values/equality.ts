import { isObject, tagOf } from "./schema.ts";

/** Decides whether two results are equal. */
export type EqualityFunction = (left: unknown, right: unknown) => boolean;

/**
 * Returns an equality that accepts numbers within a tolerance, anywhere in a value.
 *
 * @param tolerance maximum difference, in the unit of the numbers
 */
export function within(tolerance: number): EqualityFunction {
  return (left, right) =>
    equalValues(left, right, (one, other) => Object.is(one, other) || Math.abs(one - other) <= tolerance);
}

/**
 * Whether two values are deeply equal.
 *
 * Compares primitives, built-in objects, plain objects, arrays, and instances of one class by their fields.
 * Errors are equal by class name, message and code. Instances of two different classes are compared by their
 * JSON form, if they have one. Any two functions are equal.
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
    if (typeof left === "number" && typeof right === "number")
      return this.#numbers(left, right) || (left === 0 && right === 0);
    if (!isObject(left) || !isObject(right) || typeof left !== typeof right) return false;
    if (typeof left === "function") return true;
    const tag = tagOf(left);
    if (tag !== tagOf(right) || isPlain(left) !== isPlain(right)) return false;
    if (this.#pairs.get(left) === right) return true;
    this.#pairs.set(left, right);
    return this.#equalObjects(tag, left, right);
  }

  #equalObjects(tag: string, left: object, right: object): boolean {
    if (Array.isArray(left) && Array.isArray(right))
      return (
        left.length === right.length && left.every((leftItem, index) => this.equal(leftItem, right[index]))
      );
    if (left instanceof Error && right instanceof Error)
      return (
        classOf(left) === classOf(right) && left.message === right.message && this.#equalCodes(left, right)
      );
    if (left instanceof Map && right instanceof Map) return this.equal([...left], [...right]);
    if (left instanceof Set && right instanceof Set) return this.equal([...left], [...right]);
    if (ArrayBuffer.isView(left) && ArrayBuffer.isView(right))
      return this.equal([...(left as Uint8Array)], [...(right as Uint8Array)]);
    if (/^(Date|Number|String|Boolean|BigInt|Symbol)$/.test(tag))
      return Object.is(left.valueOf(), right.valueOf());
    if (/^(Promise|WeakMap|WeakSet|WeakRef|Generator|AsyncGenerator)$/.test(tag)) return true;
    if (/^(RegExp|URL|URLSearchParams)$/.test(tag)) return String(left) === String(right);
    return isPlain(left) || left.constructor === right.constructor
      ? this.#equalFields(left, right)
      : this.#equalForms(left, right);
  }

  /** Instances of different classes are equal if they have equal JSON forms. */
  #equalForms(left: object, right: object): boolean {
    const [one, other] = [left, right].map((item) => Reflect.get(item, "toJSON") as unknown);
    return (
      typeof one !== "function" ||
      typeof other !== "function" ||
      this.equal(one.call(left), other.call(right))
    );
  }

  #equalCodes(left: object, right: object): boolean {
    return this.equal(Reflect.get(left, "code"), Reflect.get(right, "code"));
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
  other: (value: object) => unknown = (item) => item,
  known = new Map<object, unknown>(),
): Value {
  if (!isObject(value)) return value;
  const before = known.get(value);
  // A copy has the type of its original.
  return (before ?? copyObject(value, other, known)) as Value;
}

function copyObject(value: object, other: (value: object) => unknown, known: Map<object, unknown>): unknown {
  const note = <Copy>(copy: Copy): Copy => {
    known.set(value, copy);
    return copy;
  };
  const copy = (item: unknown): unknown => deepCopy(item, other, known);
  if (Array.isArray(value)) {
    const list: unknown[] = note([]);
    for (const item of value) list.push(copy(item));
    return list;
  }
  if (value instanceof Date) return new Date(value.getTime());
  if (value instanceof Map) return new Map([...value].map(([key, each]) => [copy(key), copy(each)]));
  if (value instanceof Set) return new Set([...value].map(copy));
  if (value instanceof Uint8Array) return value.slice();
  if (typeof value === "function" || !isPlain(value)) return note(other(value));
  const record: object = note(Object.create(Object.getPrototypeOf(value)));
  for (const key of Reflect.ownKeys(value)) Reflect.set(record, key, copy(Reflect.get(value, key)));
  return record;
}
