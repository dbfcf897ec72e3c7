import { type Adapter, adapter } from "./adapter.ts";
import type { Mapping } from "./mapping.ts";
import type { ErrorTranslation } from "./translating-errors.ts";

export interface TwoWayOptions {
  /** Name used in messages. Default: `adapter`. */
  readonly name?: string;
  /** Error translations, by direction. Default: errors pass by identity. */
  readonly errors?: {
    /** Translates errors of outside objects for our code. */
    readonly fromOutside?: ErrorTranslation["errors"];
    /** Translates errors of our objects for outside code. */
    readonly toOutside?: ErrorTranslation["errors"];
  };
}

/** A pair of adapters, one in each direction. An object that passes through both comes back unchanged. */
export interface TwoWay<Ours, Theirs> {
  /** Adapts an outside object to our interface. */
  readonly fromOutside: Adapter<Ours, Theirs>;
  /** Adapts one of our objects to the interface that outside code expects. */
  readonly toOutside: Adapter<Theirs, Ours>;
}

/**
 * Creates adapters in both directions: outside objects for our code, and our objects for outside code.
 *
 * @throws {SleeveError} as {@link adapter} does
 * @example
 * import { twoWay } from "sleeve";
 *
 * interface Bell { ring(times: number): void }
 * interface Gong { strike(): void }
 * const bells = twoWay<Bell, Gong>({
 *   fromOutside: { ring: (gong, times) => { for (let count = 0; count < times; count++) gong.strike(); } },
 *   toOutside: { strike: (bell) => bell.ring(1) },
 * });
 * const gong = bells.toOutside({ ring: (times) => console.log("ding".repeat(times)) });
 * gong.strike();
 * bells.fromOutside(gong).ring(2); // the original bell, not an adapter of an adapter
 */
export function twoWay<Ours extends object, Theirs extends object>(
  mappings: { readonly fromOutside: Mapping<Ours, Theirs>; readonly toOutside: Mapping<Theirs, Ours> },
  { name, errors = {} }: TwoWayOptions = {},
): TwoWay<Ours, Theirs> {
  const named = name === undefined ? {} : { name };
  // The casts are needed because the compiler cannot exclude functions from the unresolved type parameters.
  const fromOutside = adapter<Ours, Theirs>(mappings.fromOutside as never, {
    ...named,
    ...(errors.fromOutside && { errors: errors.fromOutside }),
  });
  const toOutside = adapter<Theirs, Ours>(mappings.toOutside as never, {
    ...named,
    ...(errors.toOutside && { errors: errors.toOutside }),
  });
  const originals = new WeakMap<object, object>();
  const through =
    <Adaptee extends object, Target extends object>(
      adapt: Adapter<Target, Adaptee>,
    ): Adapter<Target, Adaptee> =>
    (adaptee) => {
      const original = originals.get(adaptee);
      if (original) return original as Target;
      const wrapper = adapt(adaptee);
      originals.set(wrapper, adaptee);
      return wrapper;
    };
  return { fromOutside: through(fromOutside), toOutside: through(toOutside) };
}
