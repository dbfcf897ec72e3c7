import { badOption, SleeveError } from "../../shared/errors.ts";
import { isThenable } from "../../shared/thenable.ts";

/** A schema that follows Standard Schema, version 1 (standardschema.dev). */
export interface StandardSchema {
  readonly "~standard": {
    readonly version: 1;
    readonly vendor: string;
    readonly validate: (value: unknown) => SchemaResult | Promise<SchemaResult>;
  };
}

interface SchemaResult {
  readonly issues?: readonly { readonly message: string }[] | undefined;
}

export interface DescribedCheck<in Value = unknown> {
  /** The allowed values, as they complete "is not": `between 1 and 24`. */
  readonly allowed: string;
  readonly holds: (value: Value) => boolean;
}

/**
 * A check of one value that answers at once: a predicate, which messages call by its function name; a described check such as
 * `between`; or a synchronous schema.
 */
export type ValueCheck<Value = unknown> =
  | ((value: Value) => boolean)
  | DescribedCheck<Value>
  | StandardSchema;

/** A check of one value: a {@link ValueCheck}, or a predicate or schema that is asynchronous. */
export type ArgumentCheck<Value = unknown> =
  | ValueCheck<Value>
  | ((value: Value) => boolean | PromiseLike<boolean>);

/** A check in the form in which calls run it. */
export interface PreparedCheck {
  /** Returns `true` if the value is allowed; anything else is examined by `settle`. */
  readonly test: (value: unknown) => unknown;
  /** Throws, or returns a promise, if an answer of `test` other than `true` does not allow the value. */
  readonly settle: (answer: unknown, value: unknown, place: string) => PromiseLike<void> | undefined;
}

export function preparedCheck(check: ArgumentCheck): PreparedCheck {
  if (typeof check !== "function" && "~standard" in check) return preparedSchema(check);
  const [test, allowed] =
    typeof check === "function"
      ? [check, `what ${check.name || "the check"} allows`]
      : [(value: unknown) => check.holds(value), check.allowed];
  const settle: PreparedCheck["settle"] = (answer, value, place) => {
    if (isThenable(answer)) return answer.then((isAllowed) => void settle(isAllowed, value, place));
    if (!answer) throw rejection(place, value, allowed);
    return undefined;
  };
  return { test, settle };
}

function preparedSchema(schema: StandardSchema): PreparedCheck {
  const settle: PreparedCheck["settle"] = (answer, value, place) => {
    if (isThenable(answer)) return answer.then((result) => void settle(result, value, place));
    const { issues } = answer as SchemaResult;
    if (issues?.length)
      throw rejection(place, value, `allowed: ${issues.map(({ message }) => message).join("; ")}`);
    return undefined;
  };
  return { test: (value) => schema["~standard"].validate(value), settle };
}

function rejection(place: string, value: unknown, allowed: string): SleeveError {
  return new SleeveError("NOT_ALLOWED", `${place} is ${checkedValueText(value)}, which is not ${allowed}.`);
}

/** Names a value in the message of a check. */
export function checkedValueText(value: unknown): string {
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? "an invalid date" : value.toISOString();
  if (typeof value === "string") return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  if (typeof value === "function") return "a function";
  if (typeof value !== "object" || value === null) return String(value);
  return Array.isArray(value) ? `an array of ${value.length}` : "an object";
}

/** Checks of the parameters of each member, in their order. */
export type CheckLists = Readonly<Record<PropertyKey, readonly (PreparedCheck | undefined)[] | undefined>>;

/** Returns checks by member, each as a list. Members without checks have none. */
export function checkLists(checks: object): CheckLists {
  const lists = Object.create(null) as Record<PropertyKey, CheckLists[PropertyKey]>;
  for (const key of Reflect.ownKeys(checks)) {
    const rule = Reflect.get(checks, key) as ArgumentCheck | readonly (ArgumentCheck | undefined)[];
    const list = Array.isArray(rule)
      ? (rule as readonly (ArgumentCheck | undefined)[])
      : [rule as ArgumentCheck];
    lists[key] = list.map((check) => check && preparedCheck(check));
  }
  return lists;
}

/** Throws an error with the code `NOT_ALLOWED` if a value does not pass its check, which must not be asynchronous. */
export function requireAllowed(place: string, value: unknown, check: PreparedCheck | undefined): void {
  if (check === undefined) return;
  const answer = check.test(value);
  if (answer === true || check.settle(answer, value, place) === undefined) return;
  throw badOption(`${place} has an asynchronous check. Pass a synchronous one.`);
}

/** Returns the error that `requireAllowed` throws. */
export function notAllowed(place: string, value: unknown, check: PreparedCheck | undefined): unknown {
  try {
    requireAllowed(place, value, check);
    return undefined;
  } catch (error) {
    return error;
  }
}
