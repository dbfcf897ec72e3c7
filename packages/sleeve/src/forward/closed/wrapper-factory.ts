import type { Use } from "../../shared/use.ts";
import type { Callable, Member } from "../../surface/member.ts";
import type { Layer, Next } from "../call.ts";
import { failingLayers, rejectingLike, rejectingMethod } from "../called-function.ts";
import { requireLayeredMembers } from "../layered-members.ts";
import { functionKind, mirrorFunction, withKindOf, withSignature } from "../mirror-function.ts";
import { privateDepth } from "../private-arguments.ts";
import { borrowsOf } from "./borrowed.ts";
import { BoundMethods, boundMethod, type OwnMethodUses } from "./bound-methods.ts";
import type { Forwarder, OwnMethod, RawForwarder } from "./call-sites.ts";
import { createEntry } from "./forwarders.ts";
import { lateMemberPrototype, wrapSetter } from "./late-member-prototype.ts";
import { type BareMember, bareMember, type Shape, toRaw, type WrapperFactory } from "./shape.ts";
import { Forwarding } from "./templates.ts";
import { accessor, wrapperClass, wrapperLayers } from "./wrapper-class.ts";

/**
 * Plans forwarding to subjects of one shape through a stack: decides which layers apply to which member, and
 * builds the class of the wrappers. Creating a wrapper is then cheap.
 */
export function createWrapperFactory(shape: Shape, layers: readonly Layer<never>[]): WrapperFactory {
  requireLayeredMembers(shape.members, layers);
  // Without a prototype, a member named `__proto__` is an ordinary one.
  const own: PropertyDescriptorMap = Object.create(null);
  const inherited: PropertyDescriptorMap = Object.create(null);
  const late = lateMembers(shape, layers);
  let ownMethods = 0;
  for (const bare of shape.members.values()) {
    const { key, own: isOwn, kind } = bare.member;
    const binding: Binding | undefined =
      isOwn && kind === "method" ? (uses) => BoundMethods.at(ownMethods++, uses) : undefined;
    const descriptor = forwardingDescriptor(bare, layers, binding);
    if (!isOwn && kind === "property" && descriptor.set) {
      descriptor.set = wrapSetter(descriptor.set as RawForwarder, key, late);
    }
    // The descriptor maps have string and symbol keys, which their type does not express.
    (isOwn ? own : inherited)[key as string] = descriptor;
  }
  if (shape.tag) inherited[Symbol.toStringTag as unknown as string] = tagDescriptor(shape.tag);
  const ownKeys = Reflect.ownKeys(own);
  const base = ownMethods > 0 ? BoundMethods : Forwarding;
  const { live } = shape;
  const parent = lateMemberPrototype(shape.prototype, { late, ownKeys: new Set(ownKeys), live });
  const Wrapper = wrapperClass(shape.prototype, inherited, { parent, base });
  wrapperLayers.set(Wrapper.prototype, layers);
  live.addClass(Wrapper.prototype);
  return (subject) => {
    const wrapper = new Wrapper(subject);
    // One by one, which takes less time than `Object.defineProperties`.
    for (let at = 0; at < ownKeys.length; at++) {
      const key = ownKeys[at] as string;
      Object.defineProperty(wrapper, key, own[key] as PropertyDescriptor);
    }
    if (!Object.isExtensible(subject)) Object.preventExtensions(wrapper);
    live.add(wrapper);
    return wrapper;
  };
}

/** Objects that inherit from a wrapper have no built-in tag, as those that inherit from its subject have none. */
function tagDescriptor(tag: string): PropertyDescriptor {
  return {
    get(this: object) {
      return Forwarding.subjectOf(this) && tag;
    },
    configurable: true,
  };
}

/** How a wrapper gets the function that it exposes in place of an own function of its subject. */
type Binding = (uses: OwnMethodUses) => OwnMethod;

/** Returns the property descriptor of a wrapper that forwards to one member through its layers. */
function forwardingDescriptor(
  bare: BareMember,
  layers: readonly Layer<never>[],
  binding?: Binding,
): PropertyDescriptor {
  const { member } = bare;
  const { enumerable, configurable, writable } = member;
  const call = bare.call && layeredCall(bare, bare.call, layers);
  const method = call && binding?.(ownMethodUses(member, call.raw, layers));
  const read = bare.read && layeredForwarder(bare.read(method), member, "read", layers).named;
  const write = bare.write && layeredForwarder(bare.write, member, "write", layers).named;
  if (!read && !write && call) return { value: call.named, enumerable, configurable, writable };
  return accessor(read, write, { enumerable, configurable });
}

/** Returns how an own function of a subject is used, on the wrapper and elsewhere. */
export function ownMethodUses(
  member: Member,
  call: RawForwarder,
  layers: readonly Layer<never>[],
): OwnMethodUses {
  return {
    call,
    borrow: (fn) => {
      const bare: Next = ({ wrapper, args }) => Reflect.apply(fn, wrapper, args as never[]);
      const outermost = callThroughLayers(bare, member, layers);
      return (receiver, args) => outermost({ member, args, wrapper: receiver, context: undefined });
    },
    construct: (fn) => constructThrough(fn, member, layers),
  };
}

/** Returns a function that constructs with a function of the subject, through the layers. */
export function constructThrough(
  fn: Callable,
  member: Member,
  layers: readonly Layer<never>[],
): (args: readonly unknown[], target: Callable) => object {
  const bare: Next = ({ wrapper: target, args }) => Reflect.construct(fn, args, target as Callable);
  const outermost = throughLayers(bare, member, "construct", layers);
  return (args, target) => outermost({ member, args, wrapper: target, context: undefined }) as object;
}

/**
 * Returns a function that describes members added after planning. They may be many, so the cache is bounded.
 */
function lateMembers(
  { prototype, live }: Shape,
  layers: readonly Layer<never>[],
): (member: Member) => PropertyDescriptor {
  const cache = new Map<PropertyKey, { readonly member: Member; readonly descriptor: PropertyDescriptor }>();
  return (member) => {
    const existing = cache.get(member.key);
    if (existing?.member.kind === member.kind && existing.member.own === member.own)
      return existing.descriptor;
    const binding: Binding = (uses) => (wrapper, value) => boundMethod(wrapper, member.key, value, uses);
    const bare = bareMember(member, borrowsOf(member, prototype, live), { isKept: false, prototype });
    const descriptor = forwardingDescriptor(bare, layers, member.own ? binding : undefined);
    if (cache.size < MAX_LATE_MEMBERS) cache.set(member.key, { member, descriptor });
    return descriptor;
  };
}

const MAX_LATE_MEMBERS = 64;

/** Applies the layers that want it to calls of a member. Without any, the forwarder is returned unchanged. */
function layeredCall(
  { member, fn, pass }: BareMember,
  bare: Forwarder,
  layers: readonly Layer<never>[],
): Forwarder {
  const layered = layeredForwarder(bare, member, "call", layers, pass);
  if (!fn || layered === bare) return layered;
  const { raw } = layered;
  const construct = constructThrough(fn, member, layers);
  const kind = functionKind(fn);
  if (kind === "method") return { named: withKindOf(fn, layered.named), raw };
  return {
    raw,
    named: mirrorFunction(fn, {
      call: (receiver, args) => raw.apply(receiver, args),
      construct,
    }) as RawForwarder,
  };
}

/**
 * Applies the layers that want it to one use of a member. Without any, the raw forwarder is returned
 * unchanged.
 *
 * @param pass creates the innermost call of a layer, if there is a faster way than the raw forwarder
 */
function layeredForwarder(
  bare: Forwarder,
  member: Member,
  use: Use,
  layers: readonly Layer<never>[],
  pass: () => Next = () => toRaw(bare.raw),
): Forwarder {
  if (layers.length === 0) return bare;
  const innermost = pass();
  const outermost = throughLayers(innermost, member, use, layers);
  if (outermost === innermost) return bare;
  const failing = use === "call" ? failingLayers(layers, member) : undefined;
  const create = () =>
    failing ? rejectingMethod(outermost, member, failing.isAsync) : createEntry(outermost, member);
  return { named: withSignature(create(), bare.named), raw: create() };
}

/** Composes the layers from the innermost outwards. */
export function throughLayers(
  innermost: Next,
  member: Member,
  use: Use,
  layers: readonly Layer<never>[],
): Next {
  let next = innermost;
  const depth = privateDepth(layers);
  // An index loop, because a client could replace the methods of arrays.
  for (let index = layers.length - 1; index >= 0; index--) {
    next = (layers[index] as Layer<never>).around(next, member, use, index <= depth);
  }
  return next;
}

/** Composes the layers on calls so that their errors arrive as those of the member do. */
export function callThroughLayers(innermost: Next, member: Member, layers: readonly Layer<never>[]): Next {
  const outermost = throughLayers(innermost, member, "call", layers);
  const failing = outermost === innermost ? undefined : failingLayers(layers, member);
  return failing ? rejectingLike(outermost, failing.isAsync) : outermost;
}

/** Returns a layered function as a method that looks like another function. */
export function methodThrough(outermost: Next, member: Member, original: Callable): RawForwarder {
  return withKindOf(original, createEntry(outermost, member));
}
