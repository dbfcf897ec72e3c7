import { type Callable, isClass, memberOfFunction } from "../../surface/member.ts";
import { ownMembers } from "../../surface/reflect.ts";
import type { Layer, Next } from "../call.ts";
import { requireLayeredMembers } from "../layered-members.ts";
import { isConstructor, mirrorFunction, withKindOf, withSignature } from "../mirror-function.ts";
import type { RawForwarder } from "./call-sites.ts";
import { accessor } from "./wrapper-class.ts";
import { callThroughLayers, throughLayers } from "./wrapper-factory.ts";

/**
 * Wraps a function in one that can be called and constructed in the same way, with its `name`, `length`,
 * `prototype` and other properties, which are read and written through. Layers apply to calls and
 * constructions.
 */
export function wrapFunction(subject: Callable, layers: readonly Layer<never>[]): Callable {
  const member = memberOfFunction(subject, "function");
  const cache = new Map([[member.key, { member }]]);
  requireLayeredMembers(cache, layers);
  const invoke: Next = ({ wrapper, args }) => Reflect.apply(subject, wrapper, args as never[]);
  const call = callThroughLayers(invoke, member, layers);
  const wrapper = isConstructor(subject)
    ? constructible(subject, call, layers)
    : callable((receiver, args) => call({ member, args, wrapper: receiver, context: undefined }));
  withKindOf(subject, wrapper);
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
      ? construct({ member, args, wrapper: new.target, context: undefined })
      : call({ member, args, wrapper: this, context: undefined });
  }
  return wrapper;
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
    let method: { readonly value: Callable; readonly shown: Callable } | undefined;
    const read: RawForwarder = () => {
      const value: unknown = Reflect.get(subject, key);
      if (value === subject) return wrapper;
      if (typeof value !== "function" || isClass(value)) return value;
      if (method?.value !== value) {
        method = { value: value as Callable, shown: propertyFunction(value as Callable, subject, wrapper) };
      }
      return method.shown;
    };
    const write: RawForwarder = (value) => void Reflect.set(subject, key, value);
    const shown = accessor(
      readable ? withSignature(read, { name: `get ${label}`, length: 0 }) : undefined,
      writable ? withSignature(write, { name: `set ${label}`, length: 1 }) : undefined,
      { enumerable, configurable: true },
    );
    Object.defineProperty(wrapper, key, shown);
  }
}

/** A function in a property of a function acts on the original if it is called on the wrapper or detached. */
function propertyFunction(fn: Callable, subject: Callable, wrapper: Callable): Callable {
  return mirrorFunction(fn, {
    call: (receiver, args) => {
      const isOurs = receiver === wrapper || receiver === undefined || receiver === null;
      return Reflect.apply(fn, isOurs ? subject : receiver, args as never[]);
    },
    construct: (args, target) => Reflect.construct(fn, args, target),
  });
}
