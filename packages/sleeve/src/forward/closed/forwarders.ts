import { endsWith, getOwnPropertyDescriptor, sourceText } from "../../shared/intrinsics.ts";
import { type Callable, isClass, type Member } from "../../surface/member.ts";
import { findOnChain } from "../../surface/prototype-chain.ts";
import type { Call, Next } from "../call.ts";
import { exchanged } from "../exchange.ts";
import {
  functionKind,
  mirrorFunction,
  type Signature,
  withKindOf,
  withSignature,
} from "../mirror-function.ts";
import {
  entries as entryTemplates,
  Forwarding,
  type WatchUses,
  watches as watchTemplates,
} from "./templates.ts";

/** A function that forwards one use of one member. It expects the wrapper as `this`. */
export type RawForwarder = (this: object, ...args: unknown[]) => unknown;

/** Translates one use of a target's member for the adaptee. */
export type Translation = (adaptee: object, ...args: unknown[]) => unknown;

/** Returns the function that a wrapper exposes in place of an own function of its subject. */
export type OwnMethod = (wrapper: object, value: Callable) => unknown;

/**
 * Handles a use whose `this` is not a wrapper: a borrowed method, a detached one, or an object that inherits from a
 * wrapper. `target` is the `new.target` of a construction.
 */
export type Borrow = (receiver: unknown, args: readonly unknown[], target?: unknown) => unknown;

/**
 * Creates a forwarding function at a source location of its own.
 *
 * Engines collect type feedback per source location, not per function. If all members were forwarded from one
 * location, that location would see every class and key of the program and be optimised for none. So the build writes
 * out many copies of the same function, and each member takes its own while any are left. After that, members share
 * one, which is equally correct and slower.
 */
type CallSiteTemplate<Args extends readonly unknown[], Made = RawForwarder> = (...args: Args) => Made;

type TemplateList<
  Args extends readonly unknown[],
  Made = RawForwarder,
> = readonly (() => readonly CallSiteTemplate<Args, Made>[])[];

/** Hands out the templates of one kind, in order. All blocks have the same size. */
class CallSitePool<Args extends readonly unknown[], Made = RawForwarder> {
  readonly #list: () => TemplateList<Args, Made>;
  readonly #created: (readonly CallSiteTemplate<Args, Made>[])[] = [];
  readonly #ofKeys = new Map<unknown, { readonly indexes: number[]; shared: number }>();
  #taken = 0;

  /** @param list returns the blocks; a function, so that bundlers can leave out an unused pool with its templates */
  constructor(list: () => TemplateList<Args, Made>) {
    this.#list = list;
  }

  /**
   * Returns a template for a member with this key. Once all are taken, members with the same key share those that it has,
   * in turn, and members with new keys share the last.
   *
   * Engines optimise a place for a few classes, but not for several keys.
   *
   * @param isKept whether the forwarder is kept, so that it is worth a template of its own
   */
  take(key: unknown, isKept: boolean): CallSiteTemplate<Args, Made> {
    const size = this.#block(0).length;
    const last = this.#list().length * size - 1;
    const ofKey = this.#ofKeys.get(key);
    if (!isKept || this.#taken >= last) {
      if (!ofKey) return this.#at(last);
      return this.#at(ofKey.indexes[ofKey.shared++ % ofKey.indexes.length] as number);
    }
    const index = this.#taken++;
    if (ofKey) ofKey.indexes.push(index);
    else this.#ofKeys.set(key, { indexes: [index], shared: 0 });
    return this.#at(index);
  }

  /**
   * Returns the next template, and the first after the last. For functions that call each other, such as the layers of a
   * member: an engine does not inline a function into itself.
   */
  next(): CallSiteTemplate<Args, Made> {
    return this.#at(this.#taken++ % (this.#list().length * this.#block(0).length));
  }

  #at(index: number): CallSiteTemplate<Args, Made> {
    const size = this.#block(0).length;
    return this.#block(Math.floor(index / size))[index % size] as CallSiteTemplate<Args, Made>;
  }

  #block(index: number): readonly CallSiteTemplate<Args, Made>[] {
    this.#created[index] ??= this.#list()[index]?.() ?? [];
    return this.#created[index];
  }
}

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
const translations = /* @__PURE__ */ new CallSitePool<[Translation, Borrow]>(
  () => Forwarding.translations as TemplateList<[Translation, Borrow]>,
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

/**
 * The forwarders of one use of one member: one for clients, which looks like the function of the subject, and one for
 * layers. Defining `name` makes calls through `call` and `apply` slow, so layers use the raw one.
 */
export interface Forwarder {
  readonly named: RawForwarder;
  readonly raw: RawForwarder;
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

/** Creates a forwarder that calls a translation with the adaptee, then the client's arguments. */
export function createTranslationForwarder(
  translation: Translation,
  borrow: Borrow,
  signature: Signature,
): Forwarder {
  const template = translations.take(signature.name, true);
  return createForwarder(() => template(translation, borrow), signature);
}

/**
 * Creates the two functions of a forwarder.
 *
 * @param create creates the function, at a template or, for members that are too many or too rare, at a shared place
 */
export function createForwarder(create: () => RawForwarder, signature: Signature): Forwarder {
  return { named: withSignature(create(), signature), raw: create() };
}
