/**
 * The built-ins that the engine relies on, captured when the library is loaded, so that replacing them later has no
 * effect on a wrapper.
 *
 * Code that handles a subject behind an access check uses these, index loops and rest parameters. It does not call
 * methods of arrays, maps or promises, and does not iterate or spread, because each of these looks up a built-in that a
 * client can replace by one that captures the subject.
 */

type Callable = (...args: never[]) => unknown;

// One by one, so that bundlers can leave out what is not used.
export const apply = Reflect.apply;
export const construct = Reflect.construct;
export const defineProperty = Reflect.defineProperty;
export const deleteProperty = Reflect.deleteProperty;
export const getProperty = Reflect.get;
export const getOwnPropertyDescriptor = Reflect.getOwnPropertyDescriptor;
export const getPrototypeOf = Reflect.getPrototypeOf;
export const hasProperty = Reflect.has;
export const isExtensible = Reflect.isExtensible;
export const ownKeys = Reflect.ownKeys;
export const preventExtensions = Reflect.preventExtensions;
export const setProperty = Reflect.set;
export const setPrototypeOf = Reflect.setPrototypeOf;

export const createObject = Object.create;
export const hasOwn = Object.hasOwn;
export const isSame = Object.is;
export const isArray = Array.isArray;

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
  const remaining: Item[] = [];
  for (let index = 0; index < list.length; index++) {
    if (!isLeftOut(list[index] as Item)) addTo(remaining, list[index] as Item);
  }
  return remaining;
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
export const promiseThen = /* @__PURE__ */ uncurried(Promise.prototype.then);
/** `Promise.reject`. */
export function rejectedPromise(error: unknown): Promise<never> {
  return new NativePromise((_, reject) => reject(error));
}

/** Whether a value inherits from a prototype. */
export const isInheritedBy = /* @__PURE__ */ uncurried(Object.prototype.isPrototypeOf) as (
  prototype: object,
  value: unknown,
) => boolean;
export const tagText = /* @__PURE__ */ uncurried(Object.prototype.toString) as (value: unknown) => string;
export const sourceText = /* @__PURE__ */ uncurried(Function.prototype.toString) as (fn: unknown) => string;
export const startsWith = /* @__PURE__ */ uncurried(String.prototype.startsWith) as (
  text: string,
  start: string,
) => boolean;
export const endsWith = /* @__PURE__ */ uncurried(String.prototype.endsWith) as (
  text: string,
  end: string,
) => boolean;

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
