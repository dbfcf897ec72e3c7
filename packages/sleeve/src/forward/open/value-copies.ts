import {
  apply,
  defineProperty,
  deleteProperty,
  every,
  getOwnPropertyDescriptor,
  getProperty,
  getPrototypeOf,
  hasOwn,
  isInheritedBy,
  NativePromise,
  ownKeys,
  PrivateMap,
  preventExtensions,
  setPrototypeOf,
} from "../../shared/intrinsics.ts";
import { findOnChain } from "../../surface/prototype-chain.ts";
import { originalOf } from "../copied-value.ts";
import { PrivateFieldHost } from "../private-field-host.ts";
import {
  holdsNoObjects,
  inertPrototypeOf,
  isBuiltin,
  isErrorPrototype,
  isErrorWithoutMethods,
} from "./builtins.ts";

/** Converts a value to the side of a copy. */
type Convert = (value: unknown) => unknown;

/**
 * Returns a copy of a built-in value that represents it on the other side of a membrane, or `undefined` if a value must
 * be represented by a proxy.
 *
 * A proxy of a date or of binary data is useless to built-in functions, and the value itself would let one side attach
 * objects of its own for the other to find. Binary data shares its bytes with its copy.
 *
 * @param isClients whether the value belongs to a client, whose classes the subject sees through proxies
 */
export function copyOfBuiltin(
  value: object,
  { isClients }: { readonly isClients: boolean },
): object | undefined {
  try {
    const prototype = getPrototypeOf(value);
    if (prototype === null) return undefined;
    const copy = COPIES.get(prototype);
    if (copy) return copy(value);
    if (isView(value)) return copyOfView(value);
    // The subject could attach something to the prototype of a client's class.
    if (isClients ? isBuiltin(prototype) && isErrorPrototype(prototype) : isErrorWithoutMethods(prototype))
      return copyOfError(value, prototype);
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
  if (key === "stack" && (ErrorCopy.isOn(from) || ErrorCopy.isOn(to))) {
    copyStack(from, to);
    return;
  }
  const descriptor = getOwnPropertyDescriptor(from, key);
  const before = getOwnPropertyDescriptor(to, key);
  if (!descriptor || before?.configurable === false || key === "lastIndex") return;
  const { enumerable = false } = descriptor;
  if (hasOwn(descriptor, "get") || hasOwn(descriptor, "set")) {
    const get = () => convert(getProperty(from, key));
    if (!before) defineProperty(to, key, { __proto__: null, get, enumerable, configurable: true } as object);
    return;
  }
  const value = convert(descriptor.value);
  if (before && hasOwn(before, "value") && before.value === value) return;
  defineProperty(to, key, new ValueProperty(value, enumerable));
}

/** Marks a copy of an error. */
class ErrorCopy extends PrivateFieldHost {
  readonly #isCopy = true;

  static isOn(value: object): boolean {
    return #isCopy in value;
  }
}

/**
 * The stack of a copy of an error. Formatting a stack takes long, so that of the original is formatted when it is read.
 * Describing the property of the original would format it too.
 */
const STACK: PropertyDescriptor = /* @__PURE__ */ (() => {
  const accessors = {
    get stack(): string | undefined {
      const copy = findOnChain(this, (holder) => (ErrorCopy.isOn(holder) ? holder : undefined));
      return copy && stackOf(originalOf(copy) as object);
    },
    set stack(value: unknown) {
      defineProperty(this, "stack", new ValueProperty(value, false));
    },
  };
  const { get, set } = getOwnPropertyDescriptor(accessors, "stack") as Required<PropertyDescriptor>;
  return { __proto__: null, get, set, enumerable: false, configurable: true } as PropertyDescriptor;
})();

/** Copies the stack of an error to its copy, or one that was assigned to the copy to the original. */
function copyStack(from: object, to: object): void {
  if (ErrorCopy.isOn(to)) {
    if (getOwnPropertyDescriptor(to, "stack")?.get !== STACK.get) defineProperty(to, "stack", STACK);
    return;
  }
  const { value, enumerable = false } = getOwnPropertyDescriptor(from, "stack") ?? {};
  if (typeof value === "string") defineProperty(to, "stack", new ValueProperty(value, enumerable));
}

/**
 * Returns the stack of an error as text.
 *
 * V8 formats it when it is first read, with `Error.prepareStackTrace`, which gets the error itself. A function that a client
 * sets after the library was loaded must not get it.
 */
function stackOf(error: object): string | undefined {
  const current = getOwnPropertyDescriptor(NativeError, "prepareStackTrace");
  const isAsLoaded = current?.value === PREPARE_AT_LOAD && !current?.get;
  if (!isAsLoaded && !setPrepare(new ValueProperty(PREPARE_AT_LOAD, true))) return undefined;
  try {
    const stack: unknown = getProperty(error, "stack");
    return typeof stack === "string" ? stack : undefined;
  } finally {
    if (!isAsLoaded) {
      if (current) setPrepare(current);
      else deleteProperty(NativeError, "prepareStackTrace");
    }
  }
}

function setPrepare(descriptor: PropertyDescriptor): boolean {
  return defineProperty(NativeError, "prepareStackTrace", descriptor);
}

type PropertyClass = new (value: unknown, enumerable: boolean) => PropertyDescriptor;

/**
 * The descriptor of a property with a value. It has no prototype, so that properties added to `Object.prototype` are not taken
 * for attributes. It is a class, because engines optimise those.
 */
const ValueProperty: PropertyClass = /* @__PURE__ */ (() => {
  class Property {
    readonly value: unknown;
    readonly enumerable: boolean;
    readonly writable = true;
    readonly configurable = true;
    constructor(value: unknown, enumerable: boolean) {
      this.value = value;
      this.enumerable = enumerable;
    }
  }
  setPrototypeOf(Property.prototype, null);
  return Property;
})();

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
  const copiers = new PrivateMap<object, (from: object, to: object) => void>();
  copiers.set(Date.prototype, (from, to) => void apply(setDateTime, to, [apply(dateTime, from, [])]));
  copiers.set(RegExp.prototype, (from, to) => {
    (to as RegExp).lastIndex = (from as RegExp).lastIndex;
  });
  return copiers;
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

interface BufferClass {
  readonly prototype: object;
  readonly getLength: () => unknown;
}

const BUFFER_CLASSES: readonly BufferClass[] = /* @__PURE__ */ (() => {
  const classes = [ArrayBuffer, ...(typeof SharedArrayBuffer === "function" ? [SharedArrayBuffer] : [])];
  return classes.map(({ prototype }) => ({ prototype, getLength: getterOf(prototype, "byteLength") }));
})();

/** Whether a value is a genuine buffer of a built-in class. */
function isBuffer(value: object): boolean {
  // The prototype first, because the getter throws for other objects, which takes long.
  return !every(BUFFER_CLASSES, ({ prototype, getLength }) => {
    if (!isInheritedBy(prototype, value)) return true;
    try {
      apply(getLength, value, []);
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
  const copy = withoutStack(() => new NativeError());
  if (shown !== ERROR) setPrototypeOf(copy, shown);
  // At once, because describing the property of a new error would format it.
  if (hasOwn(error, "stack")) defineProperty(copy, "stack", STACK);
  else deleteProperty(copy, "stack");
  return new ErrorCopy(copy);
}

const NativeError = Error as ErrorConstructor & { stackTraceLimit?: number };
const PREPARE_AT_LOAD = /* @__PURE__ */ (() =>
  (NativeError as { prepareStackTrace?: unknown }).prepareStackTrace)();

const ERROR = /* @__PURE__ */ (() => NativeError.prototype)();

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
