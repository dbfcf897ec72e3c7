import { SleeveError } from "../shared/errors.ts";
import { type Callable, isClass } from "../surface/member.ts";
import type { ForwardingMode, Layer, OpenEngine } from "./call.ts";
import { shapeOf } from "./closed/shape.ts";
import { wrapFunction } from "./closed/wrap-function.ts";
import { createWrapperFactory } from "./closed/wrapper-factory.ts";
import { findWrapper, storeWrapper } from "./first-wrapper.ts";
import { internStack, type LayerStack } from "./layer-stack.ts";
import { isConstructor } from "./mirror-function.ts";
import { isCreatedLate, recordOf, remember, type WrapperRecord } from "./wrapper-record.ts";

/** Wraps a class in a subclass. */
export type ClassEngine = (subject: Callable, layers: readonly Layer<never>[]) => object;

/**
 * Returns the wrapper of a subject in a stack. There is one per subject and stack, created on first use.
 *
 * @param classEngine wraps the subject if it is a class
 */
export function wrap(subject: object, layers: readonly Layer<never>[], classEngine?: ClassEngine): object {
  const record = recordOf(subject);
  const node = internStack(layers);
  const found = findWrapper(subject, node);
  if (found) return found;
  const { forwarding, why, engine } = choose(subject, node, record);
  const wrapper =
    forwarding === "closed" || !engine
      ? wrapClosed(subject, node, classEngine)
      : engine(subject, { layers, forwarding, gate: record?.gate, isCreatedLate: record !== undefined });
  if (forwarding !== "closed" || typeof subject === "function") {
    remember(wrapper, { subject, layers, forwarding, why });
  }
  storeWrapper(subject, node, wrapper);
  return wrapper;
}

interface Choice {
  readonly forwarding: ForwardingMode;
  readonly why: string;
  readonly engine?: OpenEngine | undefined;
}

const CLOSED: Choice = {
  forwarding: "closed",
  why: "the members of its subject were known when it was created",
};

/** Chooses the forwarding mode that the subject and its layers require. */
function choose(subject: object, { demanding }: LayerStack, record: WrapperRecord | undefined): Choice {
  if (demanding?.forwarding) {
    const { name, forwarding, engine } = demanding;
    return { forwarding, why: `the layer "${name}" requires it`, engine };
  }
  if (record && isCreatedLate(record, subject))
    return { forwarding: "open", why: record.why, engine: record.engine };
  if (Array.isArray(subject)) throw needsOpen("an array, whose elements change");
  if (isTypedArray(subject)) throw needsOpen("a typed array, which is accessed by index");
  return CLOSED;
}

function needsOpen(kind: string): SleeveError {
  return new SleeveError(
    "NEEDS_OPEN",
    `The subject is ${kind}, and needs open forwarding. Add a layer: decorate(list, open(), …).`,
  );
}

function isTypedArray(subject: object): boolean {
  return ArrayBuffer.isView(subject) && !(subject instanceof DataView);
}

function wrapClosed(subject: object, node: LayerStack, classEngine: ClassEngine | undefined): object {
  if (typeof subject !== "function") return createWrapper(subject, node);
  const fn = subject as Callable;
  return classEngine && isConstructedClass(fn) ? classEngine(fn, node.layers) : wrapFunction(fn, node.layers);
}

/** Whether a subject is a class that can be constructed. */
export function isConstructedClass(subject: unknown): boolean {
  return typeof subject === "function" && isClass(subject) && isConstructor(subject);
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
