import { withSignature } from "../../forward/mirror-function.ts";
import { reflect } from "../../surface/reflect.ts";
import { safeGet } from "../values/schema.ts";
import type { Fault, Method } from "./fault.ts";

/**
 * Returns a wrapper with a fault in one member. It is an object around the wrapper that forwards everything
 * else, so that private fields work; a method that returns the wrapper returns this object.
 */
export function applyFault(wrapper: object, key: PropertyKey | undefined, { change, into }: Fault): object {
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
    if (self && (ownKey === "prototype" || ownKey in Function.prototype)) continue;
    const isFaulty = ownKey === key;
    const isMethod = kind === "method" || typeof safeGet(wrapper, ownKey) === "function";
    if (isMethod) {
      const method = Reflect.get(wrapper, ownKey) as Method;
      const value = isFaulty && !into ? faultyMethod(method) : pass(method);
      if (value)
        Object.defineProperty(faultyObject, ownKey, {
          value: withSignature(value, method),
          ...attributes(enumerable),
        });
      continue;
    }
    const read = () => Reflect.get(wrapper, ownKey) as unknown;
    const write = (value: unknown): void => {
      if (!Reflect.set(wrapper, ownKey, value)) throw new TypeError(`${String(ownKey)} cannot be written`);
    };
    const get = isFaulty && into === "reads" ? change(read, {}) : read;
    const set = isFaulty && into === "writes" ? change(write as Method, {}) : write;
    if (get)
      Object.defineProperty(faultyObject, ownKey, {
        get,
        set: set as (value: unknown) => void,
        ...configurable(enumerable),
      });
  }
  return faultyObject;
}

/** Instances of a class, because a plain object would count as data. */
class Wrapped {}

function configurable(enumerable: boolean) {
  return { enumerable, configurable: true };
}

function attributes(enumerable: boolean) {
  return { ...configurable(enumerable), writable: true };
}
