import { badOption } from "../errors.ts";
import type { Layer } from "./call.ts";
import type { Plan } from "./plan.ts";
import type { Shape } from "./shape.ts";

/** What is known of one stack: how its shapes are planned, and the one wrapper of each of its subjects. */
export interface StackNode {
  readonly layers: readonly Layer<never>[];
  readonly plans: WeakMap<Shape, Plan>;
  /** The wrappers of subjects that had one of another stack before. */
  readonly wrappers: WeakMap<object, object>;
  readonly next: WeakMap<object, StackNode>;
  /** Its layers in their shortest form, where they are put around something that has none. */
  readonly shortest: Simplified;
  /** The layer that asks for other than closed forwarding, if any does: the one that asks for most. */
  readonly demanding: Layer<never> | undefined;
}

/** Finds what is known of a stack, by the identity of its layers in their order. */
export function nodeOf(layers: readonly Layer<never>[]): StackNode {
  let node = root;
  for (const layer of layers) {
    let next = node.next.get(layer);
    if (!next) {
      next = createNode([...node.layers, layer]);
      node.next.set(layer, next);
    }
    node = next;
  }
  return node;
}

function requireLayer(layer: unknown): void {
  if (typeof layer === "object" && layer !== null && "around" in layer) return;
  const what = typeof layer === "function" ? `the function ${layer.name}` : String(layer);
  throw badOption(
    `${what} was given where a layer should be. Give what makes a layer when it is called, as logging() does.`,
  );
}

function createNode(layers: readonly Layer<never>[]): StackNode {
  return {
    layers,
    plans: new WeakMap(),
    wrappers: new WeakMap(),
    next: new WeakMap(),
    shortest: simplified(flattened(layers)),
    demanding: layers
      .filter((layer) => layer.forwarding)
      .sort((left, right) => strengthOf(right) - strengthOf(left))[0],
  };
}

const STRENGTH = ["open", "deep", "sealed"];

function strengthOf({ forwarding }: Layer<never>): number {
  return forwarding ? STRENGTH.indexOf(forwarding) : -1;
}

/**
 * The layers that a list stands for, where stacks stand for theirs.
 *
 * @throws {SleeveError} `BAD_OPTION` where one is no layer
 */
export function flattened(layers: readonly Layer<never>[]): readonly Layer<never>[] {
  layers.forEach(requireLayer);
  return layers.some((layer) => layer.layers)
    ? layers.flatMap((layer) => (layer.layers ? flattened(layer.layers) : [layer]))
    : layers;
}

/** A stack in its shortest form, and what was left out of it. */
export interface Simplified {
  readonly layers: readonly Layer<never>[];
  readonly merged: readonly Layer<never>[];
  readonly cancelled: readonly Layer<never>[];
  /** Whether nothing is left of layers that there were. */
  readonly isUndone: boolean;
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
  return { layers: kept, merged, cancelled, isUndone: kept.length === 0 && layers.length > 0 };
}

// Below what it is made by, which has to be there first.
const root = createNode([]);
