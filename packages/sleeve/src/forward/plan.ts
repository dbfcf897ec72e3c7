import { SleeveError } from "../errors.ts";
import type { Member } from "../surface/member.ts";
import type { Layer, Next, Use } from "./call.ts";
import { Forwarding } from "./forwarding.generated.ts";
import type { BareMember, Shape } from "./shape.ts";
import { type BareSite, named, type Site } from "./sites.ts";

/** Makes wrappers of one shape. */
export type Plan = (subject: object) => object;

/** A class of wrappers, constructed with what it forwards to. */
export type WrapperClass = new (subject: object) => object;

/**
 * Plans how subjects of one shape are forwarded to through a stack: settles which layers are on which member,
 * and builds the class of the wrappers. Planned once for each shape and stack; making a wrapper is then cheap.
 */
export function planStack(shape: Shape, layers: readonly Layer<never>[]): Plan {
  let step: Step = stepOf(plans, shape);
  for (const layer of layers) step = stepOf(step.next, layer);
  step.plan ??= createPlan(shape, layers);
  return step.plan;
}

interface Step {
  readonly next: WeakMap<object, Step>;
  plan: Plan | undefined;
}

const plans = new WeakMap<object, Step>();

function stepOf(steps: WeakMap<object, Step>, key: object): Step {
  let step = steps.get(key);
  if (!step) {
    step = { next: new WeakMap(), plan: undefined };
    steps.set(key, step);
  }
  return step;
}

function createPlan(shape: Shape, layers: readonly Layer<never>[]): Plan {
  refuseLayersOnNothing(shape, layers);
  // Without a prototype, a member called `__proto__` is one like any other.
  const own: PropertyDescriptorMap = Object.create(null);
  const inherited: PropertyDescriptorMap = Object.create(null);
  for (const bare of shape.members.values()) {
    const { key, own: isOwn } = bare.member;
    // The descriptor maps are keyed by both strings and symbols, which their type does not say.
    (isOwn ? own : inherited)[key as string] = descriptorOf(bare.member, layered(bare, layers));
  }
  const hasOwn = Reflect.ownKeys(own).length > 0;
  const Wrapper = wrapperClass(shape.prototype, inherited);
  return (subject) => {
    const wrapper = new Wrapper(subject);
    if (hasOwn) Object.defineProperties(wrapper, own);
    if (!Object.isExtensible(subject)) Object.preventExtensions(wrapper);
    return wrapper;
  };
}

/**
 * A class whose objects hold a subject privately, and inherit from `prototype` so that `instanceof` answers as
 * the subject does. `Forwarding` itself is not on their prototype chain.
 */
export function wrapperClass(prototype: object | null, members: PropertyDescriptorMap): WrapperClass {
  class Wrapper extends Forwarding {}
  const subjectClass = prototype?.constructor;
  if (subjectClass) {
    Object.defineProperty(Wrapper.prototype, "constructor", { value: subjectClass, writable: true });
  } else {
    Reflect.deleteProperty(Wrapper.prototype, "constructor");
  }
  Object.setPrototypeOf(Wrapper.prototype, prototype);
  Object.defineProperties(Wrapper.prototype, members);
  return Wrapper;
}

/** How each use of a member is forwarded to under a stack. */
interface Forwarded {
  readonly call: BareSite | undefined;
  readonly read: BareSite | undefined;
  readonly write: BareSite | undefined;
}

/** Puts the layers that want it around each use of a member. Without any, the bare functions serve as they are. */
function layered({ member, ...bare }: BareMember, layers: readonly Layer<never>[]): Forwarded {
  const call = bare.call && layeredUse(bare.call, member, "call", layers);
  const read = bare.read && layeredUse(bare.read, member, "read", layers);
  return {
    call,
    read: read && call && call !== bare.call?.shown ? readingMethod(read, bare.call?.shown, call) : read,
    write: bare.write && layeredUse(bare.write, member, "write", layers),
  };
}

function layeredUse(bare: Site, member: Member, use: Use, layers: readonly Layer<never>[]): BareSite {
  const innermost = toBare(bare.inner);
  const outermost = layers.reduceRight<Next>((next, layer) => layer.around(next, member, use), innermost);
  return outermost === innermost ? bare.shown : named(useThrough(outermost, member), bare.shown);
}

/** Engines see through a plain call to the function it calls, and not through an array of arguments. */
function toBare(bare: BareSite): Next {
  return ({ wrapper, args }) => {
    switch (args.length) {
      case 0:
        return bare.call(wrapper);
      case 1:
        return bare.call(wrapper, args[0]);
      case 2:
        return bare.call(wrapper, args[0], args[1]);
      case 3:
        return bare.call(wrapper, args[0], args[1], args[2]);
      default:
        return bare.apply(wrapper, args as unknown[]);
    }
  };
}

function useThrough(outermost: Next, member: Member): BareSite {
  return function (...args) {
    return outermost({ member, args, wrapper: this });
  };
}

/** An own method is read before it is called, so reading it has to give the layered function. */
function readingMethod(read: BareSite, bare: BareSite | undefined, call: BareSite): BareSite {
  return named(function () {
    const value = read.call(this);
    return value === bare ? call : value;
  }, read);
}

function descriptorOf(member: Member, { call, read, write }: Forwarded): PropertyDescriptor {
  const { enumerable, configurable, writable } = member;
  if (!read && !write && call) return { value: call, enumerable, configurable, writable };
  return accessor(read, write, { enumerable, configurable });
}

/** The descriptor of a property that is forwarded to by one function or two. */
export function accessor(
  read: BareSite | undefined,
  write: BareSite | undefined,
  attributes: { readonly enumerable: boolean; readonly configurable: boolean },
): PropertyDescriptor {
  return { ...attributes, ...(read && { get: read }), ...(write && { set: write }) };
}

/** A subject may lack one of a layer's members, which can be optional; one that has none of them is a mistake. */
function refuseLayersOnNothing(shape: Shape, layers: readonly Layer<never>[]): void {
  for (const { name, only } of layers) {
    if (!only || only.some((key) => shape.members.has(key))) continue;
    const known = [...shape.members.values()].map(({ member }) => member.label).join(", ");
    throw new SleeveError(
      "NO_SUCH_MEMBER",
      `The layer "${name}" is told to keep to ${only.map((key) => `"${String(key)}"`).join(", ")}, which the ` +
        `subject does not have. It has: ${known || "no members"}. Correct the layer's \`only\`.`,
    );
  }
}
