import type { Callable, Member } from "../../surface/member.ts";
import type { Borrow, OwnMethod } from "./call-sites.ts";
import type { LiveWrappers } from "./live-wrappers.ts";

/** How the forwarders of one member handle uses whose `this` is not a wrapper. */
export interface Borrows {
  readonly call: Borrow;
  readonly read: (method: OwnMethod | undefined) => Borrow;
  readonly write: Borrow;
}

/**
 * Returns how a member behaves when its `this` is not a wrapper, as the member of the subject would:
 * - an inherited member acts on that `this`, which may be an object of the same class;
 * - an own member belongs to the subject of the wrapper that `this` inherits from or stands in front of.
 */
export function borrowsOf(
  { key, label, own, kind }: Member,
  prototype: object | null,
  live: LiveWrappers,
): Borrows {
  return own
    ? borrowedFromSubject(key, label, live)
    : borrowedFromClass(key, label, kind, prototype ?? {}, live);
}

function borrowedFromClass(
  key: PropertyKey,
  label: string,
  kind: Member["kind"],
  prototype: object,
  live: LiveWrappers,
): Borrows {
  return {
    call: (receiver, args, target) => {
      const fn = Reflect.get(prototype, key, receiver) as Callable;
      if (target) return Reflect.construct(fn, args, target as Callable);
      return Reflect.apply(fn, receiver, args as never[]);
    },
    // A property on a prototype may since have been hidden by one of the subject.
    read: () => (receiver) => {
      const holder = kind === "property" ? live.find(receiver)?.subject : undefined;
      return Reflect.get(holder ?? prototype, key, receiver);
    },
    write: (receiver, [value]) => assign(prototype, key, value, receiver, label),
  };
}

function borrowedFromSubject(key: PropertyKey, label: string, live: LiveWrappers): Borrows {
  const match = (receiver: unknown) => {
    const wrapper = live.find(receiver);
    if (wrapper) return wrapper;
    throw new TypeError(
      `${label} was used on an object that is not a wrapper, or on a Proxy around one of many wrappers. ` +
        "Use it on the wrapper, or wrap with open().",
    );
  };
  return {
    call: (receiver, args, target) => {
      const { subject } = match(receiver);
      const fn = Reflect.get(subject, key) as Callable;
      return target
        ? Reflect.construct(fn, args, target as Callable)
        : Reflect.apply(fn, receiver, args as never[]);
    },
    read: (method) => (receiver) => {
      const { wrapper, subject } = match(receiver);
      const value: unknown = Reflect.get(subject, key, receiver);
      if (value === subject) return wrapper;
      return typeof value === "function" && method ? method(wrapper, value as Callable) : value;
    },
    write: (receiver, [value]) => {
      const { subject, isProxied } = match(receiver);
      assign(subject, key, value, isProxied ? subject : receiver, label);
    },
  };
}

/** Assigns a property as the language does in strict mode. */
function assign(target: object, key: PropertyKey, value: unknown, receiver: unknown, label: string): void {
  if (!Reflect.set(target, key, value, receiver)) throw new TypeError(`The property ${label} is read-only.`);
}
