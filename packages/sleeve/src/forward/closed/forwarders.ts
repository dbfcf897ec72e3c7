import { endsWith, getOwnPropertyDescriptor, sourceText } from "../../shared/intrinsics.ts";
import { type Callable, isClass, type Member } from "../../surface/member.ts";
import { findOnChain } from "../../surface/prototype-chain.ts";
import type { Call, Next } from "../call.ts";
import { exchanged } from "../exchange.ts";
import { functionKind, mirrorFunction, withKindOf } from "../mirror-function.ts";
import {
  type Borrow,
  CallSitePool,
  createForwarder,
  type Forwarder,
  type OwnMethod,
  type RawForwarder,
  type TemplateList,
} from "./call-sites.ts";
import {
  entries as entryTemplates,
  Forwarding,
  type WatchUses,
  watches as watchTemplates,
} from "./templates.ts";

// A wrapper is a `Forwarding` by construction; clients, and this file, see an object like its subject.
const calls = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow]>(
  () => Forwarding.calls as TemplateList<[PropertyKey, Borrow]>,
);
type Exchange = typeof exchanged;

const comparisons = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow, Exchange]>(
  () => Forwarding.comparisons as TemplateList<[PropertyKey, Borrow, Exchange]>,
);
const functions = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow]>(
  () => Forwarding.functions as TemplateList<[PropertyKey, Borrow]>,
);
const passes = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow], Next>(() => Forwarding.passes);
const reads = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow, OwnMethod | undefined]>(
  () => Forwarding.reads as unknown as TemplateList<[PropertyKey, Borrow, OwnMethod | undefined]>,
);
const writes = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow]>(
  () => Forwarding.writes as TemplateList<[PropertyKey, Borrow]>,
);

const entries = /* @__PURE__ */ new CallSitePool<[Next, Member]>(
  () => entryTemplates as TemplateList<[Next, Member]>,
);
const watches = /* @__PURE__ */ new CallSitePool<[Next, Watcher, WatchUses], Next>(() => watchTemplates);
type Watcher = (call: Call) => unknown;

/** Creates a method that passes its calls to layers. */
export function createEntry(outermost: Next, member: Member): RawForwarder {
  return entries.next()(outermost, member);
}

/** Creates a call that a layer watches. */
export function createWatchedCall(next: Next, watcher: Watcher, uses: WatchUses): Next {
  return watches.next()(next, watcher, uses);
}

/** What the forwarder of a method needs to know of it. */
export interface MethodTraits {
  /** Whether the forwarder is kept, so that it is worth a template of its own. */
  readonly isKept: boolean;
  /** The function of the subject, if all subjects of the shape share it. */
  readonly fn?: Callable | undefined;
  /** The prototype of the subject. */
  readonly prototype: object | null;
}

/**
 * Creates a forwarder of calls. A result that is the subject itself is returned as the wrapper.
 */
export function createCallForwarder(
  { key, label, signature }: Member,
  borrow: Borrow,
  { isKept, fn, prototype }: MethodTraits,
): Forwarder {
  const isCompared = mayCompare(fn, prototype);
  const kind = fn ? functionKind(fn) : "method";
  if (!fn || kind === "method") {
    const comparing = isCompared ? comparisons.take(key, isKept) : undefined;
    const plain = comparing ? undefined : calls.take(key, isKept);
    const create = () =>
      comparing?.(key, borrow, exchanged) ?? (plain as NonNullable<typeof plain>)(key, borrow);
    if (fn) return { named: withKindOf(fn, create()), raw: create() };
    return createForwarder(create, signature ?? { name: label, length: 0 });
  }
  const template = functions.take(key, isKept);
  const raw = template(key, borrow);
  if (kind === "constructor") return { named: withKindOf(fn, template(key, borrow)), raw };
  const uses = {
    call: (receiver: object, args: unknown[]) => raw.apply(receiver, args),
    construct: (args: unknown[], target: Callable) => borrow(undefined, args, target) as object,
  };
  return { named: mirrorFunction(fn, uses) as RawForwarder, raw };
}

/**
 * Whether a method, or another one of its class, may compare an argument with its subject or read private fields of an
 * argument: its source uses `this` other than to reach a member or to return it, or the source is not known.
 */
function mayCompare(fn: Callable | undefined, prototype: object | null): boolean {
  return fn === undefined || isNative(fn) || usesIdentity(fn) || isOnIdentityClass(prototype);
}

function isOnIdentityClass(prototype: object | null): boolean {
  return (
    findOnChain(prototype, (holder) => {
      const Class: unknown = getOwnPropertyDescriptor(holder, "constructor")?.value;
      return (typeof Class === "function" && isClass(Class) && usesIdentity(Class as Callable)) || undefined;
    }) === true
  );
}

const IDENTITY = /(?<!\breturn\s+|=>\s*)\bthis\b(?!\s*(?:\.|\?\.|\[))|(?<!\bthis)\??\.#/;

function isNative(fn: Callable): boolean {
  return endsWith(sourceText(fn), "{ [native code] }");
}

const identityUses = new WeakMap<Callable, boolean>();

function usesIdentity(fn: Callable): boolean {
  let uses = identityUses.get(fn);
  if (uses === undefined) {
    uses = IDENTITY.test(sourceText(fn));
    identityUses.set(fn, uses);
  }
  return uses;
}

/** Creates the innermost call of the layers on a member, or `undefined` if its forwarder of calls must be used. */
export function callNext(
  { key }: Member,
  borrow: Borrow,
  { isKept, fn, prototype }: MethodTraits,
): Next | undefined {
  return mayCompare(fn, prototype) ? undefined : passes.take(key, isKept)(key, borrow);
}

/** Creates a forwarder of reads. If the member holds a function, the client gets the result of `method`. */
export function createReadForwarder(
  { key, label }: Member,
  borrow: (method: OwnMethod | undefined) => Borrow,
  isKept: boolean,
): (method?: OwnMethod) => Forwarder {
  const template = reads.take(key, isKept);
  return (method) =>
    createForwarder(() => template(key, borrow(method), method), { name: `get ${label}`, length: 0 });
}

/** Creates a forwarder of writes. */
export function createWriteForwarder({ key, label }: Member, borrow: Borrow, isKept: boolean): Forwarder {
  const template = writes.take(key, isKept);
  return createForwarder(() => template(key, borrow), { name: `set ${label}`, length: 1 });
}
