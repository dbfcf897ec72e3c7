import { isConstructor } from "./function.ts";

/**
 * The object that an ES `Proxy` is made over. What the language demands of a proxy is checked against it and not
 * against the subject, whose frozen properties could not be shown layered otherwise.
 *
 * @param inspected what Node.js prints of the proxy, for which it asks no trap but looks at this object
 */
export function shadowOf(real: object, inspected: object | undefined): object {
  const shadow = bareShadowOf(real);
  if (inspected) Object.defineProperty(shadow, INSPECT, { value: () => inspected, configurable: true });
  return shadow;
}

const INSPECT = Symbol.for("nodejs.util.inspect.custom");

function bareShadowOf(real: object): object {
  if (typeof real !== "function") return Array.isArray(real) ? [] : {};
  if (!isConstructor(real)) return () => {};
  // What cannot be configured on the shadow has to be there to be shown, so only what has a prototype gets one.
  // biome-ignore lint/complexity/useArrowFunction: an arrow function cannot be constructed
  const constructible = function () {};
  return Object.hasOwn(real, "prototype") ? constructible : constructible.bind(undefined);
}

/** Shows a property on the shadow where the language demands it: one that cannot be configured. */
export function agree(shadow: object, key: PropertyKey, shown: PropertyDescriptor): void {
  if (!shown.configurable) Reflect.defineProperty(shadow, key, shown);
}

/** Makes the shadow one that cannot be extended, with these properties and no more. */
export function close(
  shadow: object,
  prototype: object | null,
  shown: Iterable<readonly [PropertyKey, PropertyDescriptor]>,
): void {
  for (const key of Reflect.ownKeys(shadow)) Reflect.deleteProperty(shadow, key);
  for (const [key, descriptor] of shown) Reflect.defineProperty(shadow, key, descriptor);
  Reflect.setPrototypeOf(shadow, prototype);
  Reflect.preventExtensions(shadow);
}
