import type { Layer } from "../forward/call.ts";
import { flattened } from "../forward/stack.ts";

/**
 * Makes one layer of several, to be put around many subjects. The first listed is the outermost.
 *
 * @example
 * import { decorate, logging, stack, timing } from "sleeve";
 *
 * const watched = stack(logging(), timing({ to: (sample) => console.log(sample) }));
 * export const add = decorate((left: number, right: number) => left + right, watched);
 * export const double = decorate((given: number) => given * 2, watched);
 */
export function stack<Target = unknown>(...layers: readonly Layer<Target>[]): Layer<Target> {
  const flat = flattened(layers) as readonly Layer<Target>[];
  const made: Layer<Target> = {
    name: flat.map(({ name }) => name).join(", "),
    layers: flat,
    around: (next, member, use) => flat.reduceRight((inner, each) => each.around(inner, member, use), next),
  };
  return Object.freeze(made);
}
