import { findOnChain } from "../../surface/prototype-chain.ts";
import type { ForwardingMode, Layer } from "../call.ts";
import { isAliasOf, recordOf } from "../wrapper-record.ts";
import { isBuiltinValue } from "./builtins.ts";
import { createProxyTarget } from "./proxy-target.ts";

/** The side of a value: `outside` is the client's, `inside` the subject's. */
export type Side = "outside" | "inside";

/** Creates the proxy handler of an object on one side of a membrane. */
export type HandlerFactory = (membrane: Membrane, real: object, on: Side) => ProxyHandler<object>;

export interface MembraneOptions {
  readonly forwarding: Exclude<ForwardingMode, "closed">;
  readonly layers: readonly Layer<never>[];
  /** Called on each access by the client. Throws if access has been revoked. */
  readonly gate?: (() => void) | undefined;
}

/**
 * Carries values between a client and the objects of a subject.
 *
 * Under `deep` and `sealed` forwarding, each side sees objects of the other through proxies. One object
 * always has the same proxy, and a proxy that returns to its own side is unwrapped. Under `open` forwarding,
 * only the subject is exchanged for its wrapper.
 */
export class Membrane {
  readonly root: object;
  readonly forwarding: Exclude<ForwardingMode, "closed">;
  readonly gate: () => void;
  readonly #layers: readonly Layer<never>[];
  readonly #createHandler: HandlerFactory;
  /** Whether the layers apply to every object that comes out. */
  readonly #isDeep: boolean;
  readonly #created = new WeakSet<object>();
  /** For each side, the proxies shown there by original, and the originals by proxy. */
  readonly #wrappers = { outside: new WeakMap<object, object>(), inside: new WeakMap<object, object>() };
  readonly #originals = { outside: new WeakMap<object, object>(), inside: new WeakMap<object, object>() };

  constructor(
    root: object,
    createHandler: HandlerFactory,
    { forwarding, layers, gate = () => {} }: MembraneOptions,
  ) {
    this.root = root;
    this.forwarding = forwarding;
    this.gate = gate;
    this.#layers = layers;
    this.#createHandler = createHandler;
    this.#isDeep = layers.some((layer) => layer.forwarding === "deep");
  }

  /** Returns the proxy that represents an object on a side. */
  toWrapper(real: object, on: Side): object {
    const found = this.#wrappers[on].get(real);
    if (found) return found;
    const isInspected = on === "outside" && this.forwarding !== "sealed";
    const shown = new Proxy(
      createProxyTarget(real, isInspected ? real : undefined),
      this.#createHandler(this, real, on),
    );
    this.#wrappers[on].set(real, shown);
    this.registerPair(shown, real, on);
    return shown;
  }

  /** Registers an object and its representation on the other side. */
  registerPair(shown: object, real: object, on: Side): void {
    this.#originals[on].set(shown, real);
  }

  /** Converts a value from one side to the other. */
  toOtherSide(value: unknown, to: Side): unknown {
    if ((typeof value !== "object" && typeof value !== "function") || value === null) return value;
    const known = this.#originals[opposite(to)].get(value) ?? this.#wrappers[to].get(value);
    if (known) return known;
    const subject = to === "outside" && this.#subjectBehind(value);
    if (subject) return this.toWrapper(subject, to);
    if (this.forwarding === "open")
      return value === this.root && to === "outside" ? this.toWrapper(value, to) : value;
    if (value instanceof Promise) return this.#promiseToOtherSide(value, to);
    return isBuiltinValue(value) ? value : this.toWrapper(value, to);
  }

  /**
   * Returns the subject if a value is an alias of it: the subject of a port or, under sealed forwarding,
   * another wrapper of it.
   */
  #subjectBehind(value: object): object | undefined {
    if (isAliasOf(value, this.root)) return this.root;
    const bare = this.forwarding === "sealed" ? recordOf(value)?.subject : undefined;
    if (!bare) return undefined;
    return isAliasOf(bare, this.root) ? this.root : this.#isOfSubject(bare) ? bare : undefined;
  }

  /** Returns the original that a proxy represents, or the value itself if it is not a proxy. */
  unwrap(value: object | null, on: Side): object | null {
    return (value && this.#originals[opposite(on)].get(value)) ?? value;
  }

  allToOtherSide(values: readonly unknown[], to: Side): unknown[] {
    return values.map((value) => this.toOtherSide(value, to));
  }

  /** Runs a function on the other side. Its result or error is converted back to this side. */
  callAcross(to: Side, run: () => unknown): unknown {
    let result: unknown;
    try {
      result = run();
    } catch (error) {
      throw this.toOtherSide(error, to);
    }
    return this.toOtherSide(result, to);
  }

  /** Returns the layers on an object as seen from a side. */
  layersOn(real: object, on: Side): readonly Layer<never>[] {
    return on === "outside" && (this.#isDeep || this.#isOfSubject(real)) ? this.#layers : [];
  }

  /**
   * Whether an object is the subject, was constructed by it, is the prototype of its instances, or inherits
   * from one of these.
   */
  #isOfSubject(real: object): boolean {
    const { createdPrototype } = this;
    const isOne = (holder: object) =>
      holder === this.root ||
      holder === createdPrototype ||
      this.#created.has(holder) ||
      isAliasOf(holder, this.root);
    return findOnChain(real, (holder) => isOne(holder) || undefined) === true;
  }

  /**
   * Registers an object that the subject constructed, which need not inherit from the subject's prototype.
   */
  noteCreated(real: object): object {
    this.#created.add(real);
    return real;
  }

  /**
   * Returns the prototype of the objects that the subject constructs, if it is a class or constructor
   * function.
   */
  get createdPrototype(): object | undefined {
    if (typeof this.root !== "function") return undefined;
    const { prototype } = this.root as { readonly prototype?: unknown };
    return typeof prototype === "object" && prototype !== null ? prototype : undefined;
  }

  isCreated(real: object): boolean {
    if (this.#created.has(real)) return true;
    const prototype = this.createdPrototype;
    return prototype !== undefined && Object.prototype.isPrototypeOf.call(prototype, real);
  }

  /** Returns the original of a sealed wrapper that layers apply to. */
  sealedSubject(value: unknown, on: Side): object | undefined {
    if (this.forwarding !== "sealed" || on !== "outside") return undefined;
    const real =
      typeof value === "object" || typeof value === "function"
        ? this.#originals.outside.get(value as object)
        : undefined;
    return real && this.#isOfSubject(real) ? real : undefined;
  }

  #promiseToOtherSide(promise: Promise<unknown>, to: Side): Promise<unknown> {
    const gate = to === "outside" ? this.gate : () => {};
    const passed = Promise.prototype.then.call(
      promise,
      (value) => {
        gate();
        return this.toOtherSide(value, to);
      },
      (error) => {
        gate();
        throw this.toOtherSide(error, to);
      },
    );
    // A promise passed to the subject may come back out and must then be the promise it represents.
    if (to === "inside") passed.catch(() => {});
    this.#wrappers[to].set(promise, passed);
    this.registerPair(passed, promise, to);
    return passed;
  }
}

export function opposite(side: Side): Side {
  return side === "outside" ? "inside" : "outside";
}
