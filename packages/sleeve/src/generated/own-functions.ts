import { apply } from "../shared/intrinsics.ts";

type OwnFunction = (...args: unknown[]) => unknown;

/** Wraps functions that an object has as values, each once, so that reading one twice returns the same function. */
export class OwnFunctions {
  readonly #wrapped = new Map<string, { readonly inner: unknown; readonly outer: unknown }>();

  of(member: string, inner: unknown, wrap: (inner: OwnFunction) => OwnFunction): unknown {
    if (typeof inner !== "function") return inner;
    const wrapped = this.#wrapped.get(member);
    if (wrapped?.inner === inner) return wrapped.outer;
    const outer = function (this: unknown, ...args: unknown[]): unknown {
      const onReceiver = (...innerArgs: unknown[]) => apply(inner, this, innerArgs as never);
      return wrap(onReceiver)(...args);
    };
    this.#wrapped.set(member, { inner, outer });
    return outer;
  }
}
