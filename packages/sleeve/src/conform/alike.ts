import { isObject, tagOf } from "./schema.ts";

/** Whether two answers count as the same. */
export type Alike = (left: unknown, right: unknown) => boolean;

/**
 * Equality of values that allows numbers to be apart, wherever in a value they are.
 *
 * @param tolerance how far apart they may be, in the unit of the numbers
 */
export function within(tolerance: number): Alike {
  return (left, right) =>
    equalValues(left, right, (one, other) => Object.is(one, other) || Math.abs(one - other) <= tolerance);
}

/**
 * Whether two values are equal all the way down: primitives, what the language makes (dates, maps, sets, bytes), plain
 * objects, lists, and objects of one and the same class by their fields. Errors are equal by class name, message and code.
 * Of objects of two different classes only the JSON form is compared, if they have one: what they hold is their own
 * affair. Functions are equal to functions.
 */
export function equalValues(left: unknown, right: unknown, numbers: NumbersAlike = Object.is): boolean {
  return new Comparison(numbers).equal(left, right);
}

type NumbersAlike = (left: number, right: number) => boolean;

class Comparison {
  readonly #numbers: NumbersAlike;
  /** Pairs under way, for objects that contain themselves. */
  readonly #pairs = new Map<object, object>();

  constructor(numbers: NumbersAlike) {
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
      return left.length === right.length && left.every((each, index) => this.equal(each, right[index]));
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

  /** Objects of different classes are equal where they are equal as JSON, if they have a form in it at all. */
  #equalForms(left: object, right: object): boolean {
    const [one, other] = [left, right].map((each) => Reflect.get(each, "toJSON") as unknown);
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
 * A copy of plain objects, lists, dates, maps, sets and bytes, all the way down, so that whoever writes to it changes
 * nothing else. Anything else is what `other` makes of it: itself, unless given.
 */
export function copied<Value>(
  value: Value,
  other: (value: object) => unknown = (each) => each,
  known = new Map<object, unknown>(),
): Value {
  if (!isObject(value)) return value;
  const before = known.get(value);
  // A copy has the type of what it was made from.
  return (before ?? copyOf(value, other, known)) as Value;
}

function copyOf(value: object, other: (value: object) => unknown, known: Map<object, unknown>): unknown {
  const note = <Copy>(copy: Copy): Copy => {
    known.set(value, copy);
    return copy;
  };
  const copy = (each: unknown): unknown => copied(each, other, known);
  if (Array.isArray(value)) {
    const list: unknown[] = note([]);
    for (const each of value) list.push(copy(each));
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
