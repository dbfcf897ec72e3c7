import {
  type Borrow,
  CallSitePool,
  createForwarder,
  type Forwarder,
  type RawForwarder,
  type TemplateList,
  type Translation,
} from "../../forward/closed/call-sites.ts";
import { Adapting } from "../../forward/closed/templates.ts";
import { accessor } from "../../forward/closed/wrapper-class.ts";
import type { Signature } from "../../forward/mirror-function.ts";
import { describe } from "../../forward/subject.ts";
import { SleeveError } from "../../shared/errors.ts";
import { type Callable, type Member, memberOf } from "../../surface/member.ts";
import { registerLikeness } from "../../surface/member-functions.ts";
import { findProperty } from "../../surface/prototype-chain.ts";

const translations = /* @__PURE__ */ new CallSitePool<[Translation, Borrow]>(
  () => Adapting.translations as TemplateList<[Translation, Borrow]>,
);
const namedCalls = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow]>(
  () => Adapting.namedCalls as TemplateList<[PropertyKey, Borrow]>,
);
const namedReads = /* @__PURE__ */ new CallSitePool<[PropertyKey, Borrow]>(
  () => Adapting.namedReads as TemplateList<[PropertyKey, Borrow]>,
);

/** The source of a target's member in the adaptee. */
export type Source =
  | { readonly from: "name"; readonly name: PropertyKey; readonly adapteeFor: (receiver: unknown) => object }
  | { readonly from: "method"; readonly call: Forwarder; readonly translation: Translation }
  | { readonly from: "property"; readonly get: Forwarder; readonly set: Forwarder | undefined };

/** Finds the adaptee of the wrapper that an object inherits from or stands in front of. */
export type FindAdaptee = (receiver: unknown) => object | undefined;

/** Returns the sources of all mapped members. */
export function sourcesOf(
  mapping: object,
  adapterName: string,
  findAdaptee: FindAdaptee = () => undefined,
): readonly (readonly [PropertyKey, Source])[] {
  if (typeof mapping !== "object" || mapping === null) {
    throw new SleeveError(
      "BAD_MAPPING",
      `${adapterName} has the mapping ${mapping}. Map each member of the target.`,
    );
  }
  return Reflect.ownKeys(mapping).map(
    (key) => [key, sourceOf(key, mapping, adapterName, findAdaptee)] as const,
  );
}

function sourceOf(key: PropertyKey, mapping: object, adapterName: string, findAdaptee: FindAdaptee): Source {
  const label = String(key);
  const entry: unknown = Reflect.get(mapping, key);
  const adapteeFor = (receiver: unknown): object => {
    const adaptee = findAdaptee(receiver);
    if (adaptee) return adaptee;
    throw new TypeError(`${adapterName}: ${label} was called on another object. Call it on the wrapper.`);
  };
  const translating = (translation: Translation, signature: Signature): Forwarder => {
    const template = translations.take(signature.name, true);
    const borrow: Borrow = (receiver, args) => translation(adapteeFor(receiver), ...args);
    const forwarder = createForwarder(() => template(translation, borrow), signature);
    registerLikeness(forwarder.named, translation, 1);
    return forwarder;
  };
  if (typeof entry === "string" || typeof entry === "symbol")
    return { from: "name", name: entry, adapteeFor };
  if (typeof entry === "function") {
    const signature = { name: label, length: Math.max(0, entry.length - 1) };
    const translation = entry as Translation;
    return { from: "method", call: translating(translation, signature), translation };
  }
  const { get, set } = (entry ?? {}) as { get?: unknown; set?: unknown };
  if (typeof get !== "function") {
    throw new SleeveError(
      "BAD_MAPPING",
      `${adapterName} maps ${label} to ${entry === null ? "null" : `a value of type ${typeof entry}`}. Map it to ` +
        "the name of an adaptee's member, to a function, or to { get, set }.",
    );
  }
  return {
    from: "property",
    get: translating(get as Translation, { name: `get ${label}`, length: 0 }),
    set:
      typeof set === "function"
        ? translating(set as Translation, { name: `set ${label}`, length: 1 })
        : undefined,
  };
}

/**
 * Returns the member of an adaptee that a source names, or `undefined` if the source is a function.
 *
 * @throws {SleeveError} `NO_SUCH_MEMBER`
 */
export function namedMember(
  source: Source,
  key: PropertyKey,
  adaptee: object,
  adapterName: string,
): Member | undefined {
  if (source.from !== "name") return undefined;
  const property = findProperty(adaptee, source.name);
  if (!property) throw lackingMember(String(key), source.name, adaptee, adapterName);
  return memberOf(source.name as string | symbol, property.descriptor, property.holder === adaptee);
}

/**
 * Returns the property descriptor that implements a member of the target.
 *
 * @param member the member of the adaptee, for a source that names one
 * @param around applies the options of the adapter to a forwarder
 */
export function descriptorOf(
  source: Source,
  member: Member | undefined,
  around: (forwarder: Forwarder) => RawForwarder,
): PropertyDescriptor {
  const method = (call: Forwarder) => ({ value: around(call), configurable: true, writable: true });
  const property = (read: Forwarder | undefined, write: Forwarder | undefined) =>
    accessor(read && around(read), write && around(write), { configurable: true, enumerable: true });
  switch (source.from) {
    case "method":
      return method(source.call);
    case "property":
      return property(source.get, source.set);
    case "name": {
      const { kind, readable, writable } = member as Member;
      return kind === "method"
        ? method(namedCall(source, member as Member))
        : property(readable ? namedRead(source) : undefined, writable ? namedWrite(source) : undefined);
    }
  }
}

type NamedSource = Extract<Source, { from: "name" }>;

function namedCall({ name, adapteeFor }: NamedSource, { label, signature }: Member): Forwarder {
  const template = namedCalls.take(name, true);
  const borrow: Borrow = (receiver, args) => {
    const adaptee = adapteeFor(receiver);
    const result: unknown = Reflect.apply(Reflect.get(adaptee, name) as Callable, adaptee, args as never[]);
    return result === adaptee ? receiver : result;
  };
  return createForwarder(() => template(name, borrow), signature ?? { name: label, length: 0 });
}

function namedRead({ name, adapteeFor }: NamedSource): Forwarder {
  const template = namedReads.take(name, true);
  const borrow: Borrow = (receiver) => Reflect.get(adapteeFor(receiver), name);
  return createForwarder(() => template(name, borrow), { name: `get ${String(name)}`, length: 0 });
}

function namedWrite({ name, adapteeFor }: NamedSource): Forwarder {
  const template = translations.take(name, true);
  const write: Translation = (adaptee, value) => {
    (adaptee as Record<PropertyKey, unknown>)[name] = value;
  };
  const borrow: Borrow = (receiver, [value]) => write(adapteeFor(receiver), value);
  return createForwarder(() => template(write, borrow), { name: `set ${String(name)}`, length: 1 });
}

function lackingMember(member: string, name: PropertyKey, adaptee: object, adapterName: string): SleeveError {
  return new SleeveError(
    "NO_SUCH_MEMBER",
    `${adapterName} maps ${member} to "${String(name)}", but ${describe(adaptee)} has no such member. ` +
      "Correct the name in the mapping, or map the member to a function.",
  );
}
