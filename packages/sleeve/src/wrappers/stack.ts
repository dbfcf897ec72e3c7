import type { Layer } from "../forward/call.ts";
import { flatten } from "../forward/layer-stack.ts";

/**
 * Combines layers into one that can be applied to many subjects. The first is the outermost.
 *
 * @example
 * import { decorate, logging, stack, timing } from "sleeve";
 *
 * const watched = stack(logging(), timing({ onSample: (sample) => console.log(sample) }));
 * export const add = decorate((left: number, right: number) => left + right, watched);
 * export const double = decorate((value: number) => value * 2, watched);
 */
export function stack<Target = unknown, Context = unknown>(
  ...layers: readonly Layer<Target, Context>[]
): Layer<Target, Context> {
  const flat = flatten(layers as unknown as readonly Layer<never>[]) as unknown as readonly Layer<
    Target,
    Context
  >[];
  const made: Layer<Target, Context> = {
    name: flat.map(({ name }) => name).join(", "),
    layers: flat,
    around: (next, member, use) => flat.reduceRight((inner, layer) => layer.around(inner, member, use), next),
  };
  return Object.freeze(made);
}
