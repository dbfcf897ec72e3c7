import { type Callable, isClass } from "../surface/member.ts";
import { reflect } from "../surface/reflect.ts";
import type { Forwarded, Layer } from "./call.ts";
import { type Class, wrapClass } from "./class.ts";
import { keepWrapper, wrapperOf } from "./first-wrapper.ts";
import { isConstructor, wrapFunction } from "./function.ts";
import { Membrane, type MembraneOptions } from "./membrane.ts";
import { createPlan, refuseLayersOnNothing } from "./plan.ts";
import { shapeOf } from "./shape.ts";
import { nodeOf, type StackNode } from "./stack.ts";
import { isMadeLate, remember, type Wrapped, wrappedOf } from "./wrapped.ts";

/**
 * Wraps a subject in a stack: the one wrapper that the two of them have, made when it is first asked for.
 *
 * @param known what is known of the subject itself, where it is the port of a proxy or a bridge
 */
export function wrap(
  subject: object,
  layers: readonly Layer<never>[],
  known: Wrapped | undefined = wrappedOf(subject),
): object {
  const node = nodeOf(layers);
  const found = wrapperOf(subject, node);
  if (found) return found;
  const { forwarding, why } = choose(subject, node, known);
  const wrapper =
    forwarding === "closed"
      ? wrapClosed(subject, node)
      : wrapOpen(subject, known, { layers, forwarding, gate: known?.gate });
  if (forwarding !== "closed" || typeof subject === "function") {
    remember(wrapper, { subject, layers, forwarding, why });
  }
  keepWrapper(subject, node, wrapper);
  return wrapper;
}

interface Choice {
  readonly forwarding: Forwarded;
  readonly why: string;
}

const CLOSED: Choice = { forwarding: "closed", why: "its members were known when it was made" };

/** Chooses how a subject is forwarded to: as closely as its kind and its layers need. */
function choose(subject: object, { demanding }: StackNode, known: Wrapped | undefined): Choice {
  if (demanding?.forwarding) {
    return { forwarding: demanding.forwarding, why: `the layer "${demanding.name}" needs it` };
  }
  if (known && isMadeLate(known, subject)) return { forwarding: "open", why: known.why };
  if (Array.isArray(subject)) return { forwarding: "open", why: "its elements come and go" };
  if (isTypedArray(subject)) return { forwarding: "open", why: "its elements are found by number" };
  return CLOSED;
}

function isTypedArray(subject: object): boolean {
  return ArrayBuffer.isView(subject) && !(subject instanceof DataView);
}

function wrapClosed(subject: object, node: StackNode): object {
  if (typeof subject !== "function") return createWrapper(subject, node);
  return isClass(subject) && isConstructor(subject)
    ? wrapClass(subject as unknown as Class, node.layers)
    : wrapFunction(subject as Callable, node.layers);
}

/** A new wrapper of an object, planned once for all of its shape. */
function createWrapper(subject: object, node: StackNode): object {
  const shape = shapeOf(subject);
  let plan = node.planOf(shape);
  if (!plan) {
    plan = createPlan(shape, node.layers);
    node.keepPlan(shape, plan);
  }
  return plan(subject);
}

/** A new wrapper of anything, as an ES `Proxy`. */
function wrapOpen(subject: object, known: Wrapped | undefined, options: MembraneOptions): object {
  // One that is made at first use is not to be made by being looked at, and the fields of what a class makes are not known.
  const isToBeSeen = typeof subject !== "function" && !known;
  if (isToBeSeen && options.layers.some(({ only }) => only)) {
    const members = new Map(reflect(subject).map((member) => [member.key, { member }]));
    refuseLayersOnNothing(members, options.layers, { areSecret: options.forwarding === "sealed" });
  }
  return new Membrane(subject, options).show(subject, "outside");
}
