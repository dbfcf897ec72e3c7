import { type Adapter, adapter } from "./adapter.ts";
import type { Mapping } from "./mapping.ts";
import type { ErrorTranslation } from "./translating-errors.ts";

export interface TwoWayOptions {
  readonly name?: string;
  /** How errors of the outside are translated for us, and ours for the outside. */
  readonly errors?: {
    readonly ours?: ErrorTranslation["errors"];
    readonly theirs?: ErrorTranslation["errors"];
  };
}

/** An adapter in both directions. What went through it comes back as the object that it is. */
export interface TwoWay<Ours, Theirs> {
  /** Offers an outside object as one of ours. */
  readonly ours: Adapter<Ours, Theirs>;
  /** Hands one of ours to outside code that expects its own interface. */
  readonly theirs: Adapter<Theirs, Ours>;
}

/**
 * Adapts in both directions: outside objects for us, and our objects for outside code.
 *
 * @throws {SleeveError} as {@link adapter} does
 * @example
 * import { twoWay } from "sleeve";
 *
 * interface Bell { ring(times: number): void }
 * interface Gong { strike(): void }
 * const bells = twoWay<Bell, Gong>({
 *   ours: { ring: (gong, times) => { for (let each = 0; each < times; each++) gong.strike(); } },
 *   theirs: { strike: (bell) => bell.ring(1) },
 * });
 * const gong = bells.theirs({ ring: (times) => console.log("ding".repeat(times)) });
 * gong.strike();
 * bells.ours(gong).ring(2); // the very bell that was handed in
 */
export function twoWay<Ours extends object, Theirs extends object>(
  mappings: { readonly ours: Mapping<Ours, Theirs>; readonly theirs: Mapping<Theirs, Ours> },
  { name, errors = {} }: TwoWayOptions = {},
): TwoWay<Ours, Theirs> {
  const named = name === undefined ? {} : { name };
  // Neither of the two is a function, which the compiler does not see of types that are yet to be given.
  const inward = adapter<Ours, Theirs>(mappings.ours as never, {
    ...named,
    ...(errors.ours && { errors: errors.ours }),
  });
  const outward = adapter<Theirs, Ours>(mappings.theirs as never, {
    ...named,
    ...(errors.theirs && { errors: errors.theirs }),
  });
  const originals = new WeakMap<object, object>();
  const through =
    <Adaptee extends object, Target extends object>(
      adapt: Adapter<Target, Adaptee>,
    ): Adapter<Target, Adaptee> =>
    (adaptee) => {
      const original = originals.get(adaptee);
      // What stands for an object of ours was made of one, so that one is what it was adapted from.
      if (original) return original as Target;
      const wrapper = adapt(adaptee);
      originals.set(wrapper, adaptee);
      return wrapper;
    };
  return { ours: through(inward), theirs: through(outward) };
}
