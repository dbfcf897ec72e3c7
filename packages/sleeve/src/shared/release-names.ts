/** Names of members that only release a resource. */
const CERTAIN_NAMES = ["close", "destroy", "dispose", "shutDown", "shutdown", "terminate"];

/** Names of members that release a resource if no member of a certain name does, and that mean other things too. */
const POSSIBLE_NAMES = ["disconnect", "end", "hangUp", "quit", "release"];

/**
 * Names of members that release a resource, besides `Symbol.dispose` and `Symbol.asyncDispose`. The `owns` option of
 * adapters, `adapterOf` of contracts, and `sleeve check` recognise the same names.
 *
 * `disconnect`, `end`, `hangUp`, `quit` and `release` count only if an object has no member of another of these names, and
 * if they take no arguments.
 */
export const RELEASE_NAMES: readonly string[] = [...CERTAIN_NAMES, ...POSSIBLE_NAMES].sort();

/** Returns the keys by which a resource is released, of those of its members with the numbers of their parameters. */
export function releaseKeysOf(members: Iterable<readonly [PropertyKey, number]>): readonly PropertyKey[] {
  const certain: PropertyKey[] = [];
  const possible: PropertyKey[] = [];
  for (const [key, parameters] of members) {
    if (isDisposal(key) || CERTAIN_NAMES.includes(String(key))) certain.push(key);
    else if (parameters === 0 && POSSIBLE_NAMES.includes(String(key))) possible.push(key);
  }
  return certain.length > 0 ? certain : possible;
}

function isDisposal(key: PropertyKey): boolean {
  // By description as well: polyfills create symbols of their own, and Node.js 20 describes its symbols differently.
  return (
    typeof key === "symbol" &&
    (key === Symbol.dispose ||
      key === Symbol.asyncDispose ||
      /^Symbol\.(asyncD|d)ispose$/.test(key.description ?? ""))
  );
}
