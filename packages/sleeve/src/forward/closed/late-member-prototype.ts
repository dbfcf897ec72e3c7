import { type Member, memberOf } from "../../surface/member.ts";
import { findProperty } from "../../surface/prototype-chain.ts";
import { isRoot } from "../../surface/reflect.ts";
import { type RawForwarder, withSignature } from "./forwarders.ts";
import { Forwarding } from "./templates.ts";

/**
 * Creates the end of the prototype chain of closed wrappers, where lookups of members that the wrapper's
 * class lacks arrive. It finds members that were added to the subject after planning, and forwards to them.
 *
 * Members of the class are found first, so forwarded calls pay nothing for it. Its own prototype is the
 * subject's, so `instanceof` works.
 */
export function lateMemberPrototype(
  prototype: object | null,
  late: (member: Member) => PropertyDescriptor,
): object {
  const describe = (subject: object, key: PropertyKey): PropertyDescriptor | undefined => {
    const member = lateMember(subject, key);
    return member && late(member);
  };
  return new Proxy(Object.create(prototype), {
    get(target, key, wrapper) {
      const subject = subjectOf(wrapper);
      if (!subject) return Reflect.get(target, key, wrapper);
      const descriptor = describe(subject, key);
      if (!descriptor) return Reflect.get(target, key, wrapper);
      mirrorOwnProperty(wrapper, subject, key, descriptor);
      return descriptor.get ? descriptor.get.call(wrapper) : descriptor.value;
    },
    set(target, key, value, wrapper) {
      const subject = subjectOf(wrapper);
      if (!subject) return Reflect.set(target, key, value, wrapper);
      const known = describe(subject, key);
      if (!known && !Object.isExtensible(subject)) return false;
      const descriptor = known ?? late(memberOf(key, { ...ADDED_PROPERTY, value }, true));
      if (!descriptor.set) return Reflect.set(subject, key, value);
      descriptor.set.call(wrapper, value);
      mirrorOwnProperty(wrapper, subject, key, descriptor);
      return true;
    },
  });
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

/** Returns the subject's member for a key, unless it belongs to `Object.prototype`. */
function lateMember(subject: object, key: PropertyKey): Member | undefined {
  if (key === "constructor" || typeof key === "number") return undefined;
  const found = findProperty(subject, key);
  if (!found || isRoot(found.holder)) return undefined;
  return memberOf(key, found.descriptor, found.holder === subject);
}
