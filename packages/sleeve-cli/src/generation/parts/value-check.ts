import { layerError } from "./layer-error.ts";

/** A check of a value: a predicate, a described check such as a range, or a schema that follows Standard Schema 1. */
export type ValueCheck<Value> =
  | ((value: Value) => boolean)
  | { readonly allowed: string; readonly holds: (value: Value) => boolean }
  | { readonly "~standard": { readonly validate: (value: unknown) => unknown } };

/** Returns an error with the code `NOT_ALLOWED` if a value does not pass its check. */
export function notAllowed(
  place: string,
  value: unknown,
  check: ValueCheck<never> | undefined,
): Error | undefined {
  if (check === undefined) return undefined;
  if (typeof check === "function") {
    if (check(value as never)) return undefined;
    return refusal(place, value, `what ${check.name || "the check"} allows`);
  }
  if ("holds" in check) {
    if (check.holds(value as never)) return undefined;
    return refusal(place, value, check.allowed);
  }
  const result = check["~standard"].validate(value);
  if (result instanceof Promise)
    throw layerError("BAD_OPTION", `${place} has an asynchronous schema. Pass a synchronous one.`);
  const { issues } = result as { readonly issues?: readonly { readonly message: string }[] };
  if (!issues?.length) return undefined;
  return refusal(place, value, `allowed: ${issues.map(({ message }) => message).join("; ")}`);
}

/** Throws an error with the code `NOT_ALLOWED` if a value does not pass its check. */
export function requireAllowed(place: string, value: unknown, check: ValueCheck<never> | undefined): void {
  const refused = notAllowed(place, value, check);
  if (refused !== undefined) throw refused;
}

function refusal(place: string, value: unknown, allowed: string): Error {
  return layerError("NOT_ALLOWED", `${place} is ${checkedText(value)}, which is not ${allowed}.`);
}

function checkedText(value: unknown): string {
  if (typeof value === "string") {
    return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  }
  if (value instanceof Date) {
    return Number.isNaN(value.getTime()) ? "an invalid date" : value.toISOString();
  }
  if (typeof value === "function") return "a function";
  if (typeof value !== "object" || value === null) return String(value);
  return Array.isArray(value) ? `an array of ${value.length}` : "an object";
}

/** Returns checks by member, each as a list. Members without checks have none. */
export function checkLists(checks: object): CheckLists {
  const lists = Object.create(null) as Record<PropertyKey, CheckLists[PropertyKey]>;
  for (const key of Reflect.ownKeys(checks)) {
    const own: unknown = Reflect.get(checks, key);
    lists[key] = Array.isArray(own) ? own : [own as ValueCheck<never>];
  }
  return lists;
}

/** Checks of the parameters of each member, in their order. */
export type CheckLists = Readonly<
  Record<PropertyKey, readonly (ValueCheck<never> | undefined)[] | undefined>
>;
