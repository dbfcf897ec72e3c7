import { withSignature } from "../../forward/mirror-function.ts";
import { isClass, type Member } from "../../surface/member.ts";
import { reflect } from "../../surface/reflect.ts";
import { ExecutionContext } from "../execution/execution-context.ts";

/** A call that reached a subject. */
export interface SpiedCall {
  /** Key of the member; `undefined` for the subject itself, if it is a function. */
  readonly key: string | symbol | undefined;
  readonly receiver: unknown;
  readonly args: readonly unknown[];
}

/**
 * Replaces a call of the subject. `real` makes the original call, with the arguments of the call by default.
 */
export type Script = (call: SpiedCall, real: (args?: readonly unknown[]) => unknown) => unknown;

/** A subject whose calls are recorded and can be scripted. */
export interface Spied<Subject> {
  /**
   * The object to wrap: the subject itself, or an object that inherits from it if the subject cannot be
   * changed.
   */
  readonly subject: Subject;
  /** The calls from outside, in order. Calls that the subject makes on itself are not included. */
  readonly calls: SpiedCall[];
  script: Script | undefined;
  /** Stops recording and scripting. */
  end(): void;
}

/**
 * Records the calls of a subject through own methods in place of its own. For a frozen subject or a function,
 * an inheriting object is used, and calls are forwarded to the original, which has the private fields.
 */
export function spyOn<Subject extends object>(
  original: Subject,
  /** Distinguishes the subject's own calls from those of its wrapper. */
  context: ExecutionContext = new ExecutionContext(),
): Spied<Subject> {
  const spy = new Spy(original, context);
  const isFunction = typeof original === "function";
  const members = reflect(original).filter((member) => isMethod(original, member));
  const isOpen =
    !isFunction &&
    Object.isExtensible(original) &&
    members.every(({ own, configurable }) => !own || configurable);
  const double = (): object => (isFunction ? spy.functionDouble() : (Object.create(original) as object));
  const subject = isOpen ? original : double();
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
  readonly calls: SpiedCall[] = [];
  script: Script | undefined;
  subject: Subject;
  readonly #original: Subject;
  readonly #context: ExecutionContext;

  constructor(original: Subject, context: ExecutionContext) {
    this.#original = original;
    this.#context = context;
    this.subject = original;
  }

  method(key: string | symbol, method: Method, isOpen: boolean): Method {
    const spy = this;
    const original = this.#original;
    const spying = function (this: unknown, ...args: unknown[]) {
      // Callers of its methods see the inheriting object as the subject.
      return spy.#call({ key, receiver: this, args }, (input = args) =>
        method.apply(
          isOpen && this !== undefined && this !== null ? this : original,
          input.map(spy.#context.callback),
        ),
      );
    };
    return withSignature(spying, method);
  }

  functionDouble(): object {
    const spy = this;
    const original = this.#original as unknown as Method;
    const inheriting = function (this: unknown, ...args: unknown[]) {
      return spy.#call({ key: undefined, receiver: this, args }, (input = args) =>
        original.apply(this, input.map(spy.#context.callback)),
      );
    };
    return Object.setPrototypeOf(withSignature(inheriting, original), original) as object;
  }

  #call(call: SpiedCall, real: (args?: readonly unknown[]) => unknown): unknown {
    if (this.#context.isInSubject) return real();
    this.calls.push(call);
    const inside: typeof real = (args) => this.#context.inSubject(() => real(args));
    return this.script ? this.script(call, inside) : inside();
  }

  end(): void {
    this.script = undefined;
    this.#context.end();
  }
}

function isMethod(subject: object, { key, kind }: Member): boolean {
  if (kind === "method") return typeof subject !== "function" || !(key in Function.prototype);
  if (kind !== "property") return false;
  const value: unknown = Reflect.get(subject, key);
  return typeof value === "function" && !isClass(value);
}

/** Accessors that use private fields fail on an inheriting object, so they run on the original. */
function forwardAccessors(original: object, inheriting: object): void {
  for (const { key, kind, enumerable } of reflect(original)) {
    if (kind !== "accessor") continue;
    Object.defineProperty(inheriting, key, {
      get: () => Reflect.get(original, key) as unknown,
      set: (value) => {
        Reflect.set(original, key, value);
      },
      enumerable,
      configurable: true,
    });
  }
}
