import type { Member } from "../surface/member.ts";
import { inheritedMembers, ownMembers } from "../surface/reflect.ts";
import type { Next } from "./call.ts";
import { Forwarding } from "./forwarding.generated.ts";
import { isForEach, showingInstead, tagOf } from "./language.ts";
import { callNext, callSite, type OwnMethod, readSite, type Site, siteOf, writeSite } from "./sites.ts";

/**
 * What subjects of one class and the same own keys have in common: their members, and for each the function
 * that forwards to it. All stacks over subjects of one shape share these functions.
 */
export interface Shape {
  readonly prototype: object | null;
  readonly members: ReadonlyMap<PropertyKey, BareMember>;
  /** What `Object.prototype.toString` calls such a subject by what the language keeps in it: `Date`, `Error`. */
  readonly tag: string | undefined;
}

/** A member with its bare forwarding functions, which expect the wrapper as `this`. */
export interface BareMember {
  readonly member: Member;
  readonly call: Site | undefined;
  /** The call as the innermost of layers makes it; made when layers are first put around it. */
  readonly pass: (() => Next) | undefined;
  readonly read: ((method?: OwnMethod) => Site) | undefined;
  readonly write: Site | undefined;
}

/** A member with functions that forward to the subject of the wrapper they are called on. */
export function bareMember(member: Member, isKept: boolean): BareMember {
  const isMethod = member.kind === "method";
  const isProperty = !isMethod || member.own;
  let pass: Next | undefined;
  return {
    member,
    pass: isMethod
      ? () => {
          pass ??= callNext(member, isKept);
          return pass;
        }
      : undefined,
    call: isMethod ? callSite(member, isKept) : undefined,
    read: member.readable && isProperty ? readSite(member, isKept) : undefined,
    write: member.writable && isProperty ? writeSite(member, isKept) : undefined,
  };
}

/**
 * The shape of an object. Costs a walk over its own keys; the prototypes are walked once for each class.
 *
 * A class whose objects keep changing their keys gets new shapes only up to a bound. Beyond it they are made
 * anew each time, from shared forwarding functions, so that a dictionary cannot fill the memory.
 */
export function shapeOf(subject: object): Shape {
  const prototype = Object.getPrototypeOf(subject) as object | null;
  const family = familyOf(prototype);
  const keys = Reflect.ownKeys(subject);
  if (keys.length === 0 && family.keyless) return family.keyless;
  const own = ownMembers(subject);
  const branch = keys.length > 0 ? branchOf(family, own) : undefined;
  if (branch?.shape) return branch.shape;
  const isKept = family.size < SHAPES_KEPT;
  const shape = createShape(subject, own, isKept);
  if (!isKept) return shape;
  family.size += 1;
  if (branch) branch.shape = shape;
  else family.keyless = shape;
  return shape;
}

const SHAPES_KEPT = 64;

/** The shapes of one class, as a tree whose steps are own keys. */
interface Family extends Branch {
  size: number;
  keyless: Shape | undefined;
}

interface Branch {
  readonly next: Map<PropertyKey, Branch[]>;
  readonly step: string;
  shape: Shape | undefined;
}

const families = new WeakMap<object, Family>();
const orphans = createFamily();

function createFamily(): Family {
  return { next: new Map(), step: "", shape: undefined, size: 0, keyless: undefined };
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
    let found = branches.find((each) => each.step === step);
    if (!found) {
      if (family.size >= SHAPES_KEPT) return undefined;
      found = { next: new Map(), step, shape: undefined };
      branch.next.set(member.key, [...branches, found]);
    }
    branch = found;
  }
  return branch;
}

function createShape(subject: object, own: readonly Member[], isKept: boolean): Shape {
  const prototype = Object.getPrototypeOf(subject) as object | null;
  const members = new Map<PropertyKey, BareMember>();
  const hidden = new Set(own.map((member) => member.key));
  for (const member of [...own, ...inheritedMembers(prototype, hidden)]) {
    const bare = bareMember(member, isKept);
    const isEach = member.key === "forEach" && isForEach(Reflect.get(subject, "forEach"));
    members.set(member.key, isEach ? { ...bare, call: forEachSite(member), pass: undefined } : bare);
  }
  return { prototype, members, tag: tagOf(subject) };
}

function forEachSite({ signature }: Member): Site {
  return siteOf(function (...args) {
    const subject = Forwarding.subjectOf(this) as Map<unknown, unknown>;
    return Reflect.apply(subject.forEach, subject, showingInstead(this, args));
  }, signature ?? { name: "forEach", length: 1 });
}
