import { type Callable, memberOfFunction } from "../../surface/member.ts";
import { ownMembers } from "../../surface/reflect.ts";
import type { Layer, Next } from "../call.ts";
import { boundMethod } from "./bound-methods.ts";
import { type RawForwarder, withSignature } from "./forwarders.ts";
import { accessor, requireLayeredMembers, throughLayers } from "./wrapper-factory.ts";

/**
 * Wraps a function in one that can be called and constructed in the same way, with its `name`, `length`,
 * `prototype` and other properties, which are read and written through. Layers apply to calls and
 * constructions.
 */
export function wrapFunction(subject: Callable, layers: readonly Layer<never>[]): Callable {
  const member = memberOfFunction(subject, "function");
  const known = new Map([[member.key, { member }]]);
  requireLayeredMembers(known, layers);
  const invoke: Next = ({ wrapper, args }) => Reflect.apply(subject, wrapper, args as never[]);
  const call = throughLayers(invoke, member, "call", layers);
  const wrapper = isConstructor(subject)
    ? constructible(subject, call, layers)
    : callable((receiver, args) => call({ member, args, wrapper: receiver }));
  if (Object.getPrototypeOf(wrapper) !== Object.getPrototypeOf(subject)) {
    Object.setPrototypeOf(wrapper, Object.getPrototypeOf(subject));
  }
  withSignature(wrapper, subject);
  forwardProperties(wrapper, subject);
  return wrapper;
}

type Receive = (receiver: object, args: readonly unknown[]) => unknown;

/** A method cannot be constructed, and keeps the `this` of the call. */
function callable(receive: Receive): Callable {
  return {
    wrapper(this: object, ...args: unknown[]) {
      return receive(this, args);
    },
  }.wrapper;
}

function constructible(subject: Callable, call: Next, layers: readonly Layer<never>[]): Callable {
  const member = memberOfFunction(subject, "function");
  const construct = throughLayers(
    ({ wrapper: target, args }) =>
      Reflect.construct(subject, args, (target === wrapper ? subject : target) as Callable),
    member,
    "construct",
    layers,
  );
  function wrapper(this: object, ...args: unknown[]): unknown {
    return new.target
      ? construct({ member, args, wrapper: new.target })
      : call({ member, args, wrapper: this });
  }
  return wrapper;
}

/** Returns whether a function can be constructed, without running it. */
export function isConstructor(value: unknown): boolean {
  try {
    Reflect.construct(Object, [], value as Callable);
    return true;
  } catch {
    return false;
  }
}

const RESERVED_KEYS: ReadonlySet<PropertyKey> = new Set([
  "name",
  "length",
  "prototype",
  "arguments",
  "caller",
]);

function forwardProperties(wrapper: Callable, subject: Callable): void {
  for (const { key, enumerable, label, readable, writable } of ownMembers(subject)) {
    if (RESERVED_KEYS.has(key)) continue;
    const read: RawForwarder = () => {
      const value: unknown = Reflect.get(subject, key);
      if (typeof value !== "function" || isConstructor(value)) return value === subject ? wrapper : value;
      const call: RawForwarder = (...args) => Reflect.apply(value, subject, args);
      return boundMethod(wrapper, key, call, value as Callable);
    };
    const write: RawForwarder = (value) => void Reflect.set(subject, key, value);
    const shown = accessor(
      readable ? withSignature(read, { name: `get ${label}`, length: 0 }) : undefined,
      writable ? withSignature(write, { name: `set ${label}`, length: 1 }) : undefined,
      { enumerable, configurable: true },
    );
    Object.defineProperty(wrapper, key, shown);
  }
  const prototype = Object.getOwnPropertyDescriptor(subject, "prototype");
  if (prototype) Object.defineProperty(wrapper, "prototype", { ...prototype, configurable: false });
}
