import type { Callable, Member } from "../../surface/member.ts";
import { findProperty } from "../../surface/prototype-chain.ts";
import { inheritedMembers, ownMembers } from "../../surface/reflect.ts";
import type { Next } from "../call.ts";
import { isForEach, replaceCallbackSubject, tagOf } from "../collections.ts";
import { type Borrows, borrowsOf } from "./borrowed.ts";
import { createForwarder, type Forwarder, type OwnMethod, type RawForwarder } from "./call-sites.ts";
import {
  callNext,
  createCallForwarder,
  createReadForwarder,
  createWriteForwarder,
  type MethodTraits,
} from "./forwarders.ts";
import { LiveWrappers } from "./live-wrappers.ts";
import { Forwarding } from "./templates.ts";

/**
 * What subjects of one class with the same own keys have in common: their members with the forwarders to
 * them. All stacks over subjects of one shape share these functions.
 */
export interface Shape {
  readonly prototype: object | null;
  readonly members: ReadonlyMap<PropertyKey, BareMember>;
  /** The built-in tag of such a subject, as `Object.prototype.toString` reports it: `Date`, `Error`. */
  readonly tag: string | undefined;
  readonly live: LiveWrappers;
}

/** Creates a wrapper of a subject of one shape. */
export type WrapperFactory = (subject: object) => object;

/** A member with its raw forwarders, which expect the wrapper as `this`. */
export interface BareMember {
  readonly member: Member;
  /** The function of the subject, if all subjects of the shape share it. */
  readonly fn: Callable | undefined;
  readonly call: Forwarder | undefined;
  /** The innermost call of layers; created when layers are first applied. */
  readonly pass: (() => Next) | undefined;
  readonly read: ((method?: OwnMethod) => Forwarder) | undefined;
  readonly write: Forwarder | undefined;
}

/** Creates a member with functions that forward to the subject of the wrapper they are called on. */
export function bareMember(member: Member, borrows: Borrows, traits: MethodTraits): BareMember {
  const { isKept, fn } = traits;
  const isMethod = member.kind === "method";
  const isProperty = !isMethod || member.own;
  const call = isMethod ? createCallForwarder(member, borrows.call, traits) : undefined;
  let pass: Next | undefined;
  return {
    member,
    fn,
    pass: isMethod
      ? () => {
          pass ??= callNext(member, borrows.call, traits) ?? toRaw(call?.raw as RawForwarder);
          return pass;
        }
      : undefined,
    call,
    read: member.readable && isProperty ? createReadForwarder(member, borrows.read, isKept) : undefined,
    write: member.writable && isProperty ? createWriteForwarder(member, borrows.write, isKept) : undefined,
  };
}

/** Calls a raw forwarder. Engines inline plain calls, but not `apply`. */
export function toRaw(raw: RawForwarder): Next {
  return ({ wrapper, args }) => {
    if (args.length === 1) return raw.call(wrapper, args[0]);
    return args.length === 0 ? raw.call(wrapper) : raw.apply(wrapper, args as unknown[]);
  };
}

/**
 * Returns the shape of an object. Costs a walk over its own keys; prototypes are walked once per class.
 *
 * The number of cached shapes is bounded, so that dictionaries with changing keys cannot fill the memory.
 * Beyond the bound, shapes are created again each time from shared forwarders.
 */
export function shapeOf(subject: object): Shape {
  const prototype = Object.getPrototypeOf(subject) as object | null;
  const family = familyOf(prototype);
  const keys = Reflect.ownKeys(subject);
  if (keys.length === 0 && family.keyless) return family.keyless;
  const { latest } = family;
  if (latest && isLike(latest, subject, keys)) return latest.shape;
  const own = ownMembers(subject);
  const branch = keys.length > 0 ? branchOf(family, own) : undefined;
  if (branch?.shape) {
    family.latest = latestOf(branch.shape, own);
    return branch.shape;
  }
  const isKept = family.size < MAX_SHAPES;
  const shape = createShape(subject, own, isKept);
  if (!isKept) return shape;
  family.size += 1;
  if (branch) branch.shape = shape;
  else family.keyless = shape;
  return shape;
}

const MAX_SHAPES = 64;

/** The shapes of one class, as a tree over own keys. */
interface Family extends Branch {
  size: number;
  keyless: Shape | undefined;
  /** The shape that was found last, if all of its own members are properties with a value. */
  latest: LatestShape | undefined;
}

/** Instances of a class mostly have the same keys, so that comparing them is all it takes. */
interface LatestShape {
  readonly shape: Shape;
  readonly own: readonly Member[];
}

function latestOf(shape: Shape, own: readonly Member[]): LatestShape | undefined {
  return own.every(({ kind }) => kind === "property") ? { shape, own } : undefined;
}

/** Whether the own members of a subject are those of the latest shape: properties with the same keys and attributes. */
function isLike({ own }: LatestShape, subject: object, keys: readonly PropertyKey[]): boolean {
  if (keys.length !== own.length) return false;
  for (let at = 0; at < keys.length; at++) {
    const key = keys[at] as PropertyKey;
    const member = own[at] as Member;
    if (key !== member.key) return false;
    const descriptor = Object.getOwnPropertyDescriptor(subject, key);
    if (
      !descriptor ||
      descriptor.writable !== member.writable ||
      descriptor.enumerable !== member.enumerable ||
      descriptor.configurable !== member.configurable ||
      typeof descriptor.value === "function"
    )
      return false;
  }
  return true;
}

interface Branch {
  readonly next: Map<PropertyKey, Branch[]>;
  readonly step: string;
  shape: Shape | undefined;
}

const families = new WeakMap<object, Family>();
const orphans = createFamily();

function createFamily(): Family {
  return { next: new Map(), step: "", shape: undefined, size: 0, keyless: undefined, latest: undefined };
}

function familyOf(prototype: object | null): Family {
  if (prototype === null) return orphans;
  let family = families.get(prototype);
  if (!family) {
    family = createFamily();
    families.set(prototype, family);
  }
  return family;
}

function branchOf(family: Family, own: readonly Member[]): Branch | undefined {
  let branch: Branch = family;
  for (const member of own) {
    const { kind, readable, writable, enumerable, configurable } = member;
    const step = `${kind} ${readable} ${writable} ${enumerable} ${configurable}`;
    const branches: Branch[] = branch.next.get(member.key) ?? [];
    let match = branches.find((branch) => branch.step === step);
    if (!match) {
      if (family.size >= MAX_SHAPES) return undefined;
      match = { next: new Map(), step, shape: undefined };
      branch.next.set(member.key, [...branches, match]);
    }
    branch = match;
  }
  return branch;
}

function createShape(subject: object, own: readonly Member[], isKept: boolean): Shape {
  const prototype = Object.getPrototypeOf(subject) as object | null;
  const live = new LiveWrappers(Forwarding.subjectOf);
  const members = new Map<PropertyKey, BareMember>();
  const hidden = new Set(own.map((member) => member.key));
  for (const member of [...own, ...inheritedMembers(prototype, hidden)]) {
    const fn = member.own ? undefined : methodOn(prototype, member);
    const bare = bareMember(member, borrowsOf(member, prototype, live), { isKept, fn, prototype });
    const isEach = member.key === "forEach" && isForEach(Reflect.get(subject, "forEach"));
    members.set(member.key, isEach ? { ...bare, call: forEachForwarder(member), pass: undefined } : bare);
  }
  return { prototype, members, tag: tagOf(subject), live };
}

/** Returns the method that a prototype has under the key of a member. */
function methodOn(prototype: object | null, { key, kind }: Member): Callable | undefined {
  if (kind !== "method" || !prototype) return undefined;
  return findProperty(prototype, key)?.descriptor.value as Callable | undefined;
}

function forEachForwarder({ signature }: Member): Forwarder {
  const create = (): RawForwarder =>
    function (...args) {
      const subject = Forwarding.subjectOf(this) as Map<unknown, unknown>;
      return Reflect.apply(subject.forEach, subject, replaceCallbackSubject(this, args));
    };
  return createForwarder(create, signature ?? { name: "forEach", length: 1 });
}
