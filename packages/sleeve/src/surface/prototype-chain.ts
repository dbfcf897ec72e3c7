import { getOwnPropertyDescriptor, getPrototypeOf } from "../shared/intrinsics.ts";

/**
 * Searches an object and its prototypes, nearest first. Returns the first result of `find` that is not `undefined`.
 *
 * The only walk of the prototype chain in the library. A callback rather than a generator, because proxy traps use it on
 * every access.
 */
export function findOnChain<Found>(
  start: object | null,
  find: (holder: object) => Found | undefined,
): Found | undefined {
  for (let holder = start; holder; holder = getPrototypeOf(holder)) {
    const found = find(holder);
    if (found !== undefined) return found;
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
  return findOnChain(object, (holder) => {
    const descriptor = getOwnPropertyDescriptor(holder, key);
    return descriptor && { holder, descriptor };
  });
}
