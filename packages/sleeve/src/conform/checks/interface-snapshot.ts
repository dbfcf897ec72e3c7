import type { Finding } from "../finding.ts";
import { membersOf } from "../sequences/operations.ts";

/**
 * The members of an object before use, to compare with those after use. For an instance of a class, only its
 * methods count unless a surface lists more, because its fields are internal.
 */
export class InterfaceSnapshot {
  readonly #surface: object | undefined;
  readonly #reported = new Set<PropertyKey>();
  #members: ReadonlyMap<PropertyKey, "method" | "property"> | undefined;
  #ownKeys: ReadonlySet<PropertyKey> | undefined;

  constructor(surface: object | undefined) {
    this.#surface = surface;
  }

  /** Records the members of an unused object. */
  take(instance: object): void {
    if (this.#members) return;
    const hasClass = Object.getPrototypeOf(instance) !== Object.prototype;
    const members = membersOf(this.#surface, instance).filter(
      ({ key, kind }) => key in instance && (kind === "method" || this.#surface !== undefined || !hasClass),
    );
    this.#members = new Map(members.map(({ key }) => [key, kindAt(instance, key)]));
    this.#ownKeys = hasClass ? undefined : new Set(Reflect.ownKeys(instance));
  }

  /** Excludes a member that was reported. */
  forget(label: string): void {
    for (const key of [...(this.#members?.keys() ?? []), label])
      if (String(key) === label) this.#reported.add(key);
  }

  findingIn(instance: object): Finding | undefined {
    for (const [key, was] of this.#members ?? []) {
      const is = key in instance ? kindAt(instance, key) : undefined;
      if (is !== was && !this.#reported.has(key))
        return finding(key, `a ${was}, as before the calls`, is ? `a ${is}` : "none");
    }
    const ownKeys = this.#ownKeys;
    if (!ownKeys || Reflect.ownKeys(instance).length <= ownKeys.size) return undefined;
    const added = Reflect.ownKeys(instance).find(
      (key) => !ownKeys.has(key) && !this.#reported.has(String(key)),
    );
    return added === undefined
      ? undefined
      : finding(added, "no such member, as before the calls", `a ${kindAt(instance, added)}`);
  }
}

function kindAt(instance: object, key: PropertyKey): "method" | "property" {
  try {
    return typeof Reflect.get(instance, key) === "function" ? "method" : "property";
  } catch {
    return "property";
  }
}

function finding(key: PropertyKey, expected: string, actual: string): Finding {
  const remedy = "Keep the members of an object unchanged; clients may hold a method they read earlier.";
  return { name: "unstable", place: String(key), expected, found: actual, remedy };
}
