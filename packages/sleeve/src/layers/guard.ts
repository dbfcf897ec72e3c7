import type { Call, Layer, Next } from "../forward/call.ts";
import { calledFunction, rejectingLike } from "../forward/called-function.ts";
import { badOption, SleeveError } from "../shared/errors.ts";
import { copyList } from "../shared/intrinsics.ts";
import { requireOptions } from "../shared/options.ts";
import { isThenable } from "../shared/thenable.ts";
import type { Member } from "../surface/member.ts";
import { functionOf, parameterNames } from "../surface/member-functions.ts";
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
  | ((value: Value) => boolean | PromiseLike<boolean>)
  | DescribedCheck<Value>
  | StandardSchema;

export interface DescribedCheck<in Value = unknown> {
  /** The allowed values, as they complete "is not": `between 1 and 24`. */
  readonly allowed: string;
  readonly holds: (value: Value) => boolean;
}

/**
 * Checks by member. For a property, a check of the values written to it. For a method, the checks of its parameters:
 * - a list, with one check for each parameter in order, and `undefined` for one without a check;
 * - an object, with checks by parameter name. The names are read from the source of the method, so code that is minified
 *   and members whose source is not known, such as built-in ones, need a list.
 */
export type GuardRules<Target> = {
  readonly [Key in keyof Target]?: NonNullable<Target[Key]> extends (...args: infer Args) => unknown
    ? ParameterChecks<Args> | Readonly<Record<string, CheckOfAny<Args[number]>>>
    : ArgumentCheck<Target[Key]>;
};

/** Checks of parameters, in their order. */
type ParameterChecks<Args extends readonly unknown[]> = {
  readonly [Index in keyof Args]?: ArgumentCheck<Exclude<Args[Index], undefined>> | undefined;
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
 * asynchronous schema or predicate makes the member return a promise, so use one only on members that already do.
 *
 * @example
 * import { between, decorate, guard } from "sleeve";
 *
 * const ledger = { book: (berth: number, vessel: string) => `${vessel} at ${berth}` };
 * const guarded = decorate(ledger, guard<typeof ledger>({ book: [between(1, 24), (name: string) => name !== ""] }));
 * guarded.book(25, "Marigold"); // throws: book: berth is 25, which is not between 1 and 24
 */
export function guard<Target>(rules: GuardRules<Target>, options: GuardOptions<Target> = {}): Layer<Target> {
  requireOptions(rules, "guard", Object.keys(Object(rules)), "guard({ book: [between(1, 24)] })");
  requireOptions(options, "guard", ["results"], "{ results: { count: between(0, 24) } }");
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
        const rule = ruleOf(member);
        const inner = checkingResult(next, member);
        if (!rule) return inner;
        return rejectingLike(checkingArguments(inner, member.label, parameterChecks(member, rule)), false);
      },
      // Reading or replacing a method is not a call, and the rules of a method are about its calls.
      read: (next, member) => (member.kind === "method" ? next : checkingResult(next, member)),
      write(next, member) {
        const check = member.kind === "method" ? undefined : (ruleOf(member) as ArgumentCheck | undefined);
        return check
          ? checkingArguments(next, member.label, () => [{ index: 0, name: "the new value", check }])
          : next;
      },
    },
    // The rules are typed by the target's keys.
    { only: keys as (keyof Target)[], observesAll: true },
  );
}

/** Returns the checks in all rules: for a method, one per parameter; for a property, one. */
function checksIn(rules: object): readonly unknown[] {
  return Object.values(rules).flatMap((rule: unknown) =>
    isCheck(rule)
      ? [rule]
      : Array.isArray(rule)
        ? rule.filter((check) => check !== undefined)
        : Object.values(Object(rule)),
  );
}

interface ParameterCheck {
  readonly index: number;
  /** Name of the parameter in messages. */
  readonly name: string;
  readonly check: ArgumentCheck;
}

/** Returns a function that finds the parameters that the checks of a method are for. */
function parameterChecks(member: Member, rule: unknown): (call: Call) => readonly ParameterCheck[] {
  if (typeof rule !== "object" || rule === null || isCheck(rule)) throw misplacedCheck(member.label);
  const known = new WeakMap<object, readonly ParameterCheck[]>();
  const shared = functionOf(member);
  // Reports an unknown parameter when the stack is planned, if all subjects share the method.
  if (shared) known.set(shared, checksOf(member.label, rule, parameterNames(shared)));
  return (call) => {
    const fn = calledFunction(call.member, call.wrapper);
    const found = fn && known.get(fn);
    if (found) return found;
    const checks = checksOf(member.label, rule, fn && parameterNames(fn));
    if (fn) known.set(fn, checks);
    return checks;
  };
}

function checksOf(
  member: string,
  rule: object,
  names: readonly (string | undefined)[] | undefined,
): readonly ParameterCheck[] {
  if (Array.isArray(rule)) {
    const list = rule as readonly (ArgumentCheck | undefined)[];
    return list.flatMap((check, index) =>
      check ? [{ index, name: names?.[index] ?? `argument ${index + 1}`, check }] : [],
    );
  }
  return Object.entries(rule as Readonly<Record<string, ArgumentCheck>>).map(([name, check]) => {
    const index = names?.indexOf(name) ?? -1;
    if (index < 0) throw unknownParameter(member, name, names);
    return { index, name, check };
  });
}

function misplacedCheck(member: string): SleeveError {
  return badOption(`guard: ${member} is a method. Put its checks into a list, one for each parameter.`);
}

function unknownParameter(
  member: string,
  name: string,
  names: readonly (string | undefined)[] | undefined,
): SleeveError {
  const known = names?.filter((item) => item !== undefined).join(", ");
  return badOption(
    known
      ? `guard: ${member} has no parameter "${name}". Its parameters: ${known}. Correct the name, or pass a list of checks.`
      : `guard: the parameter names of ${member} are not known, so "${name}" cannot be found. Pass a list of checks, one for each parameter.`,
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
  if (!isComparable(min) || !isComparable(max) || kindOf(min) !== kindOf(max) || min > max)
    throw badOption(
      `between: ${formatValue(min)} and ${formatValue(max)} are not a range. Pass two numbers, bigints, strings or dates, the smaller one first.`,
    );
  const [from, to] = [valueIn(min), valueIn(max)];
  return {
    allowed: `between ${formatValue(min)} and ${formatValue(max)}`,
    holds: (value: unknown) =>
      isComparable(value) && kindOf(value) === kindOf(min) && valueIn(value) >= from && valueIn(value) <= to,
  };
}

type Comparable = number | bigint | string | Date;

/** Whether a value can be compared without conversion. A boxed value or an object with `valueOf` cannot. */
function isComparable(value: unknown): value is Comparable {
  if (typeof value === "number") return !Number.isNaN(value);
  if (typeof value === "bigint" || typeof value === "string") return true;
  return value instanceof Date && !Number.isNaN(valueIn(value));
}

function kindOf(value: Comparable): string {
  return typeof value;
}

/** The time of a date, whatever its own `valueOf` returns. */
function valueIn(value: Comparable): number | bigint | string {
  if (typeof value !== "object") return value;
  try {
    return Date.prototype.getTime.call(value);
  } catch {
    return Number.NaN;
  }
}

function checkingArguments(
  next: Next,
  member: string,
  checksFor: (call: Call) => readonly ParameterCheck[],
): Next {
  return (given) => {
    // A copy, so that the checks and the subject see the same arguments, whatever list a layer outside passes.
    const call = { ...given, args: copyList(given.args) };
    const late: PromiseLike<void>[] = [];
    for (const { index, name, check } of checksFor(call)) {
      const answer = requireAllowed(check, call.args[index], `${member}: ${name}`);
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
  return late ? Promise.resolve(late).then(() => result) : result;
}

/** Throws if a value is not allowed. Returns a promise if the check is asynchronous. */
function requireAllowed(check: ArgumentCheck, value: unknown, place: string): PromiseLike<void> | undefined {
  if (typeof check !== "function" && "~standard" in check) {
    const verify = ({ issues }: SchemaResult) => {
      if (issues?.length)
        throw rejection(place, value, `allowed: ${issues.map(({ message }) => message).join("; ")}`);
    };
    const answer = check["~standard"].validate(value);
    if (isThenable(answer)) return answer.then(verify);
    verify(answer);
    return undefined;
  }
  const [holds, allowed] =
    typeof check === "function"
      ? [check, `what ${check.name || "the check"} allows`]
      : [check.holds, check.allowed];
  const verify = (isAllowed: unknown) => {
    if (!isAllowed) throw rejection(place, value, allowed);
  };
  const answer: unknown = holds(value);
  if (isThenable(answer)) return answer.then(verify);
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
