/** Returns the subject of a wrapper, or `undefined` for another object. */
type SubjectOf = (wrapper: object) => object | undefined;

/** The wrapper behind an object that is used in its place. */
export interface FoundWrapper {
  readonly wrapper: object;
  readonly subject: object;
  /** Whether the object is a proxy around the wrapper, rather than an object that inherits from it. */
  readonly isProxied: boolean;
}

/**
 * The wrappers of some classes that are in use, up to a maximum number.
 *
 * Members of a wrapper are reached with another `this` through an object that inherits from it, whose prototypes lead to
 * the wrapper, and through a client's own `Proxy` around it, which hides the wrapper. The latter is found by defining a
 * property through the proxy and looking for the wrapper that has got it.
 */
export class LiveWrappers {
  #references: WeakRef<object>[] = [];
  readonly #prototypes = new WeakSet<object>();
  readonly #subjectOf: SubjectOf;
  readonly #found = new WeakMap<object, FoundWrapper>();

  constructor(subjectOf: SubjectOf) {
    this.#subjectOf = subjectOf;
  }

  /** Adds a class of wrappers, by its prototype. */
  addClass(prototype: object): void {
    this.#prototypes.add(prototype);
  }

  add(wrapper: object): void {
    if (this.#references.length < MAX_WRAPPERS) this.#references.push(new WeakRef(wrapper));
  }

  /** Returns the wrapper that an object inherits from or stands in front of. */
  find(receiver: unknown): FoundWrapper | undefined {
    if ((typeof receiver !== "object" && typeof receiver !== "function") || receiver === null)
      return undefined;
    const cached = this.#found.get(receiver);
    if (cached) return cached;
    const match = this.#inheritedWrapper(receiver) ?? this.#proxiedWrapper(receiver);
    if (match) this.#found.set(receiver, match);
    return match;
  }

  #proxiedWrapper(receiver: object): FoundWrapper | undefined {
    // A proxy shows the prototype of the wrapper behind it. No other object is touched.
    if (!this.#isOnChain(receiver)) return undefined;
    for (let holder: object | null = receiver; holder; holder = Object.getPrototypeOf(holder)) {
      if (this.#prototypes.has(holder)) return undefined;
      const wrapper = this.#marked(holder);
      const subject = wrapper && this.#subjectOf(wrapper);
      if (subject) return { wrapper, subject, isProxied: holder === receiver };
    }
    return undefined;
  }

  #isOnChain(receiver: object): boolean {
    for (let holder: object | null = receiver; holder; holder = Object.getPrototypeOf(holder)) {
      if (this.#prototypes.has(holder)) return true;
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
      if (!prototype || !this.#prototypes.has(prototype)) continue;
      const subject = this.#subjectOf(holder);
      if (subject) return { wrapper: holder, subject, isProxied: false };
    }
    return undefined;
  }
}

/** Beyond this number of wrappers, those behind a client's own `Proxy` are not found. */
const MAX_WRAPPERS = 256;
