import { endsWith, getOwnPropertyDescriptor, sourceText, startsWith } from "../shared/intrinsics.ts";
import { signatureOf } from "./member-functions.ts";

/**
 * One member of an object, found on the object itself or on its prototypes.
 *
 * A `method` is called, a `property` holds a value, an `accessor` computes one. A decorated function is a
 * member of kind `function`, and a decorated class one of kind `class`; their key is their name.
 */
export interface Member {
  readonly key: string | symbol;
  /** The key as text, for logs and messages: `heightAt`, `Symbol(Symbol.iterator)`. */
  readonly label: string;
  readonly kind: "method" | "property" | "accessor" | "function" | "class";
  /** Whether the member is on the object itself rather than on a prototype. */
  readonly own: boolean;
  readonly readable: boolean;
  readonly writable: boolean;
  readonly enumerable: boolean;
  readonly configurable: boolean;
  /** `name` and `length` of the function behind a method. */
  readonly signature: { readonly name: string; readonly length: number } | undefined;
}

/** Describes a member from its property descriptor, without calling getters. */
export function memberOf(key: string | symbol, descriptor: PropertyDescriptor, own: boolean): Member {
  const { get, set, value } = descriptor;
  const isAccessor = get !== undefined || set !== undefined;
  const isMethod = typeof value === "function" && !isClass(value);
  const valueKind = isMethod ? "method" : "property";
  // Objects of one shape share their members, but not their own functions.
  const signature = () => (own ? { name: value.name, length: value.length } : signatureOf(value));
  return {
    key,
    label: String(key),
    kind: isAccessor ? "accessor" : valueKind,
    own,
    readable: !isAccessor || get !== undefined,
    writable: isAccessor ? set !== undefined : descriptor.writable === true,
    enumerable: descriptor.enumerable === true,
    configurable: descriptor.configurable === true,
    signature: isMethod ? signature() : undefined,
  };
}

/** Describes a function or class that is itself the subject. */
export function memberOfFunction(subject: Callable, kind: "function" | "class"): Member {
  const { name } = subject;
  return {
    key: name,
    label: name || `an anonymous ${kind}`,
    kind,
    own: true,
    readable: false,
    writable: false,
    enumerable: false,
    configurable: false,
    signature: signatureOf(subject),
  };
}

export type Callable = (...args: never[]) => unknown;

/**
 * Whether a function is a class, of the language, the host or a user.
 *
 * The `prototype` of a class is not writable. Neither is that of a frozen function, which only its source text
 * distinguishes from a class.
 */
export function isClass(value: object): boolean {
  if (typeof value !== "function") return false;
  if (getOwnPropertyDescriptor(value, "prototype")?.writable !== false) return false;
  const text = sourceText(value);
  return startsWith(text, "class") || endsWith(text, "{ [native code] }");
}
