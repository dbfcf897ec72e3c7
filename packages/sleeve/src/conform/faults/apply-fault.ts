import { withSignature } from "../../forward/mirror-function.ts";
import { reflect } from "../../surface/reflect.ts";
import { safeGet } from "../values/schema.ts";
import type { Fault, Method } from "./fault.ts";

/**
 * Returns a wrapper with a fault in one member. It is an object around the wrapper that forwards everything
 * else, so that private fields work; a method that returns the wrapper returns this object.
 */
export function applyFault(wrapper: object, key: PropertyKey | undefined, fault: Fault): object {
  const { change, into } = fault;
  const pass =
    (method: Method): Method =>
    (...args) => {
      const result = Reflect.apply(method, wrapper, args) as unknown;
      return result === wrapper ? faultyObject : result;
    };
  const faultyMethod = (method: Method): Method | undefined => change(pass(method), { method });
  const self = typeof wrapper === "function" ? (wrapper as Method) : undefined;
  const called = self && (key === undefined ? faultyMethod(self) : pass(self));
  const faultyObject: object = called
    ? withSignature((...args: unknown[]) => called(...args), self as Method)
    : (Object.create(new Wrapped()) as object);
  for (const { key: ownKey, kind, enumerable } of reflect(wrapper)) {
    if (self && isOfFunctions(ownKey)) continue;
    const isFaulty = ownKey === key;
    if (kind === "method" || typeof safeGet(wrapper, ownKey) === "function") {
      const method = Reflect.get(wrapper, ownKey) as Method;
      const value = isFaulty && !into ? faultyMethod(method) : pass(method);
      if (value) defineMethod(faultyObject, ownKey, withSignature(value, method), enumerable);
    } else {
      const accessors = accessorsOf(wrapper, ownKey, isFaulty ? fault : undefined);
      if (accessors.get)
        Object.defineProperty(faultyObject, ownKey, {
          ...(accessors as PropertyDescriptor),
          ...configurable(enumerable),
        });
    }
  }
  return faultyObject;
}

/** Accessors that read and write a property of the wrapper, with a fault in one of the two. */
function accessorsOf(
  wrapper: object,
  key: PropertyKey,
  fault: Fault | undefined,
): { readonly get: Method | undefined; readonly set: (value: unknown) => void } {
  const read = () => Reflect.get(wrapper, key) as unknown;
  const write = (value: unknown): void => {
    if (!Reflect.set(wrapper, key, value)) throw new TypeError(`${String(key)} cannot be written`);
  };
  const get = fault?.into === "reads" ? fault.change(read, {}) : read;
  const set = fault?.into === "writes" ? fault.change(write as Method, {}) : write;
  return { get, set: set as (value: unknown) => void };
}

/** Whether every function has such a property of its own. */
function isOfFunctions(key: PropertyKey): boolean {
  return key === "prototype" || key in Function.prototype;
}

function defineMethod(object: object, key: PropertyKey, value: unknown, enumerable: boolean): void {
  Object.defineProperty(object, key, { value, ...attributes(enumerable) });
}

/** Instances of a class, because a plain object would count as data. */
class Wrapped {}

function configurable(enumerable: boolean) {
  return { enumerable, configurable: true };
}

function attributes(enumerable: boolean) {
  return { ...configurable(enumerable), writable: true };
}
