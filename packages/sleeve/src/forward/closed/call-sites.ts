import type { Callable } from "../../surface/member.ts";
import { type Signature, withSignature } from "../mirror-function.ts";

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
export type CallSiteTemplate<Args extends readonly unknown[], Made = RawForwarder> = (...args: Args) => Made;

export type TemplateList<
  Args extends readonly unknown[],
  Made = RawForwarder,
> = readonly (() => readonly CallSiteTemplate<Args, Made>[])[];

/** Hands out the templates of one kind, in order. All blocks have the same size. */
export class CallSitePool<Args extends readonly unknown[], Made = RawForwarder> {
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

/**
 * The forwarders of one use of one member: one for clients, which looks like the function of the subject, and one for
 * layers. Defining `name` makes calls through `call` and `apply` slow, so layers use the raw one.
 */
export interface Forwarder {
  readonly named: RawForwarder;
  readonly raw: RawForwarder;
}

/**
 * Creates the two functions of a forwarder.
 *
 * @param create creates the function, at a template or, for members that are too many or too rare, at a shared place
 */
export function createForwarder(create: () => RawForwarder, signature: Signature): Forwarder {
  return { named: withSignature(create(), signature), raw: create() };
}
