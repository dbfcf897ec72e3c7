import { type Type, TypeFlags } from "../../compiler/typescript.ts";
import { stringLiteral } from "../../written-text.ts";
import { isOpenType } from "./adaptee.ts";
import type { Conversions, Converted, Refused } from "./conversions.ts";
import type { ArgumentCost, Cost, Implementation } from "./implementation.ts";
import { unitConversion } from "./units.ts";

/** The type of a value, and the name of the member or parameter that holds it. */
export interface NamedValue {
  readonly type: Type;
  readonly name: string;
}

/** A call of the adaptee, the member of the target that makes it, and the cost of its arguments. */
export interface AdaptedCall {
  readonly code: string;
  readonly result: NamedValue;
  readonly member: NamedValue & { readonly isThis?: boolean };
  readonly arguments: ArgumentCost;
}

/** Both results of a call, that of the adaptee and that of the member, as the values of their promises. */
interface Results {
  readonly call: AdaptedCall;
  readonly adaptee: NamedValue;
  readonly member: NamedValue;
  readonly isAdapteeAsync: boolean;
  readonly isMemberAsync: boolean;
  /** Whether the call returns a promise, and the member does not. */
  readonly isLate: boolean;
  /** Statements before the call, which throw for arguments that are not adapted. */
  readonly checks: readonly string[];
}

/** Writes the results of calls as the types of the members that make them. */
export class ResultWriter {
  readonly #conversions: Conversions;

  constructor(conversions: Conversions) {
    this.#conversions = conversions;
  }

  /** Returns the implementations of a member by a call, or why there are none. */
  implementations(call: AdaptedCall): Implementation[] | string {
    const conversions = this.#conversions;
    const results = this.#resultsOf(call);
    const { adaptee, member, isLate } = results;
    if (isLate && !conversions.isVoid(call.member.type)) return "it returns a promise";
    const isAdapteeVoid = conversions.isVoid(adaptee.type);
    if (conversions.isVoid(member.type))
      return conversions.isErrorNumber(adaptee.type) && !isLate
        ? this.#errorNumber(results)
        : this.#discarded(results);
    if (isAdapteeVoid)
      return conversions.isTarget(member.type) ? this.#fluent(results) : "it returns nothing";
    return this.#isSequence(results) ? this.#generator(results) : this.#converted(results);
  }

  #resultsOf(call: AdaptedCall): Results {
    const { result, member } = call;
    const adapteeValue = this.#conversions.promised(result.type);
    const memberValue = this.#conversions.promised(member.type);
    return {
      call,
      adaptee: { type: adapteeValue ?? result.type, name: result.name },
      member: { type: memberValue ?? member.type, name: member.name },
      isAdapteeAsync: adapteeValue !== undefined,
      isMemberAsync: memberValue !== undefined,
      isLate: adapteeValue !== undefined && memberValue === undefined && !isOpenType(member.type),
      checks: [
        ...(call.arguments.checks ?? []),
        ...(call.arguments.refused ?? []).map((refused) => refusal(refused, member.name)),
      ],
    };
  }

  /** An error number becomes an error. */
  #errorNumber(results: Results): Implementation[] {
    const { member, isMemberAsync } = results;
    return [
      implementation(results, { cost: 0.03, notes: ["an error number becomes an error"] }, isMemberAsync, [
        `const code = ${awaitedCall(results)};`,
        `if (code !== 0) throw Object.assign(new Error(${stringLiteral(`${member.name}: error number `)} + String(code)), { code });`,
      ]),
    ];
  }

  /** A member without a result ignores that of the call. */
  #discarded(results: Results): Implementation[] {
    const { call, adaptee, isAdapteeAsync, isLate, isMemberAsync } = results;
    const isExpected = this.#conversions.isVoid(adaptee.type) || this.#conversions.isAdaptee(adaptee.type);
    const conversion = isExpected
      ? { cost: 0, notes: [] }
      : { cost: 0.02, notes: ["its result is not used"] };
    let statement = `${call.code};`;
    if (isAdapteeAsync && isMemberAsync) statement = `await ${call.code};`;
    else if (isLate) statement = `void ${call.code};`;
    return [implementation(results, conversion, isMemberAsync, [statement])];
  }

  /** A fluent method returns its own object. */
  #fluent(results: Results): Implementation[] {
    const conversion = { cost: 0, notes: ["returns the adapter"] };
    const code = [`${results.call.code};`];
    return [{ ...implementation(results, conversion, becomesAsync(results), code), returnsSelf: true }];
  }

  /** Whether the member iterates over what the call returns. */
  #isSequence({ call, adaptee, isAdapteeAsync, isMemberAsync }: Results): boolean {
    if (isAdapteeAsync || isMemberAsync || !this.#conversions.isIterator(call.member.type)) return false;
    return (
      this.#conversions.isIterable(adaptee.type) &&
      !this.#conversions.isAssignable(adaptee.type, call.member.type)
    );
  }

  #generator(results: Results): Implementation[] {
    const code = [`yield* ${results.call.code};`];
    return [{ ...implementation(results, { cost: 0.03, notes: [] }, false, code), isGenerator: true }];
  }

  #converted(results: Results): Implementation[] | string {
    const { call, adaptee, member, isAdapteeAsync, isMemberAsync, checks } = results;
    const direct = convertNamed(this.#conversions, call.code, adaptee, member);
    const isDirect = direct?.refused === undefined && (!isAdapteeAsync || direct?.text === call.code);
    if (direct && isDirect) {
      const isAsync = becomesAsync(results) || (checks.length > 0 && isMemberAsync);
      const assertion = call.member.isThis ? " as this" : "";
      return [implementation(results, direct, isAsync, [`return ${direct.text}${assertion};`])];
    }
    const value = convertNamed(this.#conversions, "value", adaptee, member);
    if (!value) return "its result has another type";
    return [
      implementation(results, value, isMemberAsync, [
        `const value = ${awaitedCall(results)};`,
        ...(value.refused === undefined ? [] : [refusal(value.refused, member.name)]),
        `return ${value.text};`,
      ]),
    ];
  }
}

/** Converts a value, and the units that the names of both places contain. */
export function convertNamed(
  conversions: Conversions,
  text: string,
  from: NamedValue,
  to: NamedValue,
): Converted | undefined {
  const unit = unitConversion(from.name, to.name);
  const converted = conversions.convert(text, from.type, to.type);
  const isNumber = (from.type.flags & TypeFlags.NumberLike) !== 0;
  if (!converted || !unit || !isNumber || converted.text !== text) return converted;
  return {
    text: `${text} * ${unit.factor}`,
    cost: 0.05,
    notes: [`${unit.from} become ${unit.to}`],
  };
}

function implementation(
  results: Results,
  conversion: Cost,
  isAsync: boolean,
  code: readonly string[],
): Implementation {
  const { call, isLate, checks } = results;
  const isNewlyAsync = becomesAsync(results);
  return {
    cost: call.arguments.cost + (isNewlyAsync ? 0.03 : 0) + (isLate ? 0.2 : 0) + conversion.cost,
    notes: [
      ...(isNewlyAsync ? ["becomes asynchronous"] : []),
      ...(isLate ? ["its promise is not awaited"] : []),
      ...call.arguments.notes,
      ...conversion.notes,
    ],
    unusedOptions: call.arguments.unusedOptions ?? 0,
    isAsync,
    body: [...checks, ...code],
  };
}

function becomesAsync({ isAdapteeAsync, isMemberAsync }: Results): boolean {
  return isMemberAsync && !isAdapteeAsync;
}

function awaitedCall({ call, isAdapteeAsync }: Results): string {
  return isAdapteeAsync ? `await ${call.code}` : call.code;
}

/** The statement that throws if a value cannot be converted. */
function refusal({ condition, reason }: Refused, member: string): string {
  return `if (${condition}) throw new TypeError(${stringLiteral(`${member}: ${reason}`)});`;
}
