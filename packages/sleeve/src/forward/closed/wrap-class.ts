import { endsWith, sourceText } from "../../shared/intrinsics.ts";
import type { Use } from "../../shared/use.ts";
import { type Callable, isClass, type Member, memberOf, memberOfFunction } from "../../surface/member.ts";
import { findOnChain, findProperty } from "../../surface/prototype-chain.ts";
import { inheritedMembers, ownMembers } from "../../surface/reflect.ts";
import type { Layer, Next } from "../call.ts";
import {
  functionKind,
  mirrorFunction,
  type Signature,
  withKindOf,
  withSignature,
} from "../mirror-function.ts";
import { boundMethod } from "./bound-methods.ts";
import type { RawForwarder } from "./call-sites.ts";
import { createEntry } from "./forwarders.ts";
import { callThroughLayers, constructThrough, ownMethodUses, throughLayers } from "./wrapper-factory.ts";

/** Any class. */
export type Class = new (...args: never[]) => object;

/**
 * Wraps a class in a subclass whose members pass through the layers: instance and static methods and
 * accessors, construction, and fields that a layer applies to.
 *
 * The original class constructs the instances, so private fields, subclasses and `super` work. Calls that an
 * instance makes on itself pass through the layers too.
 */
export function wrapClass(Subject: Class, layers: readonly Layer<never>[]): Class {
  const member = memberOfFunction(Subject as never, "class");
  const layerFields = fieldLayering(layers);
  const testsTarget = dependsOnTarget(Subject);
  const create = (target: object, args: readonly unknown[]): object => {
    if (!testsTarget || target !== shown) return Reflect.construct(Subject, args as never[], target as Class);
    // An abstract class must recognise that it is constructed itself.
    const created = Reflect.construct(Subject, args as never[]) as object;
    const isPlain = Object.getPrototypeOf(created) === Subject.prototype;
    return isPlain ? Object.setPrototypeOf(created, Wrapper.prototype) : created;
  };
  const construct = throughLayers(
    ({ wrapper: target, args }) => layerFields(create(target, args)),
    member,
    "construct",
    layers,
  );
  // A derived class, because V8 creates a hidden class for each object that a class makes for another base class.
  class Wrapper extends Subject {
    // @ts-expect-error No `super` call: the innermost layer makes the object, by the class itself.
    // biome-ignore lint/correctness/noUnreachableSuper: the same
    constructor(...args: never[]) {
      // biome-ignore lint/correctness/noConstructorReturn: the same
      return construct({ member, args, wrapper: new.target, context: undefined }) as object;
    }
  }
  withSignature(Wrapper as never, Subject);
  layerMembers(Wrapper.prototype, Subject.prototype, inheritedMembers(Subject.prototype, new Set()), layers);
  const statics = ownMembers(Subject).filter(({ key }) => !RESERVED_KEYS.has(key));
  layerMembers(Wrapper, Subject, statics, layers, { isOwn: true });
  forwardStaticFields(Wrapper, Subject, statics, layers);
  const shown: Class = endsWith(sourceText(Subject), "{ [native code] }")
    ? callableClass(Wrapper as unknown as Class, Subject, layers)
    : (Wrapper as unknown as Class);
  return shown;
}

/** Returns a class that can also be called, as `Date` and `BigInt` can. Other built-in classes refuse the call themselves. */
function callableClass(Wrapper: Class, Subject: Class, layers: readonly Layer<never>[]): Class {
  const member = memberOfFunction(Subject as never, "class");
  const call = throughLayers(
    ({ wrapper, args }) => Reflect.apply(Subject as never, wrapper, args as never[]),
    member,
    "call",
    layers,
  );
  const shown: Class = new Proxy(Wrapper, {
    apply: (_, receiver, args) => call({ member, args, wrapper: receiver, context: undefined }),
  });
  Object.defineProperty(Wrapper.prototype, "constructor", {
    value: shown,
    writable: true,
    configurable: true,
  });
  return shown;
}

/** Whether a class, or one that it extends, tests which class is constructed, as abstract classes do. */
function dependsOnTarget(Subject: Class): boolean {
  const isTest = (Class: object) => typeof Class === "function" && TARGET_TEST.test(sourceText(Class));
  return findOnChain(Subject, (Class) => isTest(Class) || undefined) ?? false;
}

const TARGET_TEST = /\bnew\.target\b|\bthis\.constructor\s*[!=]==?|[!=]==?\s*this\.constructor\b/;

const RESERVED_KEYS: ReadonlySet<PropertyKey> = new Set(["name", "length", "prototype"]);

/**
 * Defines a layered method or accessor on `holder` for each one inherited from `subject`. For static members,
 * also for those without layers.
 */
function layerMembers(
  holder: object,
  subject: object,
  members: readonly Member[],
  layers: readonly Layer<never>[],
  { isOwn = false }: { readonly isOwn?: boolean } = {},
): void {
  for (const member of members) {
    const { key, label, enumerable } = member;
    const attributes = { enumerable, configurable: true };
    if (member.kind === "method") {
      const value = layeredMethod(subject, member, layers, isOwn);
      if (value) Object.defineProperty(holder, key, { ...attributes, value, writable: true });
    } else if (member.kind === "accessor") {
      const through = isOwn ? forwarderThrough : layeredForwarder;
      const read: Next = ({ wrapper }) => Reflect.get(subject, key, wrapper);
      const write: Next = ({ wrapper, args }) => Reflect.set(subject, key, args[0], wrapper);
      const get =
        member.readable && through(read, member, "read", layers, { name: `get ${label}`, length: 0 });
      const set =
        member.writable && through(write, member, "write", layers, { name: `set ${label}`, length: 1 });
      if (!get && !set) continue;
      const property = findProperty(subject, key)?.descriptor;
      Object.defineProperty(holder, key, {
        ...property,
        ...attributes,
        ...(get && { get }),
        ...(set && { set }),
      });
    }
  }
}

/** Returns the function of a class's method through the layers, or `undefined` if it needs none. */
function layeredMethod(
  subject: object,
  member: Member,
  layers: readonly Layer<never>[],
  isOwn: boolean,
): Callable | undefined {
  const fn = findProperty(subject, member.key)?.descriptor.value as Callable;
  const invoke = methodCall(subject, member.key, fn);
  const outermost = callThroughLayers(invoke, member, layers);
  if (outermost === invoke && !isOwn) return undefined;
  if (functionKind(fn) === "method") return withKindOf(fn, createEntry(outermost, member));
  return mirrorFunction(fn, {
    call: (wrapper, args) => outermost({ member, args, wrapper, context: undefined }),
    construct: constructThrough(fn, member, layers),
  });
}

/** Returns the innermost call of a class's method. It is looked up in each call, because it may have been replaced. */
function methodCall(subject: object, key: PropertyKey, knownMethod: Callable): Next {
  const methods = subject as Record<PropertyKey, unknown>;
  const method = knownMethod as RawForwarder;
  const replaced: Next = ({ wrapper, args }) =>
    Reflect.apply(Reflect.get(subject, key, wrapper) as RawForwarder, wrapper, args);
  return (call) => {
    let current: unknown;
    try {
      current = methods[key];
    } catch {
      // An accessor has taken its place, which fails on the prototype.
    }
    if (current !== method) return replaced(call);
    const { wrapper, args } = call;
    switch (args.length) {
      case 0:
        return method.call(wrapper);
      case 1:
        return method.call(wrapper, args[0]);
      case 2:
        return method.call(wrapper, args[0], args[1]);
      default:
        return Reflect.apply(method, wrapper, args);
    }
  };
}

type ThroughLayers = [
  innermost: Next,
  member: Member,
  use: Use,
  layers: readonly Layer<never>[],
  signature: Signature,
];

/**
 * Returns a function that passes through the layers on one use of a member, or `undefined` if no layer
 * applies.
 */
function layeredForwarder(
  ...[innermost, member, use, layers, signature]: ThroughLayers
): RawForwarder | undefined {
  const outermost = throughLayers(innermost, member, use, layers);
  return outermost === innermost ? undefined : withSignature(createEntry(outermost, member), signature);
}

/** Returns the layered function, or a plain forwarder if no layer applies. */
function forwarderThrough(...[innermost, member, use, layers, signature]: ThroughLayers): RawForwarder {
  return withSignature(createEntry(throughLayers(innermost, member, use, layers), member), signature);
}

/** A static field stays on the original class, whose own code may change it. */
function forwardStaticFields(
  holder: object,
  subject: object,
  statics: readonly Member[],
  layers: readonly Layer<never>[],
): void {
  for (const member of statics) {
    if (member.kind !== "property") continue;
    const { key, label, enumerable } = member;
    const read: Next = () => Reflect.get(subject, key);
    const write: Next = ({ args }) => {
      if (!Reflect.set(subject, key, args[0])) throw new TypeError(`The static field ${label} is read-only.`);
    };
    const getSignature = { name: `get ${label}`, length: 0 };
    Object.defineProperty(holder, key, {
      enumerable,
      configurable: true,
      get: layeredForwarder(read, member, "read", layers, getSignature) ?? (read as () => unknown),
      set:
        layeredForwarder(write, member, "write", layers, { name: `set ${label}`, length: 1 }) ??
        ((value: unknown) => void write({ member, args: [value], wrapper: holder, context: undefined })),
    });
  }
}

/**
 * Returns a function that layers the fields of new instances. Fields without layers stay as they are. Which
 * fields are layered is decided when a field first appears.
 */
function fieldLayering(layers: readonly Layer<never>[]): (made: object) => object {
  const values = new WeakMap<object, Map<PropertyKey, unknown>>();
  const valuesOf = (created: object) => {
    const existing = values.get(created) ?? new Map<PropertyKey, unknown>();
    values.set(created, existing);
    return existing;
  };
  const descriptorOf = (member: Member): PropertyDescriptor | undefined => {
    const { key, label, kind, signature, enumerable } = member;
    const none = { name: `get ${label}`, length: 0 };
    const get = layeredForwarder(({ wrapper }) => valuesOf(wrapper).get(key), member, "read", layers, none);
    const set = layeredForwarder(
      ({ wrapper, args }) => void valuesOf(wrapper).set(key, args[0]),
      member,
      "write",
      layers,
      { name: `set ${label}`, length: 1 },
    );
    const invoke: Next = ({ wrapper, args }) =>
      Reflect.apply(valuesOf(wrapper).get(key) as RawForwarder, wrapper, args);
    const call =
      kind === "method" ? layeredForwarder(invoke, member, "call", layers, signature ?? none) : undefined;
    if (!get && !set && !call) return undefined;
    const uses = call && ownMethodUses(member, call, layers);
    const read = function (this: object): unknown {
      const value = get ? get.call(this) : valuesOf(this).get(key);
      return uses && typeof value === "function" ? boundMethod(this, key, value as Callable, uses) : value;
    };
    const write =
      set ??
      function (this: object, value: unknown) {
        valuesOf(this).set(key, value);
      };
    return { get: read, set: write, enumerable, configurable: true };
  };
  /** Decides once for each key and kind of value. `null` if no layer applies. */
  const cache = { property: new Map<PropertyKey, Decision>(), method: new Map<PropertyKey, Decision>() };
  // If all layers name their members, the other fields need not be looked at.
  const named = layers.every(({ only }) => only)
    ? [...new Set(layers.flatMap(({ only = [] }) => only as readonly (string | symbol)[]))]
    : undefined;
  return (created) => {
    if (layers.length === 0) return created;
    const keys = named ?? Reflect.ownKeys(created);
    for (let index = 0; index < keys.length; index++) {
      const key = keys[index] as string | symbol;
      const field = Object.getOwnPropertyDescriptor(created, key);
      if (!field?.configurable || field.get || field.set) continue;
      const value: unknown = field.value;
      const ofKind = cache[typeof value === "function" && !isClass(value) ? "method" : "property"];
      let descriptor = ofKind.get(key);
      if (descriptor === undefined) {
        descriptor = descriptorOf(memberOf(key, field, true)) ?? null;
        ofKind.set(key, descriptor);
      }
      if (descriptor === null) continue;
      valuesOf(created).set(key, value);
      Object.defineProperty(created, key, descriptor);
    }
    return created;
  };
}

type Decision = PropertyDescriptor | null;
