/** Facts about the built-in objects of the language. */

import { host } from "../../shared/host.ts";
import {
  apply,
  every,
  getOwnPropertyDescriptor,
  getProperty,
  getPrototypeOf,
  isObject,
  ownKeys,
  PrivateMap,
  PrivateSet,
  tagText,
} from "../../shared/intrinsics.ts";
import { findOnChain } from "../../surface/prototype-chain.ts";
import { isRoot } from "../../surface/reflect.ts";

type Constructor = abstract new (...args: never[]) => unknown;

/** The built-in objects, in sets. One pure call, so that bundlers leave it out where it is not used. */
const BUILTINS = /* @__PURE__ */ (() => {
  const constructors: readonly Constructor[] = [
    Object, Function, Array, Boolean, Symbol as never, Number, BigInt as never, String, RegExp, Date, Promise, Map, Set,
    WeakMap, WeakSet, WeakRef, ArrayBuffer, DataView, Error, AggregateError, EvalError, RangeError, ReferenceError,
    SyntaxError, TypeError, URIError, Int8Array, Uint8Array, Uint8ClampedArray, Int16Array, Uint16Array, Int32Array,
    Uint32Array, Float32Array, Float64Array, BigInt64Array, BigUint64Array,
    ...(typeof SharedArrayBuffer === "function" ? [SharedArrayBuffer] : []), ...(host.Buffer ? [host.Buffer] : []),
  ]; // biome-ignore format: a list
  const setOf = (values: readonly unknown[]) => {
    const set = new PrivateSet<unknown>();
    for (const value of values) set.add(value);
    return set;
  };
  const prototypesOf = (chosen: readonly Constructor[]) => setOf(chosen.map((builtin) => builtin.prototype));
  return {
    prototypes: prototypesOf(constructors),
    all: setOf([...constructors, ...constructors.map((builtin) => builtin.prototype)]),
    errors: prototypesOf(
      constructors.filter((builtin) => builtin === Error || Object.getPrototypeOf(builtin) === Error),
    ),
  };
})();

/** Whether a value is a built-in constructor or its prototype. */
export function isBuiltin(value: object): boolean {
  return BUILTINS.all.has(value);
}

/**
 * The prototypes that the language and the host provide besides those above: those that no global variable names, such as
 * that of async functions, and those of the host's classes, such as `AbortSignal` and the event emitters of Node.js.
 */
const PLATFORM = /* @__PURE__ */ (() => {
  const prototypes = new PrivateSet<object>();
  const lazy = new PrivateMap<string, () => unknown>();
  const addChain = (value: object | null) => {
    findOnChain(value, (holder) => void prototypes.add(holder));
  };
  const addClasses = (values: readonly unknown[]) => {
    for (const value of values) {
      const prototype: unknown = typeof value === "function" ? getProperty(value, "prototype") : undefined;
      if (typeof prototype === "object") addChain(prototype);
    }
  };
  for (const fn of [async () => {}, function* () {}, async function* () {}]) {
    addChain(getPrototypeOf(fn));
    addChain((getPrototypeOf(fn) as { readonly prototype?: object }).prototype ?? null);
  }
  const iterators = [
    [].values(),
    new Map().values(),
    new Set().values(),
    ""[Symbol.iterator](),
    "".matchAll(/x/g),
  ];
  for (const value of [...iterators, Int8Array, Int8Array.prototype]) addChain(getPrototypeOf(value));
  for (const name of ownKeys(globalThis) as string[]) {
    const { value, get, enumerable } = getOwnPropertyDescriptor(globalThis, name) as PropertyDescriptor;
    // The platform's classes are not enumerable; a class that a program assigned to a global variable is.
    if (enumerable) continue;
    addClasses(isObject(value) && typeof value !== "function" ? ownValues(value) : [value]);
    // Reading such a variable loads its module, which takes long.
    if (get) lazy.set(name, get);
  }
  for (const name of ["node:events", "node:stream"]) {
    const exported = host.process?.getBuiltinModule?.(name) ?? {};
    addClasses([exported, ...Object.values(exported)]);
  }
  return { prototypes, lazy };
})();

function ownValues(namespace: object): readonly unknown[] {
  return ownKeys(namespace).map((key) => getOwnPropertyDescriptor(namespace, key)?.value);
}

/** Whether a prototype is provided by the language or the host, so that both sides of a membrane have it anyway. */
export function isPlatformPrototype(prototype: object): boolean {
  if (BUILTINS.all.has(prototype) || PLATFORM.prototypes.has(prototype)) return true;
  const Class: unknown = getOwnPropertyDescriptor(prototype, "constructor")?.value;
  const name: unknown =
    typeof Class === "function" ? getOwnPropertyDescriptor(Class, "name")?.value : undefined;
  const get = typeof name === "string" ? PLATFORM.lazy.get(name) : undefined;
  if (!get) return false;
  PLATFORM.lazy.delete(name as string);
  const provided: unknown = apply(get, globalThis, []);
  if (typeof provided === "function") {
    const shown: unknown = getProperty(provided, "prototype");
    if (typeof shown === "object" && shown !== null) PLATFORM.prototypes.add(shown);
  }
  return PLATFORM.prototypes.has(prototype);
}

/**
 * Returns the nearest prototype that exposes nothing of the subject's module: one of the language or the host, or that of an
 * error class without methods and static members.
 */
export function inertPrototypeOf(value: object): object | null {
  const isInert = (holder: object) => isPlatformPrototype(holder) || isErrorPrototype(holder);
  return findOnChain(getPrototypeOf(value), (holder) => (isInert(holder) ? holder : undefined)) ?? null;
}

/** Whether a prototype belongs to a built-in error class or to one that adds only a name. */
export function isErrorPrototype(prototype: object): boolean {
  return isErrorClass(prototype, isErrorPrototype, (key) =>
    key === "constructor" ? isBareClass(getProperty(prototype, key)) : holdsNoObject(prototype, key),
  );
}

/**
 * Whether the instances of an error class have all their state in properties: the class adds at most a `toString`, and marks
 * under symbols, as those of Node.js do.
 */
export function isErrorWithoutMethods(prototype: object): boolean {
  const isPlain = (key: PropertyKey) =>
    typeof key === "symbol" || key === "constructor" || key === "toString" || holdsNoObject(prototype, key);
  return isErrorClass(prototype, isErrorWithoutMethods, isPlain);
}

function isErrorClass(
  prototype: object,
  isAlso: (above: object) => boolean,
  isPlain: (key: PropertyKey) => boolean,
): boolean {
  if (BUILTINS.errors.has(prototype)) return true;
  const above = getPrototypeOf(prototype);
  return above !== null && isAlso(above) && every(ownKeys(prototype), isPlain);
}

function isBareClass(value: unknown): boolean {
  return (
    typeof value === "function" &&
    every(ownKeys(value), (key) => key === "name" || key === "length" || key === "prototype")
  );
}

/** Whether all own properties of an object hold primitive values. */
export function holdsNoObjects(value: object): boolean {
  return every(ownKeys(value), (key) => holdsNoObject(value, key));
}

function holdsNoObject(value: object, key: PropertyKey): boolean {
  const descriptor = getOwnPropertyDescriptor(value, key);
  // Engines differ in whether the `stack` of an error is an accessor.
  if (descriptor?.get || descriptor?.set) return key === "stack" && tagText(value) === "[object Error]";
  const propertyValue: unknown = descriptor?.value;
  return (typeof propertyValue !== "object" || propertyValue === null) && typeof propertyValue !== "function";
}

/**
 * Whether the methods of a prototype work on any object through its public properties, so also on a wrapper:
 * those of `Object` and `Function`. Their effects on a wrapper pass through its layers.
 */
export function isGenericHolder(holder: object): boolean {
  return holder === FUNCTION_PROTOTYPE || isRoot(holder);
}

/** Whether the methods of a prototype work on any object through its properties: also those of arrays. */
export function hasGenericMethods(holder: object): boolean {
  return holder === ARRAY_PROTOTYPE || isGenericHolder(holder);
}

const ARRAY_PROTOTYPE = /* @__PURE__ */ (() => Array.prototype)();
const FUNCTION_PROTOTYPE = /* @__PURE__ */ (() => Function.prototype)();
