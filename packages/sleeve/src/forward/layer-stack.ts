import { badOption } from "../shared/errors.ts";
import { addTo, copyList, PrivateWeakMap } from "../shared/intrinsics.ts";
import { describeValue } from "../shared/options.ts";
import { warn } from "../shared/report-once.ts";
import type { Layer } from "./call.ts";
import type { Shape, WrapperFactory } from "./closed/shape.ts";
import { PrivateFieldHost } from "./private-field-host.ts";

/**
 * The cached state of one stack: the wrapper factories by shape, and one wrapper per subject. Most stacks
 * have one shape and one subject, so the maps for more are created on demand.
 */
export class LayerStack {
  readonly layers: readonly Layer<never>[];
  /** The stack in normal form, for subjects without layers. */
  readonly normalized: NormalizedStack;
  /** The layer with the strongest requirement for a forwarding mode, if any has one. */
  readonly demanding: Layer<never> | undefined = undefined;
  #shape: Shape | undefined;
  #factory: WrapperFactory | undefined;
  #factories: WeakMap<Shape, WrapperFactory> | undefined;
  #wrappers: WeakMap<object, object> | undefined;
  #next: WeakMap<object, LayerStack> | undefined;
  #isChecked = false;

  constructor(layers: readonly Layer<never>[]) {
    this.layers = layers;
    this.normalized = normalize(flatten(layers));
    for (let index = 0; index < layers.length; index++) {
      const layer = layers[index] as Layer<never>;
      if (strengthOf(layer) > (this.demanding ? strengthOf(this.demanding) : -1)) this.demanding = layer;
    }
  }

  /** Warns once of orders of layers that name the same members, or do not name any. */
  warnOfConflicts(): void {
    if (this.#isChecked) return;
    this.#isChecked = true;
    const { layers } = this.normalized;
    for (let place = 0; place < layers.length; place++) {
      const outer = layers[place] as Layer<never>;
      for (let next = place + 1; next < layers.length; next++) {
        const inner = layers[next] as Layer<never>;
        const conflict = mayShareMembers(outer, inner) ? outer.conflictWith?.(inner) : undefined;
        if (conflict)
          warn(
            `The order of layers is unusual: ${conflict.text}. See explain(wrapper).conflicts.`,
            "LAYER_ORDER",
          );
      }
    }
  }

  factoryOf(shape: Shape): WrapperFactory | undefined {
    return this.#shape === shape ? this.#factory : this.#factories?.get(shape);
  }

  storeFactory(shape: Shape, plan: WrapperFactory): void {
    if (this.#shape) {
      this.#factories ??= new PrivateWeakMap();
      this.#factories.set(shape, plan);
    } else {
      this.#shape = shape;
      this.#factory = plan;
    }
  }

  /** Returns the wrapper of a subject that was first wrapped in another stack. */
  findLaterWrapper(subject: object): object | undefined {
    return this.#wrappers?.get(subject);
  }

  storeLaterWrapper(subject: object, wrapper: object): void {
    this.#wrappers ??= new PrivateWeakMap();
    this.#wrappers.set(subject, wrapper);
  }

  /** Returns the stack with one more layer inside. */
  with(layer: Layer<never>): LayerStack {
    const existing = this.#next?.get(layer);
    if (existing) return existing;
    const next = new LayerStack(append(this.layers, layer));
    this.#next ??= new PrivateWeakMap();
    this.#next.set(layer, next);
    return next;
  }
}

/** Whether two layers may be on one member. A layer with a predicate is not known to be. */
function mayShareMembers(outer: Layer<never>, inner: Layer<never>): boolean {
  const names = outer.only as readonly unknown[] | undefined;
  const others = inner.only as readonly unknown[] | undefined;
  return !names || !others || names.some((name) => others.includes(name));
}

/** The stack of one layer, stored on that layer, because layers may be many and short-lived. */
class OutermostLayer extends PrivateFieldHost {
  readonly #node: LayerStack;

  constructor(layer: Layer<never>) {
    super(layer);
    this.#node = new LayerStack([layer]);
  }

  static stackOf(layer: Layer<never>): LayerStack {
    requireLayer(layer);
    // The private field exists at run time, which the type of a layer does not express.
    const outermost = #node in layer ? (layer as unknown as OutermostLayer) : new OutermostLayer(layer);
    return outermost.#node;
  }
}

/** Returns the one `LayerStack` for layers of this identity and order. */
export function internStack(layers: readonly Layer<never>[]): LayerStack {
  if (layers.length === 0) return root;
  let stack = OutermostLayer.stackOf(layers[0] as Layer<never>);
  for (let index = 1; index < layers.length; index++) stack = stack.with(layers[index] as Layer<never>);
  return stack;
}

function requireLayer(layer: unknown): void {
  if (typeof layer === "object" && layer !== null && "around" in layer) return;
  if (Array.isArray(layer))
    throw badOption(
      "Expected a layer, received an array. Pass layers one by one, or spread the array: ...layers.",
    );
  throw badOption(
    `Expected a layer, received ${describeValue(layer)}. Pass the result of a layer function, such as logging().`,
  );
}

const STRENGTH = { open: 0, deep: 1, sealed: 2 } as const;

function strengthOf({ forwarding }: Layer<never>): number {
  return forwarding ? STRENGTH[forwarding] : -1;
}

// Stacks are read with index loops, because a client could replace the methods of arrays by ones that drop layers.

function append<Item>(list: readonly Item[], item: Item): Item[] {
  const longer = copyList(list);
  addTo(longer, item);
  return longer;
}

/**
 * Returns the layers of a list, with stacks replaced by their layers.
 *
 * @throws {SleeveError} `BAD_OPTION` if an entry is not a layer
 */
export function flatten(layers: readonly Layer<never>[]): readonly Layer<never>[] {
  const flat: Layer<never>[] = [];
  for (let index = 0; index < layers.length; index++) {
    const layer = layers[index] as Layer<never>;
    requireLayer(layer);
    const parts = layer.layers ? flatten(layer.layers) : [layer];
    for (let part = 0; part < parts.length; part++) addTo(flat, parts[part] as Layer<never>);
  }
  return flat;
}

/** A stack in normal form, with the layers that were dropped. */
export interface NormalizedStack {
  readonly layers: readonly Layer<never>[];
  readonly merged: readonly Layer<never>[];
  readonly cancelled: readonly Layer<never>[];
  /** Whether layers were given and all of them cancelled out. */
  readonly isUndone: boolean;
}

/** Drops the second of two adjacent equal layers that are idempotent, and both if they are self-inverse. */
export function normalize(layers: readonly Layer<never>[]): NormalizedStack {
  const remaining: Layer<never>[] = [];
  const merged: Layer<never>[] = [];
  const cancelled: Layer<never>[] = [];
  for (let index = 0; index < layers.length; index++) {
    const layer = layers[index] as Layer<never>;
    const isRepeated = remaining[remaining.length - 1] === layer;
    if (isRepeated && layer.idempotent) addTo(merged, layer);
    else if (isRepeated && layer.selfInverse) {
      remaining.length -= 1;
      addTo(cancelled, layer);
    } else addTo(remaining, layer);
  }
  return { layers: remaining, merged, cancelled, isUndone: remaining.length === 0 && layers.length > 0 };
}

// At the end, because the classes above must exist first.
const root = /* @__PURE__ */ new LayerStack([]);
