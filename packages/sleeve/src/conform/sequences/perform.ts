import type { Operation } from "./operations.ts";

type Callable = (...args: readonly unknown[]) => unknown;

/**
 * Calls, reads or writes a member of a target, as a client does. Returns the result.
 *
 * @throws the target's own errors; `TypeError` if the target has no such method
 */
export function perform(
  target: object,
  { use, key }: Pick<Operation, "use" | "key">,
  args: readonly unknown[],
): unknown {
  if (key === undefined) return (target as Callable)(...args);
  const members = target as Record<PropertyKey, unknown>;
  if (use === "read") return members[key];
  if (use === "write") {
    members[key] = args[0];
    return undefined;
  }
  const result = (members as Record<PropertyKey, Callable | undefined>)[key]?.(...args);
  // The member is read again only if nothing was returned, because a getter may count its reads.
  if (result === undefined && typeof members[key] !== "function")
    throw new TypeError(`there is no method ${String(key)}`);
  return result;
}
