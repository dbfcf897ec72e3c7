type OwnFunction = (...args: unknown[]) => unknown;

/** Wraps functions that an object has as values, each once, so that reading one twice gives the same function. */
export class OwnFunctions {
  readonly #wrapped = new Map<string, { readonly inner: unknown; readonly outer: unknown }>();

  of(member: string, inner: unknown, wrap: (inner: OwnFunction) => OwnFunction): unknown {
    if (typeof inner !== "function") return inner;
    const known = this.#wrapped.get(member);
    if (known?.inner === inner) return known.outer;
    const outer: (this: unknown, ...args: unknown[]) => unknown = function (...args) {
      return wrap((...given) => Reflect.apply(inner, this, given))(...args);
    };
    this.#wrapped.set(member, { inner, outer });
    return outer;
  }
}
