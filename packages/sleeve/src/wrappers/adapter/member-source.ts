import {
  createTranslationForwarder,
  type Forwarder,
  type RawForwarder,
  type Translation,
} from "../../forward/closed/forwarders.ts";
import type { Shape } from "../../forward/closed/shape.ts";
import { accessor } from "../../forward/closed/wrapper-factory.ts";
import type { Signature } from "../../forward/mirror-function.ts";
import { describe } from "../../forward/subject.ts";
import { SleeveError } from "../../shared/errors.ts";
import { registerLikeness } from "../../surface/member-functions.ts";

/** The source of a target's member in the adaptee. */
export type Source =
  | { readonly from: "name"; readonly name: PropertyKey }
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
  const translating = (translation: Translation, signature: Signature): Forwarder => {
    const forwarder = createTranslationForwarder(
      translation,
      (receiver, args) => {
        const adaptee = findAdaptee(receiver);
        if (adaptee) return translation(adaptee, ...args);
        throw new TypeError(`${adapterName}: ${label} was called on another object. Call it on the wrapper.`);
      },
      signature,
    );
    registerLikeness(forwarder.named, translation, 1);
    return forwarder;
  };
  if (typeof entry === "string" || typeof entry === "symbol") return { from: "name", name: entry };
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

export interface Offer {
  /** The member of the target. */
  readonly key: PropertyKey;
  readonly shape: Shape;
  readonly adaptee: object;
  /** Name of the adapter in messages. */
  readonly name: string;
  /** Applies the adapter's options to a forwarder. */
  readonly around: (forwarder: Forwarder) => RawForwarder;
}

/** Returns the property descriptor that implements a member of the target. */
export function descriptorOf(
  source: Source,
  { key, shape, adaptee, name, around }: Offer,
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
      const bare = shape.members.get(source.name);
      if (!bare) throw lackingMember(String(key), source.name, adaptee, name);
      return bare.call ? method(bare.call) : property(bare.read?.(), bare.write);
    }
  }
}

function lackingMember(member: string, name: PropertyKey, adaptee: object, adapterName: string): SleeveError {
  return new SleeveError(
    "NO_SUCH_MEMBER",
    `${adapterName} maps ${member} to "${String(name)}", but ${describe(adaptee)} has no such member. ` +
      "Correct the name in the mapping, or map the member to a function.",
  );
}
