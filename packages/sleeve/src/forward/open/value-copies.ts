import {
  apply,
  construct,
  createObject,
  defineProperty,
  deleteProperty,
  every,
  getOwnPropertyDescriptor,
  getProperty,
  getPrototypeOf,
  hasOwn,
  NativePromise,
  ownKeys,
  PrivateMap,
  preventExtensions,
  setPrototypeOf,
} from "../../shared/intrinsics.ts";
import { holdsNoObjects, inertPrototypeOf, isErrorPrototype, isErrorWithoutMethods } from "./builtins.ts";

/** Converts a value to the side of a copy. */
type Convert = (value: unknown) => unknown;

/**
 * Returns a copy of a built-in value that represents it on the other side of a membrane, or `undefined` if a value must
 * be represented by a proxy.
 *
 * A proxy of a date or of binary data is useless to built-in functions, and the value itself would let one side attach
 * objects of its own for the other to find. Binary data shares its bytes with its copy.
 */
export function copyOfBuiltin(value: object): object | undefined {
  try {
    const prototype = getPrototypeOf(value);
    if (prototype === null) return undefined;
    const copy = COPIES.get(prototype);
    if (copy) return holdsNoObjects(value) ? copy(value) : undefined;
    if (isView(value)) return copyOfView(value);
    if (isErrorWithoutMethods(prototype)) return copyOfError(value, prototype);
    return undefined;
  } catch {
    // An object that only inherits from a built-in prototype, or binary data that was transferred.
    return undefined;
  }
}

/**
 * Brings a copy up to date with its original, which may be on either side.
 *
 * @param convert converts the values of properties
 */
export function syncCopy(from: object, to: object, convert: Convert): void {
  if (isView(from)) return;
  try {
    SYNCHRONIZE.get(getPrototypeOf(from) ?? from)?.(from, to);
  } catch {
    // The original has been given another prototype, and has no such state.
  }
  const keys = ownKeys(from);
  for (let index = 0; index < keys.length; index++) copyProperty(from, to, keys[index] as string, convert);
}

function copyProperty(from: object, to: object, key: string | symbol, convert: Convert): void {
  const descriptor = getOwnPropertyDescriptor(from, key);
  const before = getOwnPropertyDescriptor(to, key);
  if (!descriptor || before?.configurable === false || key === "lastIndex") return;
  const { enumerable = false } = descriptor;
  // Engines differ in whether `stack` is a property or an accessor; it is text in either case.
  if (key !== "stack" && (hasOwn(descriptor, "get") || hasOwn(descriptor, "set"))) {
    const get = () => convert(getProperty(from, key));
    if (!before) defineOn(to, key, { get, enumerable });
    return;
  }
  const value = convert(key === "stack" ? getProperty(from, key) : descriptor.value);
  if (before && hasOwn(before, "value") && before.value === value) return;
  defineOn(to, key, { value, enumerable, writable: true });
}

function defineOn(object: object, key: PropertyKey, descriptor: PropertyDescriptor): void {
  // Without a prototype, so that properties added to `Object.prototype` are not taken for attributes.
  const attributes = createObject(null) as PropertyDescriptor;
  const keys = ownKeys(descriptor);
  for (let index = 0; index < keys.length; index++) {
    const name = keys[index] as keyof PropertyDescriptor;
    attributes[name] = descriptor[name] as never;
  }
  attributes.configurable = true;
  defineProperty(object, key, attributes);
}

type Getter = () => unknown;

function getterOf(prototype: object, key: PropertyKey): Getter {
  return getOwnPropertyDescriptor(prototype, key)?.get as Getter;
}

const read = (getter: Getter, value: object): never => apply(getter, value, []) as never;

const { isView } = ArrayBuffer;
const NativeDate = Date;
const NativeRegExp = RegExp;
const NativeDataView = DataView;
const toObject = Object;

const dateTime = Date.prototype.getTime;
const setDateTime = Date.prototype.setTime;
const regExpSource = /* @__PURE__ */ getterOf(RegExp.prototype, "source");
const regExpFlags = /* @__PURE__ */ getterOf(RegExp.prototype, "flags");
const TYPED_ARRAY = /* @__PURE__ */ (() => getPrototypeOf(Uint8Array.prototype) as object)();
const viewOf = (prototype: object) => ({
  buffer: getterOf(prototype, "buffer"),
  byteOffset: getterOf(prototype, "byteOffset"),
  length: getterOf(prototype, prototype === TYPED_ARRAY ? "length" : "byteLength"),
});
const typedArray = /* @__PURE__ */ viewOf(TYPED_ARRAY);
const typedArrayName = /* @__PURE__ */ getterOf(TYPED_ARRAY, Symbol.toStringTag);
const dataView = /* @__PURE__ */ viewOf(DataView.prototype);

/** How values of each built-in class are copied, by prototype. */
const COPIES = /* @__PURE__ */ (() => {
  const copies = new PrivateMap<object, (value: object) => object>();
  copies.set(Date.prototype, (date) => new NativeDate(apply(dateTime, date, [])));
  copies.set(RegExp.prototype, (pattern) => {
    const copy = new NativeRegExp(read(regExpSource, pattern), read(regExpFlags, pattern));
    copy.lastIndex = (pattern as RegExp).lastIndex;
    return copy;
  });
  for (const { prototype } of [Boolean, Number, String, Symbol, BigInt]) {
    const unboxed: () => unknown = prototype.valueOf;
    copies.set(prototype, (boxed) => toObject(apply(unboxed, boxed, [])));
  }
  return copies;
})();

/** Whether objects with a prototype are built-in values: dates, regular expressions and boxed primitives. */
export function isCopied(prototype: object): boolean {
  return COPIES.has(prototype);
}

/** How the internal state of a copy is brought up to date, by prototype. */
const SYNCHRONIZE = /* @__PURE__ */ (() => {
  const all = new PrivateMap<object, (from: object, to: object) => void>();
  all.set(Date.prototype, (from, to) => void apply(setDateTime, to, [apply(dateTime, from, [])]));
  all.set(RegExp.prototype, (from, to) => {
    (to as RegExp).lastIndex = (from as RegExp).lastIndex;
  });
  return all;
})();

type TypedArrayClass = new (buffer: ArrayBuffer, offset: number, length?: number) => object;

/** The classes of typed arrays by name, as the language reports it for any of their instances. */
const TYPED_ARRAYS = /* @__PURE__ */ (() => {
  const classes = new PrivateMap<string, TypedArrayClass>();
  for (const Class of [
    Int8Array, Uint8Array, Uint8ClampedArray, Int16Array, Uint16Array, Int32Array, Uint32Array, Float32Array,
    Float64Array, BigInt64Array, BigUint64Array,
  ]) classes.set(Class.name, Class as never); // biome-ignore format: a list
  return classes;
})();

function copyOfView(view: object): object | undefined {
  const Class = TYPED_ARRAYS.get(read(typedArrayName, view)) ?? (NativeDataView as TypedArrayClass);
  const { buffer, byteOffset, length } = Class === NativeDataView ? dataView : typedArray;
  const bytes: ArrayBuffer & { readonly resizable?: boolean } = read(buffer, view);
  if (!isSafeBuffer(bytes)) return undefined;
  const copy = bytes.resizable
    ? new Class(bytes, read(byteOffset, view))
    : new Class(bytes, read(byteOffset, view), read(length, view));
  const prototype = inertPrototypeOf(view);
  if (getPrototypeOf(copy) !== prototype) setPrototypeOf(copy, prototype);
  return copy;
}

/**
 * Whether a value is a buffer that can be shared with the other side. A buffer cannot be copied without losing its
 * connection with the memory, so it is made non-extensible instead, and neither side can attach an object to it.
 */
export function isSafeBuffer(value: object): boolean {
  try {
    if (!isBuffer(value) || !holdsNoObjects(value)) return false;
    return preventExtensions(value);
  } catch {
    return false;
  }
}

const bufferLength = /* @__PURE__ */ getterOf(ArrayBuffer.prototype, "byteLength");
const sharedBufferLength = /* @__PURE__ */ (() =>
  typeof SharedArrayBuffer === "function"
    ? getterOf(SharedArrayBuffer.prototype, "byteLength")
    : undefined)();

/** Whether a value is a genuine buffer of a built-in class. */
function isBuffer(value: object): boolean {
  const getters = sharedBufferLength ? [bufferLength, sharedBufferLength] : [bufferLength];
  return !every(getters, (getter) => {
    try {
      apply(getter, value, []);
      return false;
    } catch {
      return true;
    }
  });
}

/** Whether a value is binary data, which built-in functions accept only as itself. */
export function isBinary(value: object): boolean {
  return isView(value) || isBuffer(value);
}

/**
 * Creates a genuine error, which consoles print as one. Its class is that of the original if the class exposes nothing.
 * Its properties are copied by `syncCopy`, because they may refer to the error itself.
 */
function copyOfError(error: object, prototype: object): object {
  const shown = isErrorPrototype(prototype) ? prototype : inertPrototypeOf(error);
  // biome-ignore lint/complexity/useArrowFunction: an arrow function cannot be constructed
  const Class = function () {};
  Class.prototype = shown;
  const copy = withoutStack(() => construct(NativeError, [], Class) as object);
  const keys = ownKeys(copy);
  for (let index = 0; index < keys.length; index++) {
    const key = keys[index] as string;
    if (!hasOwn(error, key)) deleteProperty(copy, key);
  }
  return copy;
}

const NativeError = Error as ErrorConstructor & { stackTraceLimit?: number };

/** Creates an error without recording where, which takes longer than all else and is replaced. */
function withoutStack<Result>(create: () => Result): Result {
  const limit = NativeError.stackTraceLimit;
  if (limit === undefined) return create();
  try {
    NativeError.stackTraceLimit = 0;
    return create();
  } finally {
    NativeError.stackTraceLimit = limit;
  }
}

/** Whether a value is a promise of the language itself, and has no `then` of its own. */
export function isPlainPromise(value: object): value is Promise<unknown> {
  return getPrototypeOf(value) === PROMISE && !hasOwn(value, "then");
}

const PROMISE = /* @__PURE__ */ (() => NativePromise.prototype)();
