import { PrivateWeakMap } from "../../shared/intrinsics.ts";
import type { Layer } from "../call.ts";
import type { RawForwarder } from "./call-sites.ts";

/** A class of wrappers, constructed with the subject. */
export type WrapperClass = new (subject: object) => object;

/** The layers of closed wrappers, by the prototype of their class. */
export const wrapperLayers = /* @__PURE__ */ new PrivateWeakMap<object, readonly Layer<never>[]>();

/**
 * Creates a class whose instances hold a subject privately and inherit from `parent`, so that `instanceof`
 * gives the same answer as for the subject. The class that holds the subject, `base`, is not on their
 * prototype chain.
 */
export function wrapperClass(
  prototype: object | null,
  members: PropertyDescriptorMap,
  { base, parent = prototype }: { readonly base: WrapperClass; readonly parent?: object | null },
): WrapperClass {
  class Wrapper extends base {}
  const subjectClass = prototype?.constructor;
  if (subjectClass) {
    Object.defineProperty(Wrapper.prototype, "constructor", { value: subjectClass, writable: true });
  } else {
    Reflect.deleteProperty(Wrapper.prototype, "constructor");
  }
  Object.setPrototypeOf(Wrapper.prototype, parent);
  Object.defineProperties(Wrapper.prototype, members);
  return Wrapper;
}

/** Returns the descriptor of a property that one or two functions forward to. */
export function accessor(
  read: RawForwarder | undefined,
  write: RawForwarder | undefined,
  attributes: { readonly enumerable: boolean; readonly configurable: boolean },
): PropertyDescriptor {
  return { ...attributes, ...(read && { get: read }), ...(write && { set: write }) };
}
