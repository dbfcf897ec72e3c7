import { badOption } from "../errors.ts";
import type { Layer } from "./call.ts";
import { Given } from "./given.ts";
import type { Plan } from "./plan.ts";
import type { Shape } from "./shape.ts";

/**
 * What is known of one stack: how its shapes are planned, and the one wrapper of each of its subjects. Most stacks have one
 * shape and one subject, so the maps for more are made when there are more.
 */
export class StackNode {
  readonly layers: readonly Layer<never>[];
  /** Its layers in their shortest form, where they are put around something that has none. */
  readonly shortest: Simplified;
  /** The layer that asks for other than closed forwarding, if any does: the one that asks for most. */
  readonly demanding: Layer<never> | undefined;
  #shape: Shape | undefined;
  #plan: Plan | undefined;
  #plans: WeakMap<Shape, Plan> | undefined;
  #wrappers: WeakMap<object, object> | undefined;
  #next: WeakMap<object, StackNode> | undefined;

  constructor(layers: readonly Layer<never>[]) {
    this.layers = layers;
    this.shortest = simplified(flattened(layers));
    this.demanding = layers
      .filter((layer) => layer.forwarding)
      .sort((left, right) => strengthOf(right) - strengthOf(left))[0];
  }

  planOf(shape: Shape): Plan | undefined {
    return this.#shape === shape ? this.#plan : this.#plans?.get(shape);
  }

  keepPlan(shape: Shape, plan: Plan): void {
    if (this.#shape) {
      this.#plans ??= new WeakMap();
      this.#plans.set(shape, plan);
    } else {
      this.#shape = shape;
      this.#plan = plan;
    }
  }

  /** The wrapper of a subject that had one of another stack before. */
  laterWrapperOf(subject: object): object | undefined {
    return this.#wrappers?.get(subject);
  }

  keepLaterWrapper(subject: object, wrapper: object): void {
    this.#wrappers ??= new WeakMap();
    this.#wrappers.set(subject, wrapper);
  }

  /** What is known of the stack with one more layer inside. */
  with(layer: Layer<never>): StackNode {
    const found = this.#next?.get(layer);
    if (found) return found;
    const next = new StackNode([...this.layers, layer]);
    this.#next ??= new WeakMap();
    this.#next.set(layer, next);
    return next;
  }
}

/** What is known of the stack of one layer, kept on that one: layers may be many, and come and go. */
class OutermostLayer extends Given {
  readonly #node: StackNode;

  constructor(layer: Layer<never>) {
    super(layer);
    this.#node = new StackNode([layer]);
  }

  static nodeOf(layer: Layer<never>): StackNode {
    requireLayer(layer);
    // The private field is there, and the type of a layer says nothing of it.
    const known = #node in layer ? (layer as unknown as OutermostLayer) : new OutermostLayer(layer);
    return known.#node;
  }
}

/** Finds what is known of a stack, by the identity of its layers in their order. */
export function nodeOf(layers: readonly Layer<never>[]): StackNode {
  if (layers.length === 0) return root;
  let node = OutermostLayer.nodeOf(layers[0] as Layer<never>);
  for (let index = 1; index < layers.length; index++) node = node.with(layers[index] as Layer<never>);
  return node;
}

function requireLayer(layer: unknown): void {
  if (typeof layer === "object" && layer !== null && "around" in layer) return;
  const what = typeof layer === "function" ? `the function ${layer.name}` : String(layer);
  throw badOption(
    `${what} was given where a layer should be. Give what makes a layer when it is called, as logging() does.`,
  );
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
const root = new StackNode([]);
