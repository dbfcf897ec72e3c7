import { type Member, memberOf } from "../surface/member.ts";
import { isRoot } from "../surface/reflect.ts";
import { Forwarding } from "./forwarding.generated.ts";
import { type BareSite, named } from "./sites.ts";

/**
 * The end of the prototype chain of closed wrappers, where the engine looks for what the wrapper's class does not
 * have. It finds what the subject got after its shape was planned, and forwards to that as well.
 *
 * What the class has is found before, so this costs a forwarded call nothing. `instanceof` looks through it, as its
 * own prototype is that of the subject.
 */
export function tail(prototype: object | null, late: (member: Member) => PropertyDescriptor): object {
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
      keep(wrapper, subject, key, descriptor);
      return descriptor.get ? descriptor.get.call(wrapper) : descriptor.value;
    },
    set(target, key, value, wrapper) {
      const subject = subjectOf(wrapper);
      if (!subject) return Reflect.set(target, key, value, wrapper);
      const known = describe(subject, key);
      if (!known && !Object.isExtensible(subject)) return false;
      const descriptor = known ?? late(memberOf(key, { ...ADDED, value }, true));
      if (!descriptor.set) return Reflect.set(subject, key, value);
      descriptor.set.call(wrapper, value);
      keep(wrapper, subject, key, descriptor);
      return true;
    },
  });
}

/** From now on, an own member shows as one, when the wrapper's are listed. */
function keep(wrapper: object, subject: object, key: PropertyKey, descriptor: PropertyDescriptor): void {
  if (Object.hasOwn(subject, key) && !Object.hasOwn(wrapper, key) && Object.isExtensible(wrapper)) {
    Object.defineProperty(wrapper, key, descriptor);
  }
}

/** To write an inherited property is to give the object one of its own. */
export function keepingWritten(
  write: BareSite,
  key: PropertyKey,
  late: (member: Member) => PropertyDescriptor,
): BareSite {
  return named(function (value) {
    write.call(this, value);
    const subject = subjectOf(this);
    const descriptor = subject && Object.getOwnPropertyDescriptor(subject, key);
    if (descriptor) keep(this, subject, key, late(memberOf(key as string | symbol, descriptor, true)));
  }, write);
}

/** What a property is like that came by being written. */
const ADDED = { writable: true, enumerable: true, configurable: true };

function subjectOf(wrapper: unknown): object | undefined {
  return typeof wrapper === "object" && wrapper !== null ? Forwarding.subjectOf(wrapper) : undefined;
}

/** A member of the subject that is not one of what every object has, wherever on its chain it is. */
function lateMember(subject: object, key: PropertyKey): Member | undefined {
  if (key === "constructor" || typeof key === "number") return undefined;
  for (
    let holder: object | null = subject;
    holder && !isRoot(holder);
    holder = Object.getPrototypeOf(holder)
  ) {
    const descriptor = Object.getOwnPropertyDescriptor(holder, key);
    if (descriptor) return memberOf(key, descriptor, holder === subject);
  }
  return undefined;
}
