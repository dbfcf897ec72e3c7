import type { Call, Layer, Next } from "../forward/call.ts";
import { copyArguments, withArguments } from "../forward/call-arguments.ts";
import { calledFunction, rejectingLike } from "../forward/called-function.ts";
import { keepsArguments } from "../forward/private-arguments.ts";
import { badOption, type SleeveError } from "../shared/errors.ts";
import { requireOptions } from "../shared/options.ts";
import type { Member } from "../surface/member.ts";
import { functionOf, parameterNames } from "../surface/member-functions.ts";
import {
  type ArgumentCheck,
  checkedValueText,
  type DescribedCheck,
  type PreparedCheck,
  preparedCheck,
} from "./core/value-checks.ts";
import { layer } from "./layer.ts";

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
    const rule = resultOf(member);
    if (!rule) return next;
    const check = placed(rule, 0, `${member.label}: the result`);
    return (call) => checkResult(check, next(call));
  };
  return keepsArguments(
    layer<Target>(
      "guard",
      {
        call(next, member, isPrivate) {
          const rule = ruleOf(member);
          const inner = checkingResult(next, member);
          if (!rule) return inner;
          return rejectingLike(checkingArguments(inner, parameterChecks(member, rule), isPrivate), false);
        },
        // Reading or replacing a method is not a call, and the rules of a method are about its calls.
        read: (next, member) => (member.kind === "method" ? next : checkingResult(next, member)),
        write(next, member) {
          const check = member.kind === "method" ? undefined : (ruleOf(member) as ArgumentCheck | undefined);
          return check ? checkingArguments(next, [placed(check, 0, `${member.label}: the new value`)]) : next;
        },
      },
      // The rules are typed by the target's keys.
      { only: keys as (keyof Target)[], observesAll: true, rejects: true },
    ),
  );
}

/** Returns the checks in all rules: for a method, one per parameter; for a property, one. */
function checksIn(rules: object): readonly unknown[] {
  return Object.values(rules).flatMap((rule: unknown): readonly unknown[] => {
    if (isCheck(rule)) return [rule];
    return Array.isArray(rule) ? rule.filter((check) => check !== undefined) : Object.values(Object(rule));
  });
}

/** Returns the checks of a method's parameters, or a function that finds them if subjects have functions of their own. */
function parameterChecks(
  member: Member,
  rule: unknown,
): readonly PlacedCheck[] | ((call: Call) => readonly PlacedCheck[]) {
  if (typeof rule !== "object" || rule === null || isCheck(rule)) throw misplacedCheck(member.label);
  const shared = functionOf(member);
  if (shared) return checksOf(member.label, rule, parameterNames(shared));
  const cache = new WeakMap<object, readonly PlacedCheck[]>();
  return (call) => {
    const fn = calledFunction(call.member, call.wrapper);
    const existing = fn && cache.get(fn);
    if (existing) return existing;
    const checks = checksOf(member.label, rule, fn && parameterNames(fn));
    if (fn) cache.set(fn, checks);
    return checks;
  };
}

function checksOf(
  member: string,
  rule: object,
  names: readonly (string | undefined)[] | undefined,
): readonly PlacedCheck[] {
  if (Array.isArray(rule)) {
    const list = rule as readonly (ArgumentCheck | undefined)[];
    return list.flatMap((check, index) =>
      check ? [placed(check, index, `${member}: ${names?.[index] ?? `argument ${index + 1}`}`)] : [],
    );
  }
  return Object.entries(rule as Readonly<Record<string, ArgumentCheck>>).map(([name, check]) => {
    const index = names?.indexOf(name) ?? -1;
    if (index < 0) throw unknownParameter(member, name, names);
    return placed(check, index, `${member}: ${name}`);
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
  const listed = names?.filter((item) => item !== undefined).join(", ");
  return badOption(
    listed
      ? `guard: ${member} has no parameter "${name}". Its parameters: ${listed}. Correct the name, or pass a list of checks.`
      : `guard: the parameter names of ${member} are not known, so "${name}" cannot be found. Pass a list of checks, one for each parameter.`,
  );
}

function isCheck(value: unknown): boolean {
  if (typeof value === "function") return true;
  return typeof value === "object" && value !== null && ("holds" in value || "~standard" in value);
}

function requireCheck(value: unknown): void {
  if (!isCheck(value))
    throw badOption(
      `guard: ${checkedValueText(value)} is not a check. Pass a predicate, a range or a schema.`,
    );
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
      `between: ${checkedValueText(min)} and ${checkedValueText(max)} are not a range. Pass two numbers, bigints, strings or dates, the smaller one first.`,
    );
  const [from, to] = [valueIn(min), valueIn(max)];
  const allowed = `between ${checkedValueText(min)} and ${checkedValueText(max)}`;
  // Numbers are checked most often. `NaN` is neither above nor below.
  if (typeof from === "number" && typeof min === "number")
    return {
      allowed,
      holds: (value: unknown) => typeof value === "number" && value >= from && value <= Number(to),
    };
  return {
    allowed,
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

/** Returns a call that checks arguments. `checksFor` is a function if the checks depend on the function that is called. */
function checkingArguments(
  next: Next,
  checksFor: readonly PlacedCheck[] | ((call: Call) => readonly PlacedCheck[]),
  isPrivate = false,
): Next {
  if (!isPrivate) {
    const checked = checkingArguments(next, checksFor, true);
    // The copy makes the checks and the subject see the same arguments, whatever list a layer outside passes.
    return (value) => checked(withArguments(value, copyArguments(value.args)));
  }
  if (typeof checksFor === "function") return (call) => checkAll(next, call, checksFor(call));
  const [firstCheck, second, third] = checksFor;
  if (!firstCheck || third) return (call) => checkAll(next, call, checksFor);
  // Each check is called in a place of its own, so that engines can inline it.
  const { index, test } = firstCheck;
  if (!second)
    return (call) => {
      const answer = test(call.args[index]);
      return answer === true ? next(call) : checkRest(next, call, checksFor, answer);
    };
  const { index: nextIndex, test: nextTest } = second;
  const others = [second];
  return (call) => {
    const answer = test(call.args[index]);
    if (answer !== true) return checkRest(next, call, checksFor, answer);
    const later = nextTest(call.args[nextIndex]);
    return later === true ? next(call) : checkRest(next, call, others, later);
  };
}

function checkAll(next: Next, call: Call, checks: readonly PlacedCheck[]): unknown {
  for (let at = 0; at < checks.length; at++) {
    const check = checks[at] as PlacedCheck;
    const answer = check.test(call.args[check.index]);
    if (answer !== true) return checkRest(next, call, checks.slice(at), answer);
  }
  return next(call);
}

/** Examines an answer other than `true` of the first check, and runs the others. Asynchronous ones run at the same time. */
function checkRest(next: Next, call: Call, checks: readonly PlacedCheck[], first: unknown): unknown {
  const late: PromiseLike<void>[] = [];
  for (const [at, { index, test, settle, place }] of checks.entries()) {
    const value = call.args[index];
    const answer = settle(at === 0 ? first : test(value), value, place);
    if (answer) late.push(answer);
  }
  return late.length > 0 ? Promise.all(late).then(() => next(call)) : next(call);
}

function checkResult(check: PlacedCheck, result: unknown): unknown {
  if (result instanceof Promise) {
    return result.then(async (value) => {
      await verify(check, value);
      return value;
    });
  }
  const late = verify(check, result);
  return late ? Promise.resolve(late).then(() => result) : result;
}

/** A check of the argument with an index, and how messages name that argument. */
interface PlacedCheck extends PreparedCheck {
  readonly index: number;
  readonly place: string;
}

function placed(check: ArgumentCheck, index: number, place: string): PlacedCheck {
  return { ...preparedCheck(check), index, place };
}

/** Throws if a value is not allowed. Returns a promise if the check is asynchronous. */
function verify({ test, settle, place }: PlacedCheck, value: unknown): PromiseLike<void> | undefined {
  const answer = test(value);
  return answer === true ? undefined : settle(answer, value, place);
}
