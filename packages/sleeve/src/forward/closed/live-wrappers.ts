import { PrivateWeakMap } from "../../shared/intrinsics.ts";
import type { Layer } from "../call.ts";
import { Forwarding } from "./templates.ts";

/** What is known of a class of closed wrappers. */
export interface WrapperClassRecord {
  /** The layers of its wrappers. `undefined` for the wrappers of an adapter. */
  readonly layers: readonly Layer<never>[] | undefined;
  readonly live: LiveWrappers;
}

/** The classes of closed wrappers, by the prototype of their wrappers. */
export const wrapperClasses = /* @__PURE__ */ new PrivateWeakMap<object, WrapperClassRecord>();

/** The wrapper behind an object that is used in its place. */
export interface FoundWrapper {
  readonly wrapper: object;
  readonly subject: object;
  /** Whether the object is a proxy around the wrapper, rather than an object that inherits from it. */
  readonly isProxied: boolean;
}

/**
 * The wrappers of subjects of one shape that are in use, up to a maximum number.
 *
 * Members of a wrapper are reached with another `this` through an object that inherits from it, whose prototypes lead to
 * the wrapper, and through a client's own `Proxy` around it, which hides the wrapper. The latter is found by defining a
 * property through the proxy and looking for the wrapper that has got it.
 */
export class LiveWrappers {
  #references: WeakRef<object>[] = [];
  readonly #found = new WeakMap<object, FoundWrapper>();

  add(wrapper: object): void {
    if (this.#references.length < MAX_WRAPPERS) this.#references.push(new WeakRef(wrapper));
  }

  /** Returns the wrapper that an object inherits from or stands in front of. */
  find(receiver: unknown): FoundWrapper | undefined {
    if ((typeof receiver !== "object" && typeof receiver !== "function") || receiver === null)
      return undefined;
    const known = this.#found.get(receiver);
    if (known) return known;
    const found = this.#inheritedWrapper(receiver) ?? this.#proxiedWrapper(receiver);
    if (found) this.#found.set(receiver, found);
    return found;
  }

  /** Returns the adaptee of an adapter's wrapper that an object inherits from or stands in front of. */
  findAdaptee(receiver: unknown): object | undefined {
    const found = this.find(receiver);
    return found && wrapperClasses.get(Object.getPrototypeOf(found.wrapper))?.layers === undefined
      ? found.subject
      : undefined;
  }

  #proxiedWrapper(receiver: object): FoundWrapper | undefined {
    // A proxy shows the prototype of the wrapper behind it. No other object is touched.
    if (!this.#isOnChain(receiver)) return undefined;
    for (let holder: object | null = receiver; holder; holder = Object.getPrototypeOf(holder)) {
      if (wrapperClasses.has(holder)) return undefined;
      const wrapper = this.#marked(holder);
      const subject = wrapper && Forwarding.subjectOf(wrapper);
      if (subject) return { wrapper, subject, isProxied: holder === receiver };
    }
    return undefined;
  }

  #isOnChain(receiver: object): boolean {
    for (let holder: object | null = receiver; holder; holder = Object.getPrototypeOf(holder)) {
      if (wrapperClasses.get(holder)?.live === this) return true;
    }
    return false;
  }

  /** Returns the wrapper to which a property of an object belongs. */
  #marked(holder: object): object | undefined {
    const mark = Symbol("mark");
    try {
      if (!Reflect.defineProperty(holder, mark, { value: true, configurable: true }))
        return this.#onlyNonExtensible();
    } catch {
      return undefined;
    }
    let marked: object | undefined;
    this.#references = this.#references.filter((reference) => {
      const wrapper = reference.deref();
      if (wrapper && Object.hasOwn(wrapper, mark)) marked = wrapper;
      return wrapper !== undefined;
    });
    Reflect.deleteProperty(holder, mark);
    return marked;
  }

  /** A property cannot be defined on a wrapper that is not extensible, but there may be only one such wrapper. */
  #onlyNonExtensible(): object | undefined {
    const wrappers = this.#references.map((reference) => reference.deref());
    const [wrapper, ...others] = wrappers.filter((wrapper) => wrapper && !Object.isExtensible(wrapper));
    return others.length === 0 ? wrapper : undefined;
  }

  #inheritedWrapper(receiver: object): FoundWrapper | undefined {
    for (let holder: object | null = receiver; holder; holder = Object.getPrototypeOf(holder)) {
      const prototype: object | null = Object.getPrototypeOf(holder);
      if (!prototype || wrapperClasses.get(prototype)?.live !== this) continue;
      const subject = Forwarding.subjectOf(holder);
      if (subject) return { wrapper: holder, subject, isProxied: false };
    }
    return undefined;
  }
}

/** Beyond this number of wrappers of one shape, those behind a client's own `Proxy` are not found. */
const MAX_WRAPPERS = 256;
