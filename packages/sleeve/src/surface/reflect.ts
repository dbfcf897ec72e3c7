import { getPrototypeOf, hasOwn } from "../shared/intrinsics.ts";
import { type Member, memberOf } from "./member.ts";
import { findOnChain } from "./prototype-chain.ts";

/**
 * Returns the members of a live object: its own, then those of its prototypes up to the root.
 *
 * A nearer member hides a farther one with the same key, and `constructor` is left out. No getter is called.
 */
export function reflect(subject: object): readonly Member[] {
  return [...ownMembers(subject), ...inheritedMembers(Object.getPrototypeOf(subject), ownKeys(subject))];
}

/** Returns the members on the object itself. */
export function ownMembers(subject: object): readonly Member[] {
  return Reflect.ownKeys(subject).map((key) => memberOf(key, descriptorOf(subject, key), true));
}

/** Returns the members on the prototypes, without those in `hidden`. */
export function inheritedMembers(
  prototype: object | null,
  hidden: ReadonlySet<PropertyKey>,
): readonly Member[] {
  const visited = new Set<PropertyKey>([...hidden, "constructor"]);
  const members: Member[] = [];
  findOnChain(prototype, (holder) => {
    if (isRoot(holder)) return true;
    for (const key of Reflect.ownKeys(holder)) {
      if (visited.has(key)) continue;
      visited.add(key);
      members.push(memberOf(key, descriptorOf(holder, key), false));
    }
    return undefined;
  });
  return members;
}

function ownKeys(subject: object): ReadonlySet<PropertyKey> {
  return new Set(Reflect.ownKeys(subject));
}

function descriptorOf(holder: object, key: PropertyKey): PropertyDescriptor {
  return Object.getOwnPropertyDescriptor(holder, key) ?? { value: undefined };
}

/**
 * Whether a prototype is `Object.prototype`, of this realm or another. What every object has is not part of a
 * surface.
 */
export function isRoot(prototype: object): boolean {
  return getPrototypeOf(prototype) === null && hasOwn(prototype, "hasOwnProperty");
}
