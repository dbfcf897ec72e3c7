import { SleeveError } from "../errors.ts";
import type { Member } from "../surface/member.ts";
import { boundMethod, OwnMethods } from "./bound.ts";
import type { Call, Layer, Next, Use } from "./call.ts";
import { Forwarding } from "./forwarding.generated.ts";
import { type BareMember, bareMember, type Shape } from "./shape.ts";
import { type BareSite, named, type OwnMethod, type Signature, type Site } from "./sites.ts";
import { keepingWritten, tail } from "./tail.ts";

/** Makes wrappers of one shape, a new one at each call. */
export type Plan = (subject: object) => object;

/** A class of wrappers, constructed with what it forwards to. */
export type WrapperClass = new (subject: object) => object;

/** The layers of the wrappers that a plan made, found by their prototype. */
export const planned = new WeakMap<
  object,
  { readonly layers: readonly Layer<never>[]; readonly shape: Shape }
>();

/**
 * Plans how subjects of one shape are forwarded to through a stack: settles which layers are on which member,
 * and builds the class of the wrappers. Making a wrapper is then cheap.
 */
export function createPlan(shape: Shape, layers: readonly Layer<never>[]): Plan {
  refuseLayersOnNothing(shape.members, layers);
  // Without a prototype, a member called `__proto__` is one like any other.
  const own: PropertyDescriptorMap = Object.create(null);
  const inherited: PropertyDescriptorMap = Object.create(null);
  const late = lateMembers(layers);
  let ownMethods = 0;
  for (const bare of shape.members.values()) {
    const { key, own: isOwn, kind } = bare.member;
    const binding: Binding | undefined =
      isOwn && kind === "method" ? (call) => OwnMethods.at(ownMethods++, call.inner, call.shown) : undefined;
    const descriptor = forwardingDescriptor(bare, layers, binding);
    if (!isOwn && kind === "property" && descriptor.set) {
      descriptor.set = keepingWritten(descriptor.set as BareSite, key, late);
    }
    // The descriptor maps are keyed by both strings and symbols, which their type does not say.
    (isOwn ? own : inherited)[key as string] = descriptor;
  }
  if (shape.tag)
    inherited[Symbol.toStringTag as unknown as string] = { value: shape.tag, configurable: true };
  const hasOwn = Reflect.ownKeys(own).length > 0;
  const base = ownMethods > 0 ? OwnMethods : Forwarding;
  const Wrapper = wrapperClass(shape.prototype, inherited, tail(shape.prototype, late), base);
  planned.set(Wrapper.prototype, { layers, shape });
  return (subject) => {
    const wrapper = new Wrapper(subject);
    if (hasOwn) Object.defineProperties(wrapper, own);
    if (!Object.isExtensible(subject)) Object.preventExtensions(wrapper);
    return wrapper;
  };
}

/**
 * A class whose objects hold a subject privately, and inherit from `parent` so that `instanceof` answers as the
 * subject does. `Forwarding` itself is not on their prototype chain.
 */
export function wrapperClass(
  prototype: object | null,
  members: PropertyDescriptorMap,
  parent: object | null = prototype,
  base: typeof Forwarding = Forwarding,
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

/** How a wrapper comes by what it shows in place of one of its subject's own functions. */
type Binding = (call: Site) => OwnMethod;

/** Describes the property of a wrapper that forwards to one member of its subject, through the layers on it. */
function forwardingDescriptor(
  bare: BareMember,
  layers: readonly Layer<never>[],
  binding?: Binding,
): PropertyDescriptor {
  const { member } = bare;
  const { enumerable, configurable, writable } = member;
  const call = bare.call && layeredSite(bare.call, member, "call", layers, bare.pass);
  const method = call && binding?.(call);
  const read = bare.read && layeredSite(bare.read(method), member, "read", layers).shown;
  const write = bare.write && layeredSite(bare.write, member, "write", layers).shown;
  if (!read && !write && call) return { value: call.shown, enumerable, configurable, writable };
  return accessor(read, write, { enumerable, configurable });
}

/** Describes members that a subject got after its shape was planned. There may be many, so few are kept. */
function lateMembers(layers: readonly Layer<never>[]): (member: Member) => PropertyDescriptor {
  const kept = new Map<PropertyKey, { readonly member: Member; readonly descriptor: PropertyDescriptor }>();
  return (member) => {
    const found = kept.get(member.key);
    if (found?.member.kind === member.kind && found.member.own === member.own) return found.descriptor;
    const binding: Binding = (call) => (wrapper) => boundMethod(wrapper, member.key, call.inner, call.shown);
    const descriptor = forwardingDescriptor(
      bareMember(member, false),
      layers,
      member.own ? binding : undefined,
    );
    if (kept.size < LATE_MEMBERS_KEPT) kept.set(member.key, { member, descriptor });
    return descriptor;
  };
}

const LATE_MEMBERS_KEPT = 64;

/**
 * Puts the layers that want it around one use of a member. Without any, the bare functions serve as they are.
 *
 * @param pass gives the use as the innermost layer makes it, where there is a quicker way than through the bare function
 */
export function layeredSite(
  bare: Site,
  member: Member,
  use: Use,
  layers: readonly Layer<never>[],
  pass: () => Next = () => toBare(bare.inner),
): Site {
  if (layers.length === 0) return bare;
  const innermost = pass();
  const outermost = throughLayers(innermost, member, use, layers);
  if (outermost === innermost) return bare;
  return { shown: named(useThrough(outermost, member), bare.shown), inner: useThrough(outermost, member) };
}

/** Folds the layers from the innermost out. */
export function throughLayers(
  innermost: Next,
  member: Member,
  use: Use,
  layers: readonly Layer<never>[],
): Next {
  return layers.reduceRight<Next>((next, layer) => layer.around(next, member, use), innermost);
}

/** Goes through a bare function. Engines see through a plain call to the function it calls, and not through `apply`. */
function toBare(bare: BareSite): Next {
  return ({ wrapper, args }: Call) =>
    args.length < 2 ? bare.call(wrapper, args[0]) : bare.apply(wrapper, args as unknown[]);
}

function useThrough(outermost: Next, member: Member): BareSite {
  return function (...args) {
    return outermost({ member, args, wrapper: this });
  };
}

/** The same as a method of a class has it: it cannot be constructed. */
export function methodThrough(outermost: Next, member: Member, signature: Signature): BareSite {
  const { method } = {
    method(this: object, ...args: unknown[]) {
      return outermost({ member, args, wrapper: this });
    },
  };
  return named(method, signature);
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
export function refuseLayersOnNothing(
  members: ReadonlyMap<PropertyKey, { readonly member: Member }>,
  layers: readonly Layer<never>[],
  { areSecret = false }: { readonly areSecret?: boolean } = {},
): void {
  for (const { name, only } of layers) {
    if (!only || only.some((key) => members.has(key))) continue;
    const labels = [...members.values()].map(({ member }) => member.label).join(", ");
    const known = areSecret ? "" : ` It has: ${labels || "no members"}.`;
    throw new SleeveError(
      "NO_SUCH_MEMBER",
      `The layer "${name}" is told to keep to ${only.map((key) => `"${String(key)}"`).join(", ")}, which the ` +
        `subject does not have.${known} Correct the layer's \`only\`.`,
    );
  }
}
