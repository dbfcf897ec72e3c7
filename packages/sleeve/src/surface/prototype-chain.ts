import { getOwnPropertyDescriptor, getPrototypeOf, ownKeys } from "../shared/intrinsics.ts";

/**
 * Searches an object and its prototypes, nearest first. Returns the first result of `find` that is not `undefined`.
 *
 * A callback rather than a generator, because proxy traps use it.
 */
export function findOnChain<Found>(
  start: object | null,
  find: (holder: object) => Found | undefined,
): Found | undefined {
  for (let holder = start; holder; holder = getPrototypeOf(holder)) {
    const match = find(holder);
    if (match !== undefined) return match;
  }
  return undefined;
}

/** A property and the object on the prototype chain that has it. */
export interface FoundProperty {
  readonly holder: object;
  readonly descriptor: PropertyDescriptor;
}

/** Returns the nearest property under a key, without calling getters. */
export function findProperty(object: object, key: PropertyKey): FoundProperty | undefined {
  // A loop of its own, because traps of open wrappers run it on every access.
  for (let holder: object | null = object; holder; holder = getPrototypeOf(holder) as object | null) {
    const descriptor = getOwnPropertyDescriptor(holder, key);
    if (descriptor) return { holder, descriptor };
  }
  return undefined;
}

/** The member of an object that a function implements: a method, or one half of an accessor. */
export interface FoundFunction {
  readonly key: string | symbol;
  readonly as: "value" | "get" | "set";
}

/** Returns the member of an object, or of its prototypes, that a function implements. */
export function findFunction(object: object, fn: object): FoundFunction | undefined {
  return findOnChain(object, (holder) => ownFunction(holder, fn));
}

/** Returns the own member of an object that a function implements. */
export function ownFunction(holder: object, fn: object): FoundFunction | undefined {
  const keys = ownKeys(holder);
  for (let index = 0; index < keys.length; index++) {
    const key = keys[index] as string | symbol;
    if (key === "constructor") continue;
    const descriptor = getOwnPropertyDescriptor(holder, key);
    if (descriptor?.value === fn) return { key, as: "value" };
    if (descriptor?.get === fn) return { key, as: "get" };
    if (descriptor?.set === fn) return { key, as: "set" };
  }
  return undefined;
}
