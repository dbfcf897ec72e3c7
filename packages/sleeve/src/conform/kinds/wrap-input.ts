import { wrapFactory } from "../implementation.ts";
import type { Implementation, Suppressions } from "../types.ts";

/** How a wrapper is created and released. */
export interface WrapOptions<Target, Inner> {
  readonly wrap: (inner: Inner) => Target | Promise<Target>;
  readonly release?: (wrapper: Target) => unknown;
  readonly suppressions?: Suppressions;
}

/** Returns an implementation around another, which is created before it and released after it. */
export function wrapInput<Target extends object, Inner extends object>(
  inner: Implementation<object>,
  { wrap, release, suppressions }: WrapOptions<Target, Inner>,
): Implementation<Target> {
  const instances = new WeakMap<object, object>();
  return {
    ...(suppressions && { suppressions }),
    create: () =>
      wrapFactory(inner.create(), (instance) =>
        wrapFactory(wrap(instance as Inner), (wrapper) => {
          instances.set(wrapper, instance);
          return wrapper;
        }),
      ),
    release: async (wrapper) => {
      await release?.(wrapper);
      const instance = instances.get(wrapper);
      if (instance) await inner.release?.(instance);
    },
  };
}

/** Returns the `wrap` function with a change applied to its result. */
export function changed<Target extends object, Inner>(
  wrap: WrapOptions<Target, Inner>["wrap"],
  change: (wrapper: object) => object,
): WrapOptions<Target, Inner>["wrap"] {
  // A changed wrapper is still used as the same target.
  return (inner) => wrapFactory(wrap(inner), (wrapper) => change(wrapper) as Target);
}
