import type { Call, Layer, Next } from "../forward/call.ts";
import { withSignature } from "../forward/mirror-function.ts";
import { keepsArguments } from "../forward/private-arguments.ts";
import { requireObject } from "../forward/subject.ts";
import { recordOf } from "../forward/wrapper-record.ts";
import { layer } from "../layers/layer.ts";
import { badOption, SleeveError } from "../shared/errors.ts";
import { isObject } from "../shared/intrinsics.ts";
import { type Callable, isClass, type Member } from "../surface/member.ts";
import { findOnChain } from "../surface/prototype-chain.ts";
import { reflect } from "../surface/reflect.ts";
import { rewrap } from "./decorate.ts";

/**
 * Plans layers around a subject once, for many requests. Returns a function that wraps the subject for one request: its
 * layers receive the context of the request, such as its user, its number or a logger, as `call.context`.
 *
 * Wrapping for a request plans nothing, and the wrapper holds no more than the context. Layers that need a context cannot be
 * used with `decorate`, which the compiler reports.
 *
 * @throws {SleeveError} `NO_SUBJECT`, `NOT_AN_OBJECT`, `NO_SUCH_MEMBER`; `BAD_OPTION` for a class, a layer that hides
 *   members, or `deep()`
 * @example
 * import { access, type AccessRequest, inContext, logging } from "sleeve";
 *
 * interface Request { readonly id: string; readonly user: { may(member: string): boolean } }
 * const ledger = { book: (berth: number) => berth };
 * const ledgerFor = inContext(
 *   ledger,
 *   logging({ fields: (request: Request) => ({ request: request.id }) }),
 *   access(({ member, context }: AccessRequest<Request>) => context.user.may(member)),
 * );
 * ledgerFor({ id: "r1", user: { may: () => true } }).book(4);
 */
export function inContext<Subject extends object, Context>(
  subject: Subject,
  ...layers: readonly Layer<NoInfer<Subject>, Context>[]
): (context: NoInfer<Context>) => Subject {
  requireObject(subject, () => "inContext()", "subject");
  if (typeof subject === "function" && isClass(subject))
    throw badOption("inContext: the subject is a class. Pass an instance, or a function that creates one.");
  const hider = layers.find(({ hides }) => hides);
  if (hider)
    throw badOption(
      `inContext: the layer "${hider.name}" hides members, which depends on the request. Let it throw.`,
    );
  if (layers.some(({ forwarding }) => forwarding === "deep"))
    throw badOption(
      "inContext: deep() cannot be used, because inner objects outlive a request. Use decorate for each request.",
    );
  const planned = rewrap(subject, [receivingContext(), ...(layers as readonly Layer<never>[])]);
  // The wrapper of a request has the members of the subject.
  if (typeof planned === "function")
    return ((context: unknown) => functionIn(planned as unknown as Callable, context)) as never;
  const Wrapper = contextWrapperClass(subject, planned);
  return (context) => new Wrapper(planned, context) as unknown as Subject;
}

/** Represents the absence of a context, which may itself be `undefined`. */
const NONE = Symbol("no context");

/** The context of the call that begins, until the outermost layer takes it. */
let current: unknown = NONE;

function receivingContext(): Layer {
  const receiving =
    (next: Next): Next =>
    (call: Call) => {
      const context = current;
      if (context === NONE) throw noContext(call.member);
      current = NONE;
      return next({ member: call.member, args: call.args, wrapper: call.wrapper, context });
    };
  return keepsArguments(
    layer("context", {
      call: receiving,
      // Reading a method returns a function, which receives the context when it is called.
      read: (next, member) => (member.kind === "method" ? next : receiving(next)),
      write: receiving,
    }),
  );
}

function noContext({ label }: Member): SleeveError {
  return new SleeveError(
    "NO_CONTEXT",
    `${label} was used outside a request. Use it on the wrapper that the function of inContext() returns.`,
  );
}

type Members = Record<PropertyKey, unknown>;

/** Holds the planned wrapper and the context of one request. Its subclasses have the members of one subject. */
class ContextWrapper {
  readonly #planned: Members;
  readonly #context: unknown;

  constructor(planned: object, context: unknown) {
    this.#planned = planned as Members;
    this.#context = context;
  }

  /** Returns the wrapper that a receiver is, or inherits from. */
  static of(receiver: unknown, key: PropertyKey): ContextWrapper {
    if (isObject(receiver)) {
      const wrapper = findOnChain(receiver, (holder) =>
        #planned in holder ? (holder as ContextWrapper) : undefined,
      );
      if (wrapper) return wrapper;
    }
    throw new SleeveError(
      "NO_CONTEXT",
      `${String(key)} was used on an object that is not the wrapper of a request, or on a Proxy around one. Use it on the ` +
        "wrapper that the function of inContext() returns.",
    );
  }

  static method(key: PropertyKey): (this: ContextWrapper, ...args: unknown[]) => unknown {
    return {
      method(this: ContextWrapper, ...args: unknown[]): unknown {
        const wrapper = #planned in this ? this : ContextWrapper.of(this, key);
        const planned = wrapper.#planned;
        const method = planned[key] as Callable;
        for (let at = 0; at < args.length; at++) if (args[at] === this) args[at] = planned;
        current = wrapper.#context;
        try {
          let result: unknown;
          if (args.length === 1) result = method.call(planned, args[0] as never);
          else result = args.length === 0 ? method.call(planned) : method.apply(planned, args as never[]);
          return typeof result === "object" && result === planned ? this : result;
        } finally {
          current = NONE;
        }
      },
    }.method;
  }

  static getter(key: PropertyKey): (this: ContextWrapper) => unknown {
    return function (this: ContextWrapper) {
      const wrapper = ContextWrapper.of(this, key);
      current = wrapper.#context;
      try {
        const value = wrapper.#planned[key];
        return typeof value === "object" && value === wrapper.#planned ? this : value;
      } finally {
        current = NONE;
      }
    };
  }

  static setter(key: PropertyKey): (this: ContextWrapper, value: unknown) => void {
    return function (this: ContextWrapper, value: unknown) {
      const wrapper = ContextWrapper.of(this, key);
      current = wrapper.#context;
      try {
        wrapper.#planned[key] = value === this ? wrapper.#planned : value;
      } finally {
        current = NONE;
      }
    };
  }
}

type ContextWrapperClass = new (planned: object, context: unknown) => object;

/** Returns a class with the members of a subject. Fields are accessors of its prototype, so that creation costs nothing more. */
function contextWrapperClass(subject: object, planned: object): ContextWrapperClass {
  const Wrapper = class extends ContextWrapper {};
  for (const { key, kind, readable, writable, enumerable, signature } of reflect(subject)) {
    const isMethod = kind === "method" && typeof Reflect.get(subject, key) === "function";
    const descriptor: PropertyDescriptor = isMethod
      ? {
          value: withSignature(ContextWrapper.method(key), signature ?? { name: String(key), length: 0 }),
          writable: true,
        }
      : {
          ...(readable && { get: ContextWrapper.getter(key) }),
          ...(writable && { set: ContextWrapper.setter(key) }),
        };
    Object.defineProperty(Wrapper.prototype, key, { ...descriptor, enumerable, configurable: true });
  }
  // A sealed wrapper hides the prototype of its subject.
  const parent =
    recordOf(planned)?.forwarding === "closed"
      ? (Object.getPrototypeOf(subject) as object | null)
      : Object.prototype;
  const subjectClass: unknown = parent?.constructor;
  Object.defineProperty(Wrapper.prototype, "constructor", {
    value: subjectClass,
    writable: true,
    configurable: true,
  });
  Object.setPrototypeOf(Wrapper.prototype, parent);
  return Wrapper;
}

function functionIn(planned: Callable, context: unknown): Callable {
  return withSignature(function (this: unknown, ...args: unknown[]): unknown {
    current = context;
    try {
      return Reflect.apply(planned, this, args) as unknown;
    } finally {
      current = NONE;
    }
  }, planned) as Callable;
}
