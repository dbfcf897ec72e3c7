import type { Layer } from "./call.ts";
import type { Plan } from "./plan.ts";
import type { Shape } from "./shape.ts";

/** What is known of one stack: how its shapes are planned, and the one wrapper of each of its subjects. */
export interface StackNode {
  readonly plans: WeakMap<Shape, Plan>;
  readonly wrappers: WeakMap<object, object>;
  readonly next: WeakMap<object, StackNode>;
}

/** Finds what is known of a stack, by the identity of its layers in their order. */
export function nodeOf(layers: readonly Layer<never>[]): StackNode {
  let node = root;
  for (const layer of layers) {
    let next = node.next.get(layer);
    if (!next) {
      next = createNode();
      node.next.set(layer, next);
    }
    node = next;
  }
  return node;
}

const root = createNode();

function createNode(): StackNode {
  return { plans: new WeakMap(), wrappers: new WeakMap(), next: new WeakMap() };
}

/** The layers that a list stands for, where stacks stand for theirs. */
export function flattened(layers: readonly Layer<never>[]): readonly Layer<never>[] {
  return layers.some((layer) => layer.layers)
    ? layers.flatMap((layer) => (layer.layers ? flattened(layer.layers) : [layer]))
    : layers;
}

/** A stack in its shortest form, and what was left out of it. */
export interface Simplified {
  readonly layers: readonly Layer<never>[];
  readonly merged: readonly Layer<never>[];
  readonly cancelled: readonly Layer<never>[];
}

/** Leaves out the second of two same layers in a row that are idempotent, and both where they are self-inverse. */
export function simplified(layers: readonly Layer<never>[]): Simplified {
  const kept: Layer<never>[] = [];
  const merged: Layer<never>[] = [];
  const cancelled: Layer<never>[] = [];
  for (const layer of layers) {
    const isRepeated = kept.at(-1) === layer;
    if (isRepeated && layer.idempotent) merged.push(layer);
    else if (isRepeated && layer.selfInverse) {
      kept.pop();
      cancelled.push(layer);
    } else kept.push(layer);
  }
  return { layers: kept, merged, cancelled };
}
