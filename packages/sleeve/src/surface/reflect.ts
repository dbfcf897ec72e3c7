import { type Member, memberOf } from "./member.ts";

/**
 * The members of a live object: its own, then those of its prototypes up to the language's own root.
 *
 * A nearer member hides a farther one of the same key, and `constructor` does not count. No getter is read.
 */
export function reflect(subject: object): readonly Member[] {
  return [...ownMembers(subject), ...inheritedMembers(Object.getPrototypeOf(subject), ownKeys(subject))];
}

/** The members that sit on the object itself. */
export function ownMembers(subject: object): readonly Member[] {
  return Reflect.ownKeys(subject).map((key) => memberOf(key, descriptorOf(subject, key), true));
}

/** The members found along the prototypes, without those that `hidden` names. */
export function inheritedMembers(
  prototype: object | null,
  hidden: ReadonlySet<PropertyKey>,
): readonly Member[] {
  const seen = new Set<PropertyKey>([...hidden, "constructor"]);
  const members: Member[] = [];
  for (let each = prototype; each && !isRoot(each); each = Object.getPrototypeOf(each)) {
    for (const key of Reflect.ownKeys(each)) {
      if (seen.has(key)) continue;
      seen.add(key);
      members.push(memberOf(key, descriptorOf(each, key), false));
    }
  }
  return members;
}

function ownKeys(subject: object): ReadonlySet<PropertyKey> {
  return new Set(Reflect.ownKeys(subject));
}

function descriptorOf(holder: object, key: PropertyKey): PropertyDescriptor {
  return Object.getOwnPropertyDescriptor(holder, key) ?? { value: undefined };
}

/** `Object.prototype`, of this realm or another: what every object has is not part of its surface. */
export function isRoot(prototype: object): boolean {
  return Object.getPrototypeOf(prototype) === null && Object.hasOwn(prototype, "hasOwnProperty");
}
