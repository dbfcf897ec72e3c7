/** Facts about the built-in objects of the language. */

import { findOnChain } from "../../surface/prototype-chain.ts";

type Constructor = abstract new (...args: never[]) => unknown;

/** The built-in objects, in sets. One pure call, so that bundlers leave it out where it is not used. */
const BUILTINS = /* @__PURE__ */ (() => {
  const constructors: readonly Constructor[] = [
    Object, Function, Array, Boolean, Symbol as never, Number, BigInt as never, String, RegExp, Date, Promise, Map, Set,
    WeakMap, WeakSet, WeakRef, ArrayBuffer, DataView, Error, AggregateError, EvalError, RangeError, ReferenceError,
    SyntaxError, TypeError, URIError, Int8Array, Uint8Array, Uint8ClampedArray, Int16Array, Uint16Array, Int32Array,
    Uint32Array, Float32Array, Float64Array, BigInt64Array, BigUint64Array,
  ]; // biome-ignore format: a list
  const prototypesOf = (chosen: readonly Constructor[]) =>
    new Set<unknown>(chosen.map((builtin) => builtin.prototype));
  const prototypes = prototypesOf(constructors);
  const holdNoObject = constructors.filter(
    (builtin) =>
      builtin !== Array &&
      (ArrayBuffer.isView(builtin.prototype) ||
        /Array$|Buffer|DataView|Date|RegExp|Boolean|Number|String|BigInt|Symbol/.test(builtin.name)),
  );
  return {
    prototypes,
    all: new Set<unknown>([...constructors, ...prototypes]),
    errors: prototypesOf(
      constructors.filter((builtin) => builtin === Error || Object.getPrototypeOf(builtin) === Error),
    ),
    inert: prototypesOf(holdNoObject),
    forEachMethods: new Set<unknown>([Map.prototype.forEach, Set.prototype.forEach]),
  };
})();

/** Whether a value is a built-in constructor or its prototype. */
export function isBuiltin(value: object): boolean {
  return BUILTINS.all.has(value);
}

/**
 * Returns the nearest prototype that exposes nothing of the subject's module: a built-in one, or that of an
 * error class without methods and static members.
 */
export function inertPrototypeOf(value: object): object | null {
  const isInert = (holder: object) => BUILTINS.prototypes.has(holder) || isErrorPrototype(holder);
  return (
    findOnChain(Object.getPrototypeOf(value), (holder) => (isInert(holder) ? holder : undefined)) ?? null
  );
}

function isErrorPrototype(prototype: object): boolean {
  if (BUILTINS.errors.has(prototype)) return true;
  const above: unknown = Object.getPrototypeOf(prototype);
  if (typeof above !== "object" || above === null || !isErrorPrototype(above)) return false;
  return Reflect.ownKeys(prototype).every((key) =>
    key === "constructor" ? isBareClass(Reflect.get(prototype, key)) : holdsNoObject(prototype, key),
  );
}

function isBareClass(value: unknown): boolean {
  const usual: readonly PropertyKey[] = ["name", "length", "prototype"];
  return typeof value === "function" && Reflect.ownKeys(value).every((key) => usual.includes(key));
}

/**
 * Whether an object is a plain built-in value: a date, regular expression, binary data, boxed primitive, or
 * an error whose classes add only a name. Objects with properties that hold other objects do not count.
 */
export function isBuiltinValue(value: object): boolean {
  if (isBuiltin(value)) return true;
  const prototype = Object.getPrototypeOf(value) as object | null;
  if (!prototype || (!BUILTINS.inert.has(prototype) && !isErrorPrototype(prototype))) return false;
  return ArrayBuffer.isView(value) || Reflect.ownKeys(value).every((key) => holdsNoObject(value, key));
}

function holdsNoObject(value: object, key: PropertyKey): boolean {
  const descriptor = Object.getOwnPropertyDescriptor(value, key);
  if (descriptor?.get) return key === "stack";
  const held: unknown = descriptor?.value;
  return (typeof held !== "object" || held === null) && typeof held !== "function";
}

/**
 * Whether the methods of a prototype work on any object through its public properties, so also on a wrapper:
 * those of `Object` and `Function`. Their effects on a wrapper pass through its layers.
 */
export function isGenericHolder(holder: object): boolean {
  return holder === Object.prototype || holder === Function.prototype;
}

/**
 * Returns the built-in tag that only internal slots reveal: `Date`, `RegExp`, `Error`, a boxed primitive. A
 * wrapper must report it itself.
 */
export function tagOf(value: object): string | undefined {
  if (typeof value === "function" || Array.isArray(value) || Symbol.toStringTag in value) return undefined;
  const tag = Object.prototype.toString.call(value).slice(8, -1);
  return tag === "Object" ? undefined : tag;
}

/**
 * Whether a function is a `forEach` of a built-in collection, which passes the collection to its callback.
 */
export function isForEach(fn: unknown): boolean {
  return BUILTINS.forEachMethods.has(fn);
}

/**
 * Returns arguments for such a `forEach` that pass the wrapper to the callback in place of the collection.
 */
export function replaceCallbackSubject(wrapper: object, [callback, receiver]: readonly unknown[]): unknown[] {
  if (typeof callback !== "function") return [callback, receiver];
  return [(value: unknown, key: unknown) => Reflect.apply(callback, receiver, [value, key, wrapper])];
}
