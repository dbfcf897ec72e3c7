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
  const held = new WeakMap<object, object>();
  return {
    ...(suppressions && { suppressions }),
    create: () =>
      wrapFactory(inner.create(), (made) =>
        wrapFactory(wrap(made as Inner), (wrapper) => {
          held.set(wrapper, made);
          return wrapper;
        }),
      ),
    release: async (wrapper) => {
      await release?.(wrapper);
      const made = held.get(wrapper);
      if (made) await inner.release?.(made);
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
