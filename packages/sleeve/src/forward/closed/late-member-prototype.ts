import { type Member, memberOf } from "../../surface/member.ts";
import { findProperty } from "../../surface/prototype-chain.ts";
import { isRoot } from "../../surface/reflect.ts";
import { withSignature } from "../mirror-function.ts";
import type { RawForwarder } from "./call-sites.ts";
import type { LiveWrappers } from "./live-wrappers.ts";
import { Forwarding } from "./templates.ts";

/**
 * Creates the end of the prototype chain of closed wrappers, where lookups of members that the wrapper's
 * class lacks arrive. It finds members that were added to the subject after planning, and forwards to them.
 *
 * Members of the class are found first, so forwarded calls pay nothing for it. Its own prototype is the
 * subject's, so `instanceof` works.
 */
export function lateMemberPrototype(prototype: object | null, { late, ownKeys, live }: LateMembers): object {
  const describe = (subject: object, key: string | symbol): PropertyDescriptor | undefined => {
    const property = findProperty(subject, key);
    if (!property) {
      if (key === INSPECT) return { value: () => subject };
      // Only a subject with a `get` trap of its own has a value under a key that it does not list.
      const value: unknown = Reflect.get(subject, key);
      return value === undefined ? undefined : late(memberOf(key, { ...ADDED_PROPERTY, value }, true));
    }
    if (key === "constructor") return undefined;
    if (isRoot(property.holder)) {
      // What every object has is not part of a surface, unless a `get` trap answers instead.
      const value: unknown = property.descriptor.get ? undefined : Reflect.get(subject, key);
      const isOurs = value === property.descriptor.value || value === undefined;
      return isOurs ? undefined : late(memberOf(key, { ...ADDED_PROPERTY, value }, true));
    }
    return late(memberOf(key, property.descriptor, property.holder === subject));
  };
  return new Proxy(Object.create(prototype), {
    get(target, key, receiver) {
      const subject = subjectOf(receiver);
      if (!subject) {
        const match = live.find(receiver);
        // Methods that the wrapper's class lacks act on the receiver, as those of the subject would.
        return match ? Reflect.get(match.subject, key, receiver) : Reflect.get(target, key, receiver);
      }
      if (wasDeleted(receiver, key, ownKeys)) Reflect.deleteProperty(subject, key);
      const descriptor = describe(subject, key);
      if (!descriptor) return Reflect.get(target, key, receiver);
      mirrorOwnProperty(receiver, subject, key, descriptor);
      return descriptor.get ? descriptor.get.call(receiver) : descriptor.value;
    },
    set(target, key, value, receiver) {
      const subject = subjectOf(receiver);
      if (!subject) return Reflect.set(target, key, value, receiver);
      if (isRootAccessor(subject, key)) return Reflect.set(target, key, value, receiver);
      if (wasDeleted(receiver, key, ownKeys)) Reflect.deleteProperty(subject, key);
      const described = describe(subject, key);
      if (!described && !Object.isExtensible(subject)) return false;
      const descriptor = described ?? late(memberOf(key, { ...ADDED_PROPERTY, value }, true));
      if (!descriptor.set) return Reflect.set(subject, key, value);
      descriptor.set.call(receiver, value);
      mirrorOwnProperty(receiver, subject, key, descriptor);
      return true;
    },
  });
}

/** The key of the function by which Node.js prints an object. A wrapper is printed as its subject. */
const INSPECT = Symbol.for("nodejs.util.inspect.custom");

/** What the end of the prototype chain needs to know of its wrappers. */
export interface LateMembers {
  readonly late: (member: Member) => PropertyDescriptor;
  /** Keys of the properties that each wrapper is created with. */
  readonly ownKeys: ReadonlySet<PropertyKey>;
  readonly live: LiveWrappers;
}

/** The later members of each wrapper that it has as own properties. */
const mirrored = new WeakMap<object, Set<PropertyKey>>();

/**
 * Whether an own property of a wrapper was deleted. The language does not report it, so the deletion reaches the subject
 * when the property is next looked up.
 */
function wasDeleted(wrapper: object, key: PropertyKey, ownKeys: ReadonlySet<PropertyKey>): boolean {
  return (ownKeys.has(key) || mirrored.get(wrapper)?.has(key) === true) && !Object.hasOwn(wrapper, key);
}

/** Whether a key belongs to an accessor of every object, such as `__proto__`. */
function isRootAccessor(subject: object, key: PropertyKey): boolean {
  const property = findProperty(subject, key);
  return property?.descriptor.set !== undefined && isRoot(property.holder);
}

/** Defines the member on the wrapper, so that it is listed as an own property from now on. */
function mirrorOwnProperty(
  wrapper: object,
  subject: object,
  key: PropertyKey,
  descriptor: PropertyDescriptor,
): void {
  if (Object.hasOwn(subject, key) && !Object.hasOwn(wrapper, key) && Object.isExtensible(wrapper)) {
    Object.defineProperty(wrapper, key, descriptor);
    const keys = mirrored.get(wrapper) ?? new Set();
    mirrored.set(wrapper, keys.add(key));
  }
}

/** Wraps a setter so that assigning an inherited property creates an own one. */
export function wrapSetter(
  write: RawForwarder,
  key: PropertyKey,
  late: (member: Member) => PropertyDescriptor,
): RawForwarder {
  return withSignature(function (value) {
    write.call(this, value);
    const subject = subjectOf(this);
    const descriptor = subject && Object.getOwnPropertyDescriptor(subject, key);
    if (descriptor)
      mirrorOwnProperty(this, subject, key, late(memberOf(key as string | symbol, descriptor, true)));
  }, write);
}

/** The attributes of a property created by assignment. */
const ADDED_PROPERTY = { writable: true, enumerable: true, configurable: true };

function subjectOf(wrapper: unknown): object | undefined {
  return typeof wrapper === "object" && wrapper !== null ? Forwarding.subjectOf(wrapper) : undefined;
}
