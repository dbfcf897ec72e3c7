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
export function stack<Target = unknown>(...layers: readonly Layer<Target>[]): Layer<Target> {
  const flat = flatten(layers) as readonly Layer<Target>[];
  const made: Layer<Target> = {
    name: flat.map(({ name }) => name).join(", "),
    layers: flat,
    around: (next, member, use) => flat.reduceRight((inner, layer) => layer.around(inner, member, use), next),
  };
  return Object.freeze(made);
}
