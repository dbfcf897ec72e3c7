/**
 * One member of an object, as found on the object itself or along its prototypes.
 *
 * A `method` is called, a `property` holds a value, an `accessor` computes one.
 */
export interface Member {
  readonly key: string | symbol;
  /** The key as text, for logs and messages: `heightAt`, `Symbol(Symbol.iterator)`. */
  readonly label: string;
  readonly kind: "method" | "property" | "accessor";
  /** Whether it sits on the object itself rather than on a prototype. */
  readonly own: boolean;
  readonly readable: boolean;
  readonly writable: boolean;
  readonly enumerable: boolean;
  readonly configurable: boolean;
  /** `name` and `length` of the function behind a method. */
  readonly signature: { readonly name: string; readonly length: number } | undefined;
}

/** Describes one member from its property descriptor; reads no getter. */
export function memberOf(key: string | symbol, descriptor: PropertyDescriptor, own: boolean): Member {
  const { get, set, value } = descriptor;
  const isAccessor = get !== undefined || set !== undefined;
  const isMethod = typeof value === "function" && !isClass(value);
  return {
    key,
    label: String(key),
    kind: isAccessor ? "accessor" : isMethod ? "method" : "property",
    own,
    readable: !isAccessor || get !== undefined,
    writable: isAccessor ? set !== undefined : descriptor.writable === true,
    enumerable: descriptor.enumerable === true,
    configurable: descriptor.configurable === true,
    signature: isMethod ? { name: value.name, length: value.length } : undefined,
  };
}

/** A class held as a value is constructed, not called, so it is handed out as it is. */
function isClass(value: object): boolean {
  return /^class\b/.test(Function.prototype.toString.call(value));
}
