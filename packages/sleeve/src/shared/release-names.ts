/**
 * Names of members that release a resource, besides `Symbol.dispose` and `Symbol.asyncDispose`. The `owns` option of
 * adapters, `adapterOf` of contracts, and `sleeve check` recognise the same names.
 */
export const RELEASE_NAMES: readonly string[] = [
  "close",
  "destroy",
  "disconnect",
  "dispose",
  "end",
  "hangUp",
  "quit",
  "release",
  "shutDown",
  "shutdown",
  "terminate",
];

/** Whether a key is one by which a resource is released. */
export function isReleaseKey(key: PropertyKey): boolean {
  if (typeof key !== "symbol") return RELEASE_NAMES.includes(String(key));
  // By description as well: polyfills create symbols of their own, and Node.js 20 describes its symbols differently.
  return (
    key === Symbol.dispose ||
    key === Symbol.asyncDispose ||
    /^Symbol\.(asyncD|d)ispose$/.test(key.description ?? "")
  );
}
