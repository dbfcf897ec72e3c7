import {
  apply,
  defineProperty,
  deleteProperty,
  hasOwn,
  isArray,
  ownKeys,
  preventExtensions,
  setPrototypeOf,
} from "../../shared/intrinsics.ts";
import { isConstructor } from "../mirror-function.ts";

/**
 * Creates the target of an ES `Proxy`. The language checks proxy invariants against this object instead of
 * the subject, whose frozen properties could otherwise not be layered.
 *
 * @param inspected the object that Node.js prints for the proxy, because `util.inspect` calls no traps
 */
export function createProxyTarget(real: object, inspected: object | undefined): object {
  const target = emptyTargetFor(real);
  if (inspected) defineProperty(target, INSPECT, { value: () => inspected, configurable: true });
  return target;
}

const { bind } = Function.prototype;
const INSPECT = Symbol.for("nodejs.util.inspect.custom");

function emptyTargetFor(real: object): object {
  if (typeof real !== "function") return isArray(real) ? [] : {};
  if (!isConstructor(real)) return () => {};
  // A non-configurable property must exist on the target to be reported, so only constructors get `prototype`.
  // biome-ignore lint/complexity/useArrowFunction: an arrow function cannot be constructed
  const constructible = function () {};
  return hasOwn(real, "prototype") ? constructible : (apply(bind, constructible, [undefined]) as object);
}

/**
 * Defines a non-configurable property on the target, as the language requires before a trap may report it.
 */
export function syncInvariants(target: object, key: PropertyKey, shown: PropertyDescriptor): void {
  if (!shown.configurable) defineProperty(target, key, shown);
}

/** Makes the target non-extensible, with exactly these properties. */
export function freezeTarget(
  target: object,
  prototype: object | null,
  keys: readonly (string | symbol)[],
  describe: (key: string | symbol) => PropertyDescriptor,
): void {
  const before = ownKeys(target);
  for (let index = 0; index < before.length; index++) deleteProperty(target, before[index] as string);
  for (let index = 0; index < keys.length; index++) {
    const key = keys[index] as string;
    defineProperty(target, key, describe(key));
  }
  setPrototypeOf(target, prototype);
  preventExtensions(target);
}
