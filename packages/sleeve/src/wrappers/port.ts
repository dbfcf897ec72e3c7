import { isOfLanguage } from "../forward/language.ts";
import { named } from "../forward/sites.ts";
import { remember } from "../forward/wrapped.ts";
import { type Callable, isClass, type Member } from "../surface/member.ts";
import type { Seat } from "./seat.ts";

/**
 * An object with these members, each of which is reached through the seat. It is what layers are put around, so
 * they stay while the occupants change.
 */
export function closedPort(seat: Seat<object>, members: readonly Member[], why: string): object {
  const shown: PropertyDescriptorMap = Object.create(null);
  // The map is keyed by both strings and symbols, which its type does not say.
  for (const member of members) shown[member.key as string] = describe(member);
  const port: object = Object.create(Object.prototype, shown);
  remember(port, { subject: port, layers: [], forwarding: "closed", why, gate: seat.requireOpen });
  return port;

  function describe({ key, label, kind, writable, signature }: Member): PropertyDescriptor {
    if (kind === "method") {
      const value = methodOf(seat, () => port, key, signature ?? { name: label, length: 0 });
      return { value, enumerable: true, configurable: true };
    }
    return {
      get: () => shownFor(port, seat, (subject) => Reflect.get(subject, key, subject)),
      ...(writable && {
        set: (value: unknown) => void seat.use((subject) => Reflect.set(subject, key, value, subject)),
      }),
      enumerable: true,
      configurable: true,
    };
  }
}

export interface OpenPortOptions {
  /** The class of the subject, whose members are known before there is one. */
  readonly of?: (abstract new (...args: never[]) => object) | undefined;
  readonly why: string;
}

/** The same for a subject whose members are not known before it is there. */
export function openPort(seat: Seat<object>, { of, why }: OpenPortOptions): object {
  const methods = new Map<PropertyKey, Callable>();
  const known: object | undefined = of?.prototype;
  const method = (key: PropertyKey, signature: Callable | undefined): Callable => {
    const found =
      methods.get(key) ?? methodOf(seat, () => port, key, signature ?? { name: String(key), length: 0 });
    methods.set(key, found);
    return found;
  };
  const read = (key: PropertyKey): unknown => {
    const promised = known && findMethod(known, key);
    if (promised) return method(key, promised);
    // Whoever asks whether it is a promise, or prints it, is not to be the one who makes the subject.
    if (!seat.isOccupied && (key === "then" || key === INSPECT)) return undefined;
    // Where the subject comes later, so does all that it answers, and only a method can.
    if (!seat.prepare()) return typeof key === "symbol" ? undefined : method(key, undefined);
    return shownFor(port, seat, (subject) => {
      const value: unknown = Reflect.get(subject, key, subject);
      const isMethod = typeof value === "function" && !isClass(value) && !isOfLanguage(value);
      return isMethod ? method(key, value as Callable) : value;
    });
  };
  const onSubject = <Result>(run: (subject: object) => Result, before: Result): Result =>
    seat.prepare() ? (seat.use(run) as Result) : before;
  const port = new Proxy<object>(
    {},
    {
      get: (_, key) => read(key),
      set: (_, key, value) => onSubject((subject) => Reflect.set(subject, key, value, subject), false),
      has: (_, key) => (known && key in known) || onSubject((subject) => Reflect.has(subject, key), false),
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
      getPrototypeOf: () => known ?? onSubject<object | null>(Object.getPrototypeOf, Object.prototype),
      setPrototypeOf: () => false,
      preventExtensions: () => false,
    },
  );
  remember(port, { subject: port, layers: [], forwarding: "open", why, gate: seat.requireOpen });
  return port;
}

const INSPECT = Symbol.for("nodejs.util.inspect.custom");

/** Runs something with the subject; what gives back the subject itself gives back what stands for it. */
function shownFor(shown: object, seat: Seat<object>, run: (subject: object) => unknown): unknown {
  return seat.use((subject) => {
    const result = run(subject);
    return result === subject ? shown : result;
  });
}

function methodOf(
  seat: Seat<object>,
  portNow: () => object,
  key: PropertyKey,
  signature: { readonly name: string; readonly length: number },
): Callable {
  const { method } = {
    method(this: unknown, ...args: never[]) {
      const port = portNow();
      const shown = isHeirOf(port, this) ? this : port;
      return shownFor(shown, seat, (subject) =>
        Reflect.apply(Reflect.get(subject, key, subject) as Callable, subject, args),
      );
    },
  };
  return named(method, signature);
}

/** Whether something was made of a port by inheritance, as a refined abstraction is. */
function isHeirOf(port: object, value: unknown): value is object {
  return typeof value === "object" && value !== null && Object.prototype.isPrototypeOf.call(port, value);
}

/** The method that a prototype has under a key, found without running a getter. */
function findMethod(prototype: object, key: PropertyKey): Callable | undefined {
  if (key === "constructor") return undefined;
  for (
    let each: object | null = prototype;
    each && each !== Object.prototype;
    each = Object.getPrototypeOf(each)
  ) {
    const value: unknown = Object.getOwnPropertyDescriptor(each, key)?.value;
    if (typeof value === "function") return value as Callable;
  }
  return undefined;
}
