import { PrivateWeakSet } from "../shared/intrinsics.ts";
import type { Layer } from "./call.ts";

/**
 * Layers that pass the argument list of a call on without showing it to code outside the library. Until the first other
 * layer, a list is the one that the engine made for the call, which nothing else can change, so that checks need no copy.
 */
const keepingArguments = /* @__PURE__ */ new PrivateWeakSet<Layer<never>>();

/** Records that a layer of the library keeps argument lists private. Returns the layer. */
export function keepsArguments<Made extends Layer<never>>(layer: Made): Made {
  keepingArguments.add(layer);
  return layer;
}

/** Returns the number of outer layers of a stack that keep argument lists private. */
export function privateDepth(layers: readonly Layer<never>[]): number {
  let depth = 0;
  while (depth < layers.length && keepingArguments.has(layers[depth] as Layer<never>)) depth += 1;
  return depth;
}
