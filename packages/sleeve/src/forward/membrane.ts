import type { Forwarded, Layer } from "./call.ts";
import { isLanguageValue } from "./language.ts";
import { openHandler } from "./open.ts";
import { shadowOf } from "./shadow.ts";
import { isBehind, wrappedOf } from "./wrapped.ts";

/** The two sides of a membrane: the client's, outside, and the subject's, inside. */
export type Side = "outside" | "inside";

export interface MembraneOptions {
  readonly forwarding: Exclude<Forwarded, "closed">;
  readonly layers: readonly Layer<never>[];
  /** Asked whenever the client reaches in; throws where it may not any more. */
  readonly gate?: (() => void) | undefined;
}

/**
 * Carries values between a client and the world of a subject.
 *
 * `deep` and `sealed` ones show every object of one side to the other through a proxy: the same one each time, and
 * what comes back is the object itself. `open` ones exchange the subject for its wrapper, and leave the rest as it is.
 */
export class Membrane {
  readonly root: object;
  readonly forwarding: Exclude<Forwarded, "closed">;
  readonly gate: () => void;
  readonly #layers: readonly Layer<never>[];
  /** Whether the layers are on everything that comes out. */
  readonly #isDeep: boolean;
  readonly #made = new WeakSet<object>();
  /** What stands on a side for an object of the other, and the objects that they stand for. */
  readonly #shown = { outside: new WeakMap<object, object>(), inside: new WeakMap<object, object>() };
  readonly #real = { outside: new WeakMap<object, object>(), inside: new WeakMap<object, object>() };

  constructor(root: object, { forwarding, layers, gate = () => {} }: MembraneOptions) {
    this.root = root;
    this.forwarding = forwarding;
    this.gate = gate;
    this.#layers = layers;
    this.#isDeep = layers.some((layer) => layer.forwarding === "deep");
  }

  /** What stands on a side for an object of the other. */
  show(real: object, on: Side): object {
    const found = this.#shown[on].get(real);
    if (found) return found;
    const isInspected = on === "outside" && this.forwarding !== "sealed";
    const shown = new Proxy(shadowOf(real, isInspected ? real : undefined), openHandler(this, real, on));
    this.#shown[on].set(real, shown);
    this.standFor(shown, real, on);
    return shown;
  }

  /** Has something stand for an object of the other side wherever it goes back there. */
  standFor(shown: object, real: object, on: Side): void {
    this.#real[on].set(shown, real);
  }

  /** What a value that comes from one side is on the other. */
  pass(value: unknown, to: Side): unknown {
    if ((typeof value !== "object" && typeof value !== "function") || value === null) return value;
    const known = this.#real[opposite(to)].get(value) ?? this.#shown[to].get(value);
    if (known) return known;
    const subject = to === "outside" && this.#subjectBehind(value);
    if (subject) return this.show(subject, to);
    if (this.forwarding === "open")
      return value === this.root && to === "outside" ? this.show(value, to) : value;
    if (value instanceof Promise) return this.#passPromise(value, to);
    return isLanguageValue(value) ? value : this.show(value, to);
  }

  /** The subject, where something is that by another name: what is behind a port or, sealed, another wrapper of it. */
  #subjectBehind(value: object): object | undefined {
    if (isBehind(value, this.root)) return this.root;
    const bare = this.forwarding === "sealed" ? wrappedOf(value)?.subject : undefined;
    if (!bare) return undefined;
    return isBehind(bare, this.root) ? this.root : this.#isOfSubject(bare) ? bare : undefined;
  }

  /** The object of a side that something on the other stands for; the thing itself where it stands for none. */
  original(value: object | null, on: Side): object | null {
    return (value && this.#real[opposite(on)].get(value)) ?? value;
  }

  passAll(values: readonly unknown[], to: Side): unknown[] {
    return values.map((value) => this.pass(value, to));
  }

  /** Runs something on the other side; what it gives back or throws comes over to this one. */
  across(to: Side, run: () => unknown): unknown {
    let result: unknown;
    try {
      result = run();
    } catch (error) {
      throw this.pass(error, to);
    }
    return this.pass(result, to);
  }

  /** The layers on an object as a side sees it. */
  layersOn(real: object, on: Side): readonly Layer<never>[] {
    return on === "outside" && (this.#isDeep || this.#isOfSubject(real)) ? this.#layers : [];
  }

  /**
   * Whether an object is the subject or, where that is a class, was made by it or is the prototype of what was; or inherits
   * from one of these.
   */
  #isOfSubject(real: object): boolean {
    const { madePrototype } = this;
    for (let each: object | null = real; each; each = Object.getPrototypeOf(each)) {
      if (each === this.root || each === madePrototype || this.#made.has(each)) return true;
      if (isBehind(each, this.root)) return true;
    }
    return false;
  }

  /** Notes what the subject constructed, which need not inherit from its prototype. */
  noteMade(real: object): object {
    this.#made.add(real);
    return real;
  }

  /** The prototype of the objects that the subject makes, where it is a class or a function that makes any. */
  get madePrototype(): object | undefined {
    if (typeof this.root !== "function") return undefined;
    const { prototype } = this.root as { readonly prototype?: unknown };
    return typeof prototype === "object" && prototype !== null ? prototype : undefined;
  }

  isMade(real: object): boolean {
    if (this.#made.has(real)) return true;
    const prototype = this.madePrototype;
    return prototype !== undefined && Object.prototype.isPrototypeOf.call(prototype, real);
  }

  /** What something on a side stands for, where it is a sealed wrapper that layers are on. */
  sealedSubject(value: unknown, on: Side): object | undefined {
    if (this.forwarding !== "sealed" || on !== "outside") return undefined;
    const real =
      typeof value === "object" || typeof value === "function"
        ? this.#real.outside.get(value as object)
        : undefined;
    return real && this.#isOfSubject(real) ? real : undefined;
  }

  #passPromise(promise: Promise<unknown>, to: Side): Promise<unknown> {
    const gate = to === "outside" ? this.gate : () => {};
    const passed = Promise.prototype.then.call(
      promise,
      (value) => {
        gate();
        return this.pass(value, to);
      },
      (error) => {
        gate();
        throw this.pass(error, to);
      },
    );
    // One that the subject was handed may come back out, to be handled there as the promise it stands for.
    if (to === "inside") passed.catch(() => {});
    this.#shown[to].set(promise, passed);
    this.standFor(passed, promise, to);
    return passed;
  }
}

export function opposite(side: Side): Side {
  return side === "outside" ? "inside" : "outside";
}
