/**
 * The built-ins that the engine relies on, captured when the library is loaded, so that replacing them later has no
 * effect on a wrapper.
 *
 * Code that handles a subject behind an access check uses these, index loops and rest parameters. It does not call
 * methods of arrays, maps or promises, and does not iterate or spread, because each of these looks up a built-in that a
 * client can replace by one that captures the subject.
 */

type Callable = (...args: never[]) => unknown;

// Cloned, because a client could also replace the properties of the `Reflect` object itself.
export const {
  apply,
  construct,
  defineProperty,
  deleteProperty,
  get: getProperty,
  getOwnPropertyDescriptor,
  getPrototypeOf,
  has: hasProperty,
  isExtensible,
  ownKeys,
  preventExtensions,
  set: setProperty,
  setPrototypeOf,
} = Reflect;

export const { create: createObject, defineProperties, hasOwn, is } = Object;
export const { isArray } = Array;

export const NativeProxy = Proxy;
export const NativePromise = Promise;

/** Returns a genuine array with the items of a list, each read once. Needs no iterator and no setter. */
export function copyList<Item>(list: readonly Item[]): Item[] {
  return apply(listOf, undefined, list as never) as Item[];
}

const listOf = (...items: unknown[]) => items;

/** `Array.prototype.every`, without a method that can be replaced. */
export function every<Item>(list: readonly Item[], test: (item: Item) => boolean): boolean {
  for (let index = 0; index < list.length; index++) if (!test(list[index] as Item)) return false;
  return true;
}

/** Returns a list without the items that fail a test. */
export function without<Item>(list: readonly Item[], isLeftOut: (item: Item) => boolean): Item[] {
  const kept: Item[] = [];
  for (let index = 0; index < list.length; index++) {
    if (!isLeftOut(list[index] as Item)) addTo(kept, list[index] as Item);
  }
  return kept;
}

/** `Array.prototype.push`, without calling a setter that a client may have added to arrays. */
export function addTo<Item>(list: Item[], item: Item): void {
  defineProperty(list, list.length, { value: item, writable: true, enumerable: true, configurable: true });
}

export function isObject(value: unknown): value is object {
  return (typeof value === "object" && value !== null) || typeof value === "function";
}

/** Returns a function that calls a method with its receiver as the first argument. */
function uncurried<Method extends Callable>(
  method: Method,
): (receiver: unknown, ...args: Parameters<Method>) => ReturnType<Method> {
  return (receiver, ...args) => apply(method, receiver, args) as ReturnType<Method>;
}

/** `Promise.prototype.then`, with the promise as the first argument. */
export const promiseThen = uncurried(Promise.prototype.then);
/** Whether a value inherits from a prototype. */
export const isInheritedBy = uncurried(Object.prototype.isPrototypeOf) as (
  prototype: object,
  value: unknown,
) => boolean;
export const tagText = uncurried(Object.prototype.toString) as (value: unknown) => string;
export const sourceText = uncurried(Function.prototype.toString) as (fn: unknown) => string;
export const startsWith = uncurried(String.prototype.startsWith) as (text: string, start: string) => boolean;
export const endsWith = uncurried(String.prototype.endsWith) as (text: string, end: string) => boolean;

type Collection = typeof WeakMap | typeof WeakSet | typeof Map | typeof Set;

/** Gives the prototype of a subclass the methods of its base, and nothing that can be replaced later. */
function sealClass(subclass: Collection, base: Collection): void {
  const own = ownKeys(base.prototype);
  for (let index = 0; index < own.length; index++) {
    const key = own[index] as string;
    if (key === "constructor") continue;
    defineProperty(
      subclass.prototype,
      key,
      getOwnPropertyDescriptor(base.prototype, key) as PropertyDescriptor,
    );
  }
  setPrototypeOf(subclass.prototype, null);
  preventExtensions(subclass.prototype);
}

// Subclasses with methods of their own. Their constructors take no entries, because adding entries looks up `add` or `set`.
export const PrivateWeakMap: typeof WeakMap = /* @__PURE__ */ (() => {
  class Sealed<Key extends WeakKey, Value> extends WeakMap<Key, Value> {}
  sealClass(Sealed as never, WeakMap);
  return Sealed as typeof WeakMap;
})();
export const PrivateWeakSet: typeof WeakSet = /* @__PURE__ */ (() => {
  class Sealed<Value extends WeakKey> extends WeakSet<Value> {}
  sealClass(Sealed as never, WeakSet);
  return Sealed as typeof WeakSet;
})();
export const PrivateMap: typeof Map = /* @__PURE__ */ (() => {
  class Sealed<Key, Value> extends Map<Key, Value> {}
  sealClass(Sealed as never, Map);
  return Sealed as typeof Map;
})();
export const PrivateSet: typeof Set = /* @__PURE__ */ (() => {
  class Sealed<Value> extends Set<Value> {}
  sealClass(Sealed as never, Set);
  return Sealed as typeof Set;
})();
