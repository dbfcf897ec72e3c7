import { badOption, SleeveError } from "../errors.ts";
import type { Layer, Next } from "../forward/call.ts";
import type { Member } from "../surface/member.ts";
import { layer } from "./layer.ts";

/** A schema of any library that keeps to the Standard Schema, version 1 (standardschema.dev). */
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

/** What is allowed: a predicate, told of by its name; a check with words for it, such as {@link between}; a schema. */
export type Check<Value = unknown> = ((value: Value) => boolean) | WordedCheck<Value> | StandardSchema;

export interface WordedCheck<in Value = unknown> {
  /** What is allowed, in words that go on from "is not": `between 1 and 24`. */
  readonly allowed: string;
  readonly holds: (value: Value) => boolean;
}

/**
 * What is allowed of each member. Of a method, a check for each parameter, in their order and under the names that
 * messages call them by; of a property, a check of what is written to it.
 */
export type GuardRules<Target> = {
  readonly [Key in keyof Target]?: NonNullable<Target[Key]> extends (...args: infer Args) => unknown
    ? Readonly<Record<string, CheckOfAny<Args[number]>>>
    : Check<Target[Key]>;
};

/** A check of one parameter or another: which one it is on is told by its place, and not by its type. */
type CheckOfAny<Value> = Value extends unknown ? Check<Value> : never;

export interface GuardOptions<Target> {
  /** What is allowed of results, and of what properties hold. Of a promise, its value is checked. */
  readonly results?: {
    readonly [Key in keyof Target]?: NonNullable<Target[Key]> extends (...args: never[]) => infer Result
      ? Check<Awaited<Result>>
      : Check<Target[Key]>;
  };
}

/**
 * Lets arguments, written values and results pass only where they are allowed. What is checked is passed on by
 * identity: a schema's own output is not used.
 *
 * The compiler does not see here what the layer will be put around, so it is named: `guard<BerthLedger>({ … })`.
 *
 * Throws `NOT_ALLOWED`, with the member, the parameter, what is allowed and what came. A schema that answers later
 * makes the member's result a promise, so it belongs on members that give one.
 *
 * @example
 * import { between, decorate, guard } from "sleeve";
 *
 * const ledger = { book: (berth: number, vessel: string) => `${vessel} at ${berth}` };
 * const guarded = decorate(ledger, guard<typeof ledger>({ book: { berth: between(1, 24), vessel: (name: string) => name !== "" } }));
 * guarded.book(25, "Marigold"); // throws: book: berth is 25, which is not between 1 and 24
 */
export function guard<Target>(rules: GuardRules<Target>, options: GuardOptions<Target> = {}): Layer<Target> {
  // By its type, each member's check fits what the member gives.
  const results = (options.results ?? {}) as Readonly<Record<PropertyKey, Check>>;
  const keys = [...new Set([...Reflect.ownKeys(rules), ...Reflect.ownKeys(results)])];
  const ruleOf = ({ key }: Member): unknown =>
    Object.hasOwn(rules, key) ? Reflect.get(rules, key) : undefined;
  const resultOf = ({ key }: Member): Check | undefined =>
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
        const rule = ruleOf(member) as Readonly<Record<string, Check>> | undefined;
        const inner = checkingResult(next, member);
        return rule ? checkingArguments(inner, member.label, Object.entries(rule)) : inner;
      },
      // To read or replace a method is not to call it, and what is allowed of it is about its calls.
      read: (next, member) => (member.kind === "method" ? next : checkingResult(next, member)),
      write(next, member) {
        const check = member.kind === "method" ? undefined : (ruleOf(member) as Check | undefined);
        return check ? checkingArguments(next, member.label, [["the new value", check]]) : next;
      },
    },
    // The rules' own keys are those of the target that they are typed by.
    { only: keys as (keyof Target)[], meetsEveryCall: true },
  );
}

/** The checks of all rules: of methods one for each parameter, of properties one. */
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
    throw badOption(`guard: ${shown(value)} is no check. Give a predicate, a range or a schema.`);
}

/** Allows numbers, bigints, strings and dates from `least` to `most`, both of them included. */
export function between(least: number, most: number): WordedCheck<number>;
export function between(least: bigint, most: bigint): WordedCheck<bigint>;
export function between(least: string, most: string): WordedCheck<string>;
export function between(least: Date, most: Date): WordedCheck<Date>;
export function between<Value extends number | bigint | string | Date>(
  least: Value,
  most: Value,
): WordedCheck<Value> {
  return {
    allowed: `between ${shown(least)} and ${shown(most)}`,
    holds: (value) => value !== null && typeof value === typeof least && value >= least && value <= most,
  };
}

function checkingArguments(next: Next, member: string, checks: readonly (readonly [string, Check])[]): Next {
  return (call) => {
    const late: Promise<void>[] = [];
    for (let index = 0; index < checks.length; index++) {
      const [parameter, check] = checks[index] as (typeof checks)[number];
      const answer = hold(check, call.args[index], `${member}: ${parameter}`);
      if (answer) late.push(answer);
    }
    return late.length > 0 ? Promise.all(late).then(() => next(call)) : next(call);
  };
}

function checkResult(check: Check, member: string, result: unknown): unknown {
  const place = `${member}: the result`;
  if (result instanceof Promise) {
    return result.then(async (value) => {
      await hold(check, value, place);
      return value;
    });
  }
  const late = hold(check, result, place);
  return late ? late.then(() => result) : result;
}

/** Throws where a value is not allowed. Gives back a promise where that is answered later. */
function hold(check: Check, value: unknown, place: string): Promise<void> | undefined {
  if (typeof check === "function") {
    if (!check(value)) throw refusal(place, value, `what ${check.name || "the check"} allows`);
    return undefined;
  }
  if ("holds" in check) {
    if (!check.holds(value)) throw refusal(place, value, check.allowed);
    return undefined;
  }
  const judge = ({ issues }: SchemaResult) => {
    if (issues?.length)
      throw refusal(place, value, `allowed: ${issues.map(({ message }) => message).join("; ")}`);
  };
  const answer = check["~standard"].validate(value);
  if (answer instanceof Promise) return answer.then(judge);
  judge(answer);
  return undefined;
}

function refusal(place: string, value: unknown, allowed: string): SleeveError {
  return new SleeveError("NOT_ALLOWED", `${place} is ${shown(value)}, which is not ${allowed}.`);
}

function shown(value: unknown): string {
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? "no valid date" : value.toISOString();
  if (typeof value === "string") return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  if (typeof value === "function") return "a function";
  if (typeof value !== "object" || value === null) return String(value);
  return Array.isArray(value) ? `an array of ${value.length}` : "an object";
}
