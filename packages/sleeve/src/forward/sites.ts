import type { Member } from "../surface/member.ts";
import type { Next } from "./call.ts";
import { Forwarding } from "./forwarding.generated.ts";

/** A function that forwards one use of one member. It expects the wrapper as `this`. */
export type BareSite = (this: object, ...args: unknown[]) => unknown;

/** What a function shows of itself. */
export interface Signature {
  readonly name: string;
  readonly length: number;
}

/** Translates one use of a member of a target for the adaptee. */
export type Translation = (adaptee: object, ...args: unknown[]) => unknown;

/** Gives the function that a wrapper shows where its subject has one of its own. */
export type OwnMethod = (wrapper: object) => unknown;

/**
 * A place in the source that makes forwarding functions.
 *
 * Engines gather type feedback by the place where a function is written, not by the function made there. If all
 * members forwarded from one place, that place would see every class and key of the program and be optimised for
 * none. So `forwarding.generated.ts` writes the same function out many times, and each member takes a place of
 * its own while there are any. After that they share: as correct, and slower.
 */
type Place<Args extends readonly unknown[], Made = BareSite> = (...args: Args) => Made;

/** Hands out the places of one kind, first come, first served. */
class Places<Args extends readonly unknown[], Made = BareSite> {
  readonly #places: readonly Place<Args, Made>[];
  readonly #takenFor = new Map<unknown, number>();
  #taken = 0;

  constructor(places: readonly Place<Args, Made>[]) {
    this.#places = places;
  }

  /** A place for a member with this key. Once all are taken, members of the same key share one: the next best. */
  take(key: unknown, isKept: boolean): Place<Args, Made> {
    const last = this.#places.length - 1;
    const isFree = isKept && this.#taken < last;
    const index = isFree ? this.#taken++ : (this.#takenFor.get(key) ?? last);
    if (isFree) this.#takenFor.set(key, index);
    return this.#places[index] as Place<Args, Made>;
  }
}

// A wrapper is a Forwarding by construction, while to its clients, and so here, it is an object like its subject.
const calls = new Places(Forwarding.calls as readonly Place<[PropertyKey]>[]);
const passes = new Places<[PropertyKey], Next>(Forwarding.passes);
const reads = new Places(Forwarding.reads as readonly Place<[PropertyKey, OwnMethod | undefined]>[]);
const writes = new Places(Forwarding.writes as readonly Place<[PropertyKey]>[]);
const translations = new Places(Forwarding.translations as readonly Place<[Translation]>[]);

/**
 * The functions that forward one use of one member: the one that clients get, with the right `name` and `length`,
 * and one for layers to call. To name a function makes calls through its `call` and `apply` slow.
 */
export interface Site {
  readonly shown: BareSite;
  readonly inner: BareSite;
}

/** Calls the member on the subject. A result that is the subject itself comes back as the wrapper. */
export function callSite({ key, label, signature }: Member, isKept: boolean): Site {
  return siteAt(calls.take(key, isKept), [key], signature ?? { name: label, length: 0 });
}

/** The same for the innermost of the layers on a member. */
export function callNext({ key }: Member, isKept: boolean): Next {
  return passes.take(key, isKept)(key);
}

/** Reads the member of the subject. Where it holds a function, the client gets what `method` gives. */
export function readSite({ key, label }: Member, isKept: boolean): (method?: OwnMethod) => Site {
  const place = reads.take(key, isKept);
  return (method) => siteAt(place, [key, method], { name: `get ${label}`, length: 0 });
}

/** Writes the member of the subject. */
export function writeSite({ key, label }: Member, isKept: boolean): Site {
  return siteAt(writes.take(key, isKept), [key], { name: `set ${label}`, length: 1 });
}

/** Calls a translation with the adaptee before the client's own arguments. */
export function translationSite(translation: Translation, signature: Signature): Site {
  return siteAt(translations.take(signature.name, true), [translation], signature);
}

function siteAt<Args extends readonly unknown[]>(place: Place<Args>, args: Args, signature: Signature): Site {
  return { shown: named(place(...args), signature), inner: place(...args) };
}

/** A function that forwards without a place of its own, where its members are too many or too rare for one. */
export function siteOf(forward: BareSite, signature: Signature): Site {
  const inner: BareSite = function (...args) {
    return forward.apply(this, args);
  };
  return { shown: named(forward, signature), inner };
}

/** Gives a function the `name` and `length` of the one it stands for. */
export function named<Fn extends (...args: never[]) => unknown>(site: Fn, signature: Signature): Fn {
  Object.defineProperty(site, "name", { value: signature.name, configurable: true });
  Object.defineProperty(site, "length", { value: signature.length, configurable: true });
  return site;
}
