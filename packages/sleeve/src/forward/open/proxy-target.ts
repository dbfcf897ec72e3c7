import { isConstructor } from "../mirror-function.ts";

/**
 * Creates the target of an ES `Proxy`. The language checks proxy invariants against this object instead of
 * the subject, whose frozen properties could otherwise not be layered.
 *
 * @param inspected the object that Node.js prints for the proxy, because `util.inspect` calls no traps
 */
export function createProxyTarget(real: object, inspected: object | undefined): object {
  const target = emptyTargetFor(real);
  if (inspected) Object.defineProperty(target, INSPECT, { value: () => inspected, configurable: true });
  return target;
}

const INSPECT = Symbol.for("nodejs.util.inspect.custom");

function emptyTargetFor(real: object): object {
  if (typeof real !== "function") return Array.isArray(real) ? [] : {};
  if (!isConstructor(real)) return () => {};
  // A non-configurable property must exist on the target to be reported, so only constructors get `prototype`.
  // biome-ignore lint/complexity/useArrowFunction: an arrow function cannot be constructed
  const constructible = function () {};
  return Object.hasOwn(real, "prototype") ? constructible : constructible.bind(undefined);
}

/**
 * Defines a non-configurable property on the target, as the language requires before a trap may report it.
 */
export function syncInvariants(target: object, key: PropertyKey, shown: PropertyDescriptor): void {
  if (!shown.configurable) Reflect.defineProperty(target, key, shown);
}

/** Makes the target non-extensible, with exactly these properties. */
export function freezeTarget(
  target: object,
  prototype: object | null,
  shown: Iterable<readonly [PropertyKey, PropertyDescriptor]>,
): void {
  for (const key of Reflect.ownKeys(target)) Reflect.deleteProperty(target, key);
  for (const [key, descriptor] of shown) Reflect.defineProperty(target, key, descriptor);
  Reflect.setPrototypeOf(target, prototype);
  Reflect.preventExtensions(target);
}
