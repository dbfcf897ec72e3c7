import { named } from "../forward/sites.ts";
import { isClass, type Member } from "../surface/member.ts";
import { reflect } from "../surface/reflect.ts";
import { Whereabouts } from "./whereabouts.ts";

/** A call that reached a subject. */
export interface Reached {
  /** The member; `undefined` for the subject itself, where it is a function. */
  readonly key: string | symbol | undefined;
  readonly receiver: unknown;
  readonly args: readonly unknown[];
}

/** What a call does in place of what the subject would do; `real` does that, with the arguments of the call unless others are given. */
export type Script = (call: Reached, real: (args?: readonly unknown[]) => unknown) => unknown;

/** A subject whose calls are taken down, and may be made to do something else. */
export interface Spied<Subject> {
  /** What is to be wrapped: the subject itself, or an heir of it where it cannot be changed. */
  readonly subject: Subject;
  /** The calls from outside, in order; those that the subject makes of itself are not among them. */
  readonly reached: Reached[];
  script: Script | undefined;
  /** Lets the subject do what it does, and follows it no more. */
  end(): void;
}

/**
 * Takes down the calls of a subject, by methods of its own in place of those that it has. One that cannot be changed, and a
 * function, is given an heir; the calls are then passed on to the original, which has the private fields.
 */
export function spyOn<Subject extends object>(
  original: Subject,
  /** Tells the calls of the subject's own from those of its wrapper. */
  whereabouts: Whereabouts = new Whereabouts(),
): Spied<Subject> {
  const spy = new Spy(original, whereabouts);
  const isFunction = typeof original === "function";
  const members = reflect(original).filter((member) => isMethod(original, member));
  const isOpen =
    !isFunction &&
    Object.isExtensible(original) &&
    members.every(({ own, configurable }) => !own || configurable);
  const subject: object = isOpen ? original : isFunction ? spy.heirOfFunction() : Object.create(original);
  if (!isOpen) forwardAccessors(original, subject);
  for (const { key, enumerable } of members) {
    const method = Reflect.get(original, key) as Method;
    Object.defineProperty(subject, key, {
      value: spy.method(key, method, isOpen),
      enumerable,
      configurable: true,
      writable: true,
    });
  }
  spy.subject = subject as Subject;
  return spy;
}

type Method = (...args: unknown[]) => unknown;

class Spy<Subject extends object> implements Spied<Subject> {
  readonly reached: Reached[] = [];
  script: Script | undefined;
  subject: Subject;
  readonly #original: Subject;
  readonly #whereabouts: Whereabouts;

  constructor(original: Subject, whereabouts: Whereabouts) {
    this.#original = original;
    this.#whereabouts = whereabouts;
    this.subject = original;
  }

  method(key: string | symbol, method: Method, isOpen: boolean): Method {
    const spy = this;
    const original = this.#original;
    const spying = function (this: unknown, ...args: unknown[]) {
      // An heir of the subject is taken for it, as it is one to whoever calls its methods.
      return spy.#call({ key, receiver: this, args }, (given = args) =>
        method.apply(
          isOpen && this !== undefined && this !== null ? this : original,
          given.map(spy.#whereabouts.callback),
        ),
      );
    };
    return named(spying, method);
  }

  heirOfFunction(): object {
    const spy = this;
    const original = this.#original as unknown as Method;
    const heir = function (this: unknown, ...args: unknown[]) {
      return spy.#call({ key: undefined, receiver: this, args }, (given = args) =>
        original.apply(this, given.map(spy.#whereabouts.callback)),
      );
    };
    return Object.setPrototypeOf(named(heir, original), original) as object;
  }

  #call(call: Reached, real: (args?: readonly unknown[]) => unknown): unknown {
    if (this.#whereabouts.isInSubject) return real();
    this.reached.push(call);
    const inside: typeof real = (args) => this.#whereabouts.inSubject(() => real(args));
    return this.script ? this.script(call, inside) : inside();
  }

  end(): void {
    this.script = undefined;
    this.#whereabouts.end();
  }
}

function isMethod(subject: object, { key, kind }: Member): boolean {
  if (kind === "method") return typeof subject !== "function" || !(key in Function.prototype);
  if (kind !== "property") return false;
  const value: unknown = Reflect.get(subject, key);
  return typeof value === "function" && !isClass(value);
}

/** Accessors of an original that has private fields do not work on an heir, so that they are asked of the original. */
function forwardAccessors(original: object, heir: object): void {
  for (const { key, kind, enumerable } of reflect(original)) {
    if (kind !== "accessor") continue;
    Object.defineProperty(heir, key, {
      get: () => Reflect.get(original, key) as unknown,
      set: (value) => {
        Reflect.set(original, key, value);
      },
      enumerable,
      configurable: true,
    });
  }
}
