import { type Implementation, type Waived, whenMade } from "../implementation.ts";

/** How a wrapper is made around what it holds, and let go of. */
export interface Around<Target, Inner> {
  readonly wrap: (inner: Inner) => Target | Promise<Target>;
  readonly release?: (wrapper: Target) => unknown;
  readonly waives?: Waived;
}

/** An implementation that is made around something, which is made before it and released after it. */
export function around<Target extends object, Inner extends object>(
  inner: Implementation<object>,
  { wrap, release, waives }: Around<Target, Inner>,
): Implementation<Target> {
  const held = new WeakMap<object, object>();
  return {
    ...(waives && { waives }),
    create: () =>
      whenMade(inner.create(), (made) =>
        whenMade(wrap(made as Inner), (wrapper) => {
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

/** The way to make a wrapper, with a change made to what comes out. */
export function changed<Target extends object, Inner>(
  wrap: Around<Target, Inner>["wrap"],
  change: (wrapper: object) => object,
): Around<Target, Inner>["wrap"] {
  // What is changed is still put to use as the target that it was.
  return (inner) => whenMade(wrap(inner), (wrapper) => change(wrapper) as Target);
}
