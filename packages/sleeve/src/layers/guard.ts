import type { Layer, Next } from "../forward/call.ts";
import { badOption, SleeveError } from "../shared/errors.ts";
import type { Member } from "../surface/member.ts";
import { layer } from "./layer.ts";

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

/**
 * A check of one value: a predicate, which messages call by its function name; a described check such as
 * {@link between}; or a schema.
 */
export type ArgumentCheck<Value = unknown> =
  | ((value: Value) => boolean)
  | DescribedCheck<Value>
  | StandardSchema;

export interface DescribedCheck<in Value = unknown> {
  /** The allowed values, as they complete "is not": `between 1 and 24`. */
  readonly allowed: string;
  readonly holds: (value: Value) => boolean;
}

/**
 * Checks by member. For a method, one check for each parameter, in order, under the name that messages use;
 * for a property, a check of the values written to it.
 */
export type GuardRules<Target> = {
  readonly [Key in keyof Target]?: NonNullable<Target[Key]> extends (...args: infer Args) => unknown
    ? Readonly<Record<string, CheckOfAny<Args[number]>>>
    : ArgumentCheck<Target[Key]>;
};

/** A check of any one parameter. The type of the rules object does not say which, so it accepts all. */
type CheckOfAny<Value> = Value extends unknown ? ArgumentCheck<Value> : never;

export interface GuardOptions<Target> {
  /**
   * Checks of results, and of values that properties hold. The value of a promise is checked when it settles.
   */
  readonly results?: {
    readonly [Key in keyof Target]?: NonNullable<Target[Key]> extends (...args: never[]) => infer Result
      ? ArgumentCheck<Awaited<Result>>
      : ArgumentCheck<Target[Key]>;
  };
}

/**
 * Allows arguments, written values and results only if they pass their checks. Checked values pass by
 * identity; the output of a schema is not used.
 *
 * The compiler cannot infer the target here, so name it: `guard<BerthLedger>({ … })`.
 *
 * Throws `NOT_ALLOWED` with the member, the parameter, the allowed values and the actual value. An
 * asynchronous schema makes the member return a promise, so use one only on members that already do.
 *
 * @example
 * import { between, decorate, guard } from "sleeve";
 *
 * const ledger = { book: (berth: number, vessel: string) => `${vessel} at ${berth}` };
 * const guarded = decorate(ledger, guard<typeof ledger>({ book: { berth: between(1, 24), vessel: (name: string) => name !== "" } }));
 * guarded.book(25, "Marigold"); // throws: book: berth is 25, which is not between 1 and 24
 */
export function guard<Target>(rules: GuardRules<Target>, options: GuardOptions<Target> = {}): Layer<Target> {
  // The option's type guarantees that each check fits the member's result.
  const results = (options.results ?? {}) as Readonly<Record<PropertyKey, ArgumentCheck>>;
  const keys = [...new Set([...Reflect.ownKeys(rules), ...Reflect.ownKeys(results)])];
  const ruleOf = ({ key }: Member): unknown =>
    Object.hasOwn(rules, key) ? Reflect.get(rules, key) : undefined;
  const resultOf = ({ key }: Member): ArgumentCheck | undefined =>
    Object.hasOwn(results, key) ? results[key] : undefined;
  for (const check of [...Object.values(results), ...checksIn(rules)]) requireCheck(check);
  const checkingResult = (next: Next, member: Member): Next => {
    const check = resultOf(member);
    return check ? (call) => checkResult(check, member.label, next(call)) : next;
  };
  return layer<Target>(
    "guard",
    {
      call(next, member) {
        const rule = ruleOf(member) as Readonly<Record<string, ArgumentCheck>> | undefined;
        const inner = checkingResult(next, member);
        return rule ? checkingArguments(inner, member.label, Object.entries(rule)) : inner;
      },
      // Reading or replacing a method is not a call, and the rules of a method are about its calls.
      read: (next, member) => (member.kind === "method" ? next : checkingResult(next, member)),
      write(next, member) {
        const check = member.kind === "method" ? undefined : (ruleOf(member) as ArgumentCheck | undefined);
        return check ? checkingArguments(next, member.label, [["the new value", check]]) : next;
      },
    },
    // The rules are typed by the target's keys.
    { only: keys as (keyof Target)[], observesAll: true },
  );
}

/** Returns the checks in all rules: for a method, one per parameter; for a property, one. */
function checksIn(rules: object): readonly unknown[] {
  return Object.values(rules).flatMap((rule: unknown) =>
    isCheck(rule) ? [rule] : Object.values(Object(rule)),
  );
}

function isCheck(value: unknown): boolean {
  if (typeof value === "function") return true;
  return typeof value === "object" && value !== null && ("holds" in value || "~standard" in value);
}

function requireCheck(value: unknown): void {
  if (!isCheck(value))
    throw badOption(`guard: ${formatValue(value)} is not a check. Pass a predicate, a range or a schema.`);
}

/** Allows numbers, bigints, strings and dates from `least` to `most`, both included. */
export function between(min: number, max: number): DescribedCheck<number>;
export function between(min: bigint, max: bigint): DescribedCheck<bigint>;
export function between(min: string, max: string): DescribedCheck<string>;
export function between(min: Date, max: Date): DescribedCheck<Date>;
export function between<Value extends number | bigint | string | Date>(
  min: Value,
  max: Value,
): DescribedCheck<Value> {
  return {
    allowed: `between ${formatValue(min)} and ${formatValue(max)}`,
    holds: (value) => value !== null && typeof value === typeof min && value >= min && value <= max,
  };
}

function checkingArguments(
  next: Next,
  member: string,
  checks: readonly (readonly [string, ArgumentCheck])[],
): Next {
  return (call) => {
    const late: Promise<void>[] = [];
    for (let index = 0; index < checks.length; index++) {
      const [parameter, check] = checks[index] as (typeof checks)[number];
      const answer = requireAllowed(check, call.args[index], `${member}: ${parameter}`);
      if (answer) late.push(answer);
    }
    return late.length > 0 ? Promise.all(late).then(() => next(call)) : next(call);
  };
}

function checkResult(check: ArgumentCheck, member: string, result: unknown): unknown {
  const place = `${member}: the result`;
  if (result instanceof Promise) {
    return result.then(async (value) => {
      await requireAllowed(check, value, place);
      return value;
    });
  }
  const late = requireAllowed(check, result, place);
  return late ? late.then(() => result) : result;
}

/** Throws if a value is not allowed. Returns a promise if the check is asynchronous. */
function requireAllowed(check: ArgumentCheck, value: unknown, place: string): Promise<void> | undefined {
  if (typeof check === "function") {
    if (!check(value)) throw rejection(place, value, `what ${check.name || "the check"} allows`);
    return undefined;
  }
  if ("holds" in check) {
    if (!check.holds(value)) throw rejection(place, value, check.allowed);
    return undefined;
  }
  const verify = ({ issues }: SchemaResult) => {
    if (issues?.length)
      throw rejection(place, value, `allowed: ${issues.map(({ message }) => message).join("; ")}`);
  };
  const answer = check["~standard"].validate(value);
  if (answer instanceof Promise) return answer.then(verify);
  verify(answer);
  return undefined;
}

function rejection(place: string, value: unknown, allowed: string): SleeveError {
  return new SleeveError("NOT_ALLOWED", `${place} is ${formatValue(value)}, which is not ${allowed}.`);
}

function formatValue(value: unknown): string {
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? "an invalid date" : value.toISOString();
  if (typeof value === "string") return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  if (typeof value === "function") return "a function";
  if (typeof value !== "object" || value === null) return String(value);
  return Array.isArray(value) ? `an array of ${value.length}` : "an object";
}
