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
export function stack<const Layers extends readonly Layer<never, never>[]>(
  ...layers: Layers
): Layer<TargetOf<Layers[number]>, ContextOf<Layers[number]>> {
  const flat = flatten(layers as unknown as readonly Layer<never>[]);
  const newLayer: Layer<never> = {
    name: flat.map(({ name }) => name).join(", "),
    layers: flat,
    around: (next, member, use) => flat.reduceRight((inner, layer) => layer.around(inner, member, use), next),
  };
  return Object.freeze(newLayer) as never;
}

/**
 * What all layers of a union can be applied to. A layer that names members without a target has an inferred one with any
 * member, which an interface does not fit; its names are checked when it is applied.
 */
type TargetOf<Layers> = [Fitting<Layers>] extends [Layer<infer Target, never>] ? Target : unknown;
type Fitting<AnyLayer> =
  AnyLayer extends Layer<infer Target, infer Context>
    ? Layer<string extends keyof Target ? unknown : Target, Context>
    : AnyLayer;

/** The context that all layers of a union accept. */
type ContextOf<Layers> = [Layers] extends [Layer<never, infer Context>] ? Context : unknown;
