import { type Callable, isClass } from "../surface/member.ts";
import { reflect } from "../surface/reflect.ts";
import type { ForwardingMode, Layer } from "./call.ts";
import { shapeOf } from "./closed/shape.ts";
import { type Class, wrapClass } from "./closed/wrap-class.ts";
import { wrapFunction } from "./closed/wrap-function.ts";
import { createWrapperFactory, requireLayeredMembers } from "./closed/wrapper-factory.ts";
import { findWrapper, storeWrapper } from "./first-wrapper.ts";
import { internStack, type LayerStack } from "./layer-stack.ts";
import { isConstructor } from "./mirror-function.ts";
import { Membrane, type MembraneOptions } from "./open/membrane.ts";
import { openHandler } from "./open/proxy-handler.ts";
import { isCreatedLate, recordOf, remember, type WrapperRecord } from "./wrapper-record.ts";

/**
 * Returns the wrapper of a subject in a stack. There is one per subject and stack, created on first use.
 *
 * @param known the record of the subject, if it is the port of a proxy or bridge
 */
export function wrap(
  subject: object,
  layers: readonly Layer<never>[],
  known: WrapperRecord | undefined = recordOf(subject),
): object {
  const node = internStack(layers);
  const found = findWrapper(subject, node);
  if (found) return found;
  const { forwarding, why } = choose(subject, node, known);
  const wrapper =
    forwarding === "closed"
      ? wrapClosed(subject, node)
      : wrapOpen(subject, known, { layers, forwarding, gate: known?.gate });
  if (forwarding !== "closed" || typeof subject === "function") {
    remember(wrapper, { subject, layers, forwarding, why });
  }
  storeWrapper(subject, node, wrapper);
  return wrapper;
}

interface Choice {
  readonly forwarding: ForwardingMode;
  readonly why: string;
}

const CLOSED: Choice = {
  forwarding: "closed",
  why: "the members of its subject were known when it was created",
};

/** Chooses the forwarding mode that the subject and its layers require. */
function choose(subject: object, { demanding }: LayerStack, known: WrapperRecord | undefined): Choice {
  if (demanding?.forwarding) {
    return { forwarding: demanding.forwarding, why: `the layer "${demanding.name}" requires it` };
  }
  if (known && isCreatedLate(known, subject)) return { forwarding: "open", why: known.why };
  if (Array.isArray(subject))
    return { forwarding: "open", why: "its subject is an array, whose elements change" };
  if (isTypedArray(subject))
    return { forwarding: "open", why: "its subject is a typed array, which is accessed by index" };
  return CLOSED;
}

function isTypedArray(subject: object): boolean {
  return ArrayBuffer.isView(subject) && !(subject instanceof DataView);
}

function wrapClosed(subject: object, node: LayerStack): object {
  if (typeof subject !== "function") return createWrapper(subject, node);
  return isClass(subject) && isConstructor(subject)
    ? wrapClass(subject as unknown as Class, node.layers)
    : wrapFunction(subject as Callable, node.layers);
}

/** Creates a closed wrapper, planned once per shape. */
function createWrapper(subject: object, node: LayerStack): object {
  const shape = shapeOf(subject);
  let plan = node.factoryOf(shape);
  if (!plan) {
    plan = createWrapperFactory(shape, node.layers);
    node.storeFactory(shape, plan);
  }
  return plan(subject);
}

/** Creates an open wrapper: an ES `Proxy`. */
function wrapOpen(subject: object, known: WrapperRecord | undefined, options: MembraneOptions): object {
  // Inspecting a lazily created subject would create it, and the fields of a class's instances are unknown.
  const isToBeSeen = typeof subject !== "function" && !known;
  if (isToBeSeen && options.layers.some(({ only }) => only)) {
    const members = new Map(reflect(subject).map((member) => [member.key, { member }]));
    requireLayeredMembers(members, options.layers, { areSecret: options.forwarding === "sealed" });
  }
  return new Membrane(subject, openHandler, options).toWrapper(subject, "outside");
}
