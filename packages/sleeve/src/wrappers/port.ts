import { failAs, noteResult } from "../forward/called-function.ts";
import { withSignature } from "../forward/mirror-function.ts";
import { isBuiltin } from "../forward/open/builtins.ts";
import { openEngine } from "../forward/open/engine.ts";
import { remember } from "../forward/wrapper-record.ts";
import { type Callable, isClass, type Member } from "../surface/member.ts";
import { findOnChain } from "../surface/prototype-chain.ts";
import type { SubjectSlot } from "./subject-slot.ts";

/**
 * Creates an object whose members are reached through a slot. Layers wrap this object, so they stay when the
 * subject is replaced.
 */
export function closedPort(slot: SubjectSlot<object>, members: readonly Member[], why: string): object {
  const shown: PropertyDescriptorMap = Object.create(null);
  // The map has string and symbol keys, which its type does not express.
  for (const member of members) shown[member.key as string] = describe(member);
  const port: object = Object.create(Object.prototype, shown);
  remember(port, { subject: port, layers: [], forwarding: "closed", why, gate: slot.requireOpen });
  return port;

  function describe({ key, label, kind, writable, signature }: Member): PropertyDescriptor {
    if (kind === "method") {
      const value = methodOf(slot, () => port, key, signature ?? { name: label, length: 0 });
      return { value, enumerable: true, configurable: true };
    }
    return {
      get: () => shownFor(port, slot, (subject) => Reflect.get(subject, key, subject)),
      ...(writable && {
        set: (value: unknown) => void slot.use((subject) => Reflect.set(subject, key, value, subject)),
      }),
      enumerable: true,
      configurable: true,
    };
  }
}

export interface OpenPortOptions {
  /** The class of the subject, if its members are known before it exists. */
  readonly of?: (abstract new (...args: never[]) => object) | undefined;
  readonly why: string;
}

/** Creates a port for a subject whose members are unknown until it exists. */
export function openPort(slot: SubjectSlot<object>, { of, why }: OpenPortOptions): object {
  const methods = new Map<PropertyKey, Callable>();
  const classPrototype: object | undefined = of?.prototype;
  const method = (key: PropertyKey, signature: Callable | undefined): Callable => {
    const existing =
      methods.get(key) ?? methodOf(slot, () => port, key, signature ?? { name: String(key), length: 0 });
    methods.set(key, existing);
    return existing;
  };
  /** Methods of the class, which are the same whether the subject exists or not. */
  const declaredMethods = new Map<PropertyKey, Callable>();
  const read = (key: PropertyKey): unknown => {
    const first = declaredMethods.get(key);
    if (first) return first;
    // After the end, a known method is still read, so that its call fails as the method does.
    const reused = slot.isEnded ? methods.get(key) : undefined;
    if (reused) return reused;
    const declared = classPrototype && findMethod(classPrototype, key);
    if (declared) {
      const created = method(key, declared);
      declaredMethods.set(key, created);
      return created;
    }
    // These methods act on their receiver through its properties, so on the wrapper, whose layers must see that.
    if (REFLECTIVE.has(key) && !slot.hasSubject) return Reflect.get(Object.prototype, key);
    // Checking for a promise or printing the object must not create the subject.
    if (!slot.hasSubject && (key === "then" || key === INSPECT)) return undefined;
    // If the subject is created asynchronously, so is every answer, and only a method can return a promise.
    if (!slot.prepare()) return typeof key === "symbol" ? undefined : method(key, undefined);
    return shownFor(port, slot, (subject) => {
      const value: unknown = Reflect.get(subject, key, subject);
      const isMethod = typeof value === "function" && !isClass(value) && !isBuiltin(value);
      if (isMethod && REFLECTIVE.has(key) && value === Reflect.get(Object.prototype, key)) return value;
      return isMethod ? method(key, value as Callable) : value;
    });
  };
  const onSubject = <Result>(run: (subject: object) => Result, before: Result): Result =>
    slot.prepare() ? (slot.use(run) as Result) : before;
  const port = new Proxy<object>(
    {},
    {
      get: (_, key) => read(key),
      set: (_, key, value) => onSubject((subject) => Reflect.set(subject, key, value, subject), false),
      has: (_, key) =>
        (classPrototype && key in classPrototype) || onSubject((subject) => Reflect.has(subject, key), false),
      ownKeys: () => onSubject((subject) => Reflect.ownKeys(subject), []),
      getOwnPropertyDescriptor: (_, key) =>
        onSubject<PropertyDescriptor | undefined>((subject) => {
          const descriptor = Object.getOwnPropertyDescriptor(subject, key);
          if (!descriptor) return undefined;
          const { enumerable = false } = descriptor;
          return { value: read(key), writable: true, enumerable, configurable: true };
        }, undefined),
      defineProperty: (_, key, descriptor) =>
        onSubject(
          (subject) => Reflect.defineProperty(subject, key, { ...descriptor, configurable: true }),
          false,
        ),
      deleteProperty: (_, key) => onSubject((subject) => Reflect.deleteProperty(subject, key), false),
      getPrototypeOf: () =>
        classPrototype ?? onSubject<object | null>(Object.getPrototypeOf, Object.prototype),
      setPrototypeOf: () => false,
      preventExtensions: () => false,
    },
  );
  const engine = openEngine;
  remember(port, { subject: port, layers: [], forwarding: "open", why, engine, gate: slot.requireOpen });
  return port;
}

/** Methods of every object that read or define properties. */
const REFLECTIVE: ReadonlySet<PropertyKey> = new Set([
  "__defineGetter__",
  "__defineSetter__",
  "__lookupGetter__",
  "__lookupSetter__",
  "hasOwnProperty",
  "isPrototypeOf",
  "propertyIsEnumerable",
]);

const INSPECT = Symbol.for("nodejs.util.inspect.custom");

/** Runs a function with the subject. A result that is the subject is replaced by the port. */
function shownFor(shown: object, slot: SubjectSlot<object>, run: (subject: object) => unknown): unknown {
  return slot.use((subject) => {
    const result = run(subject);
    return result === subject ? shown : result;
  });
}

function methodOf(
  slot: SubjectSlot<object>,
  portNow: () => object,
  key: PropertyKey,
  signature: { readonly name: string; readonly length: number },
): Callable {
  let returnsPromises = false;
  const { method } = {
    method(this: unknown, ...args: never[]) {
      if (slot.isEnded) return failEnded(slot, method);
      const port = portNow();
      const shown = this === port || !inheritsFrom(port, this) ? port : this;
      const result = slot.call(key, args, shown);
      if (!returnsPromises && typeof result === "object" && result instanceof Promise) {
        returnsPromises = true;
        noteResult(method, result);
      }
      return result;
    },
  };
  return withSignature(method, signature);
}

function failEnded(slot: SubjectSlot<object>, method: Callable): unknown {
  try {
    slot.requireOpen();
  } catch (error) {
    return failAs(method, error, slot.isAsync);
  }
  return undefined;
}

/** Whether a value inherits from a port, as a refined abstraction does. */
function inheritsFrom(port: object, value: unknown): value is object {
  return typeof value === "object" && value !== null && Object.prototype.isPrototypeOf.call(port, value);
}

/** Returns the method under a key of a prototype, without calling getters. */
function findMethod(prototype: object, key: PropertyKey): Callable | undefined {
  if (key === "constructor") return undefined;
  return findOnChain(prototype, (holder) => {
    const value: unknown =
      holder === Object.prototype ? undefined : Object.getOwnPropertyDescriptor(holder, key)?.value;
    return typeof value === "function" ? (value as Callable) : undefined;
  });
}
