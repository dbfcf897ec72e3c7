import { type Callable, isClass } from "../surface/member.ts";
import { reflect } from "../surface/reflect.ts";
import type { Forwarded, Layer } from "./call.ts";
import { type Class, wrapClass } from "./class.ts";
import { isConstructor, wrapFunction } from "./function.ts";
import { Membrane, type MembraneOptions } from "./membrane.ts";
import { createPlan, refuseLayersOnNothing } from "./plan.ts";
import { shapeOf } from "./shape.ts";
import { nodeOf } from "./stack.ts";
import { remember, wrappedOf } from "./wrapped.ts";

/**
 * Wraps a subject in a stack: the one wrapper that the two of them have, made when it is first asked for.
 *
 * @param gate asked whenever a client reaches in, under other than closed forwarding
 */
export function wrap(subject: object, layers: readonly Layer<never>[], gate?: () => void): object {
  const node = nodeOf(layers);
  const found = node.wrappers.get(subject);
  if (found) return found;
  const { forwarding, why } = choose(subject, layers);
  const wrapper =
    forwarding === "closed"
      ? wrapClosed(subject, layers)
      : wrapOpen(subject, { layers, forwarding, ...(gate && { gate }) });
  if (forwarding !== "closed" || typeof subject === "function") {
    remember(wrapper, { subject, layers, forwarding, why });
  }
  node.wrappers.set(subject, wrapper);
  return wrapper;
}

export interface Choice {
  readonly forwarding: Forwarded;
  readonly why: string;
}

const STRENGTH = ["open", "deep", "sealed"] as const;

/** Chooses how a subject is forwarded to: as closely as its kind and its layers need. */
export function choose(subject: object, layers: readonly Layer<never>[]): Choice {
  const demanding = layers
    .filter((layer) => layer.forwarding)
    .sort((left, right) => strengthOf(right) - strengthOf(left))[0];
  if (demanding?.forwarding) {
    return { forwarding: demanding.forwarding, why: `the layer "${demanding.name}" needs it` };
  }
  const known = wrappedOf(subject);
  if (known?.forwarding === "open" && known.subject === subject)
    return { forwarding: "open", why: known.why };
  if (Array.isArray(subject)) return { forwarding: "open", why: "its elements come and go" };
  if (isTypedArray(subject)) return { forwarding: "open", why: "its elements are found by number" };
  return { forwarding: "closed", why: "its members were known when it was made" };
}

function strengthOf({ forwarding }: Layer<never>): number {
  return forwarding ? STRENGTH.indexOf(forwarding) : -1;
}

function isTypedArray(subject: object): boolean {
  return ArrayBuffer.isView(subject) && !(subject instanceof DataView);
}

function wrapClosed(subject: object, layers: readonly Layer<never>[]): object {
  if (typeof subject !== "function") return createWrapper(subject, layers);
  return isClass(subject) && isConstructor(subject)
    ? wrapClass(subject as unknown as Class, layers)
    : wrapFunction(subject as Callable, layers);
}

/** A new wrapper of an object, planned once for all of its shape. */
export function createWrapper(subject: object, layers: readonly Layer<never>[]): object {
  const { plans } = nodeOf(layers);
  const shape = shapeOf(subject);
  let plan = plans.get(shape);
  if (!plan) {
    plan = createPlan(shape, layers);
    plans.set(shape, plan);
  }
  return plan(subject);
}

/** A new wrapper of anything, as an ES `Proxy`. */
export function wrapOpen(subject: object, options: MembraneOptions): object {
  // One that is made at first use is not to be made by being looked at.
  if (!wrappedOf(subject)) {
    const members = new Map(reflect(subject).map((member) => [member.key, { member }]));
    refuseLayersOnNothing(members, options.layers);
  }
  return new Membrane(subject, options).show(subject, "outside");
}
