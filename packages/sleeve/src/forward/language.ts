/** What belongs to the language itself and not to any subject's world. */

type Constructor = abstract new (...args: never[]) => unknown;

const constructors: readonly Constructor[] = [
  Object, Function, Array, Boolean, Symbol as never, Number, BigInt as never, String, RegExp, Date, Promise, Map, Set,
  WeakMap, WeakSet, WeakRef, ArrayBuffer, DataView, Error, AggregateError, EvalError, RangeError, ReferenceError,
  SyntaxError, TypeError, URIError, Int8Array, Uint8Array, Uint8ClampedArray, Int16Array, Uint16Array, Int32Array,
  Uint32Array, Float32Array, Float64Array, BigInt64Array, BigUint64Array,
]; // biome-ignore format: a list

const prototypes = new Set<unknown>(constructors.map((each) => each.prototype));
const everything = new Set<unknown>([...constructors, ...prototypes]);

/** Whether a value is one of the language's own constructors or their prototypes. */
export function isOfLanguage(value: object): boolean {
  return everything.has(value);
}

/**
 * The prototype of an object that gives nothing away of anyone's world: the nearest of the language's own, or that of a
 * class of errors that has neither methods nor static members, and so nothing but its name.
 */
export function harmlessPrototypeOf(value: object): object | null {
  let each: object | null = Object.getPrototypeOf(value);
  while (each && !prototypes.has(each) && !isOfBareErrors(each)) each = Object.getPrototypeOf(each);
  return each;
}

function isOfBareErrors(prototype: object): boolean {
  if (errors.has(prototype)) return true;
  const above: unknown = Object.getPrototypeOf(prototype);
  if (typeof above !== "object" || above === null || !isOfBareErrors(above)) return false;
  return Reflect.ownKeys(prototype).every((key) =>
    key === "constructor" ? isBareClass(Reflect.get(prototype, key)) : holdsNoObject(prototype, key),
  );
}

function isBareClass(value: unknown): boolean {
  const usual: readonly PropertyKey[] = ["name", "length", "prototype"];
  return typeof value === "function" && Reflect.ownKeys(value).every((key) => usual.includes(key));
}

const errors = new Set<unknown>(
  constructors
    .filter((each) => each === Error || Object.getPrototypeOf(each) === Error)
    .map((each) => each.prototype),
);
const inert = new Set<unknown>(
  constructors
    .filter(
      (each) =>
        ArrayBuffer.isView(each.prototype) ||
        /Array$|Buffer|DataView|Date|RegExp|Boolean|Number|String|BigInt|Symbol/.test(each.name),
    )
    .filter((each) => each !== Array)
    .map((each) => each.prototype),
);

/**
 * Whether an object is a value with nothing of anyone's world in it: dates, patterns, bytes, boxed primitives, and errors
 * of classes that are nothing but a name, as long as nobody has put an object on them.
 */
export function isLanguageValue(value: object): boolean {
  if (isOfLanguage(value)) return true;
  const prototype = Object.getPrototypeOf(value) as object | null;
  if (!prototype || (!inert.has(prototype) && !isOfBareErrors(prototype))) return false;
  return ArrayBuffer.isView(value) || Reflect.ownKeys(value).every((key) => holdsNoObject(value, key));
}

function holdsNoObject(value: object, key: PropertyKey): boolean {
  const descriptor = Object.getOwnPropertyDescriptor(value, key);
  if (descriptor?.get) return key === "stack";
  const held: unknown = descriptor?.value;
  return (typeof held !== "object" || held === null) && typeof held !== "function";
}

/**
 * Whether a prototype is one whose methods work on any object by what it shows, and so on a wrapper as well: those
 * of `Object` and `Function`. What they do to a wrapper passes its layers.
 */
export function isGenericHolder(holder: object): boolean {
  return holder === Object.prototype || holder === Function.prototype;
}

/**
 * What the language calls an object by what it keeps in it, where nothing that can be read tells: `Date`, `RegExp`,
 * `Error`, a boxed primitive. A wrapper has to say so itself.
 */
export function tagOf(value: object): string | undefined {
  if (typeof value === "function" || Array.isArray(value) || Symbol.toStringTag in value) return undefined;
  const tag = Object.prototype.toString.call(value).slice(8, -1);
  return tag === "Object" ? undefined : tag;
}

const visitors = new Set<unknown>([Map.prototype.forEach, Set.prototype.forEach]);

/** Whether a function is one by which the language's collections hand themselves to a callback. */
export function isForEach(fn: unknown): boolean {
  return visitors.has(fn);
}

/** Arguments for such a function that hand a wrapper to the callback in place of the collection. */
export function showingInstead(wrapper: object, [callback, receiver]: readonly unknown[]): unknown[] {
  if (typeof callback !== "function") return [callback, receiver];
  return [(value: unknown, key: unknown) => Reflect.apply(callback, receiver, [value, key, wrapper])];
}
