import { type Type, TypeFlags } from "../../compiler/typescript.ts";
import { stringLiteral } from "../../written-text.ts";
import type { WrittenSignature } from "../target/members.ts";
import { isOpenType, type TypedParameter, type TypedSignature } from "./adaptee.ts";
import type { Candidate } from "./candidates.ts";
import type { Conversions, Converted, Refused } from "./conversions.ts";
import { unitConversion } from "./units.ts";
import type { NameComparison } from "./words.ts";

export type Made = Omit<Candidate, "uses" | "name">;

export interface Cost {
  readonly cost: number;
  readonly notes: readonly string[];
  /** Arguments that cannot be converted. */
  readonly refused?: readonly Refused[];
  readonly unusedOptions?: number;
  /** Statements that throw if an argument is given that is not used. */
  readonly checks?: readonly string[];
}

export interface GivenParameter extends TypedParameter {
  /** The expression of its value. */
  readonly text: string;
}

export function givenParameters(
  signature: WrittenSignature,
  { parameters }: TypedSignature,
): readonly GivenParameter[] {
  // Types that cannot be written are named as those of the member's list of parameters.
  const isIndexed = signature.parameters.length === 1 && signature.parameters[0]?.name === "args";
  return parameters.map((parameter, index) => ({
    ...parameter,
    text: isIndexed ? `args[${index}]` : (signature.parameters[index]?.name ?? parameter.name),
  }));
}

/** Writes calls: their arguments from those that are given, and their results as the types that are wanted. */
export class CallWriter {
  readonly #conversions: Conversions;
  readonly #names: NameComparison;

  constructor(conversions: Conversions, names: NameComparison) {
    this.#conversions = conversions;
    this.#names = names;
  }

  /** Writes the arguments of a call from those that are given. */
  arguments(
    parameters: readonly TypedParameter[],
    given: readonly GivenParameter[],
  ):
    | (Cost & {
        readonly texts: readonly string[];
        readonly used: readonly GivenParameter[];
        readonly refused: readonly Refused[];
        readonly checks: readonly string[];
      })
    | string {
    const texts: string[] = [];
    const notes: string[] = [];
    const refused: Refused[] = [];
    let cost = 0;
    let omitted = 0;
    const unused = new Set(given);
    for (const [index, parameter] of parameters.entries()) {
      const argument = this.#argument(parameter, index, parameters.length, [...unused], given);
      if (!argument) {
        if (!parameter.isOptional) {
          const object = this.#fromFields(parameter, given, unused);
          if (!object) return `nothing is given for its parameter \`${parameter.name}\``;
          texts.push(object.text);
          notes.push(...object.notes);
          cost += object.cost;
          continue;
        }
        omitted += 1;
        continue;
      }
      for (; omitted > 0; omitted--) texts.push("undefined");
      if (argument.refused) refused.push(argument.refused);
      texts.push(argument.text);
      notes.push(...argument.notes);
      cost += argument.cost;
      unused.delete(argument.given);
    }
    let unusedOptions = 0;
    const checks: string[] = [];
    for (const parameter of unused) {
      if (parameter.isOptional) {
        unusedOptions += 1;
        checks.push(unadapted(parameter));
      } else cost += 0.25;
      notes.push(`\`${parameter.name}\` is not used`);
    }
    const usedParameters = given.filter((parameter) => !unused.has(parameter));
    return { texts, used: usedParameters, notes, cost, refused, unusedOptions, checks };
  }

  #argument(
    parameter: TypedParameter,
    index: number,
    count: number,
    unused: readonly GivenParameter[],
    allParameters: readonly GivenParameter[],
  ): (Converted & { readonly given: GivenParameter }) | undefined {
    const ranked = unused.flatMap((given) => {
      const from = given.isRest && !parameter.isRest ? undefined : given.type;
      const to = parameter.type;
      const value = from && this.value(given.text, from, to, given.name, parameter.name);
      if (!value || given.isRest !== parameter.isRest) return [];
      // An optional argument may be missing where a value is needed.
      const isMissing = given.isOptional && !parameter.isOptional && !given.isRest;
      const name = this.#names.similarity(given.name, parameter.name);
      const isInPlace = allParameters.indexOf(given) === index;
      const isOnly = allParameters.length === 1 && count === 1;
      if (!isInPlace && name < 0.6 && !isOnly) return [];
      return [
        {
          given,
          text: given.isRest ? `...${value.text}` : value.text,
          notes: value.notes,
          ...(value.refused && { refused: value.refused }),
          cost: value.cost + (isInPlace ? 0 : 0.03) + (isMissing ? 0.1 : 0) + (name > 0.5 ? 0 : 0.03),
          rank: name + (isInPlace ? 0.5 : 0) - value.cost * 3,
        },
      ];
    });
    return ranked.sort((left, right) => right.rank - left.rank)[0];
  }

  /** An object of options is put together from arguments of the same names. */
  #fromFields(
    wanted: TypedParameter,
    given: readonly GivenParameter[],
    unused: Set<GivenParameter>,
  ): (Cost & { readonly text: string }) | undefined {
    const fields = this.#conversions.membersOf(wanted.type);
    if (fields.length === 0 || fields.length > 40) return undefined;
    const usedParameters: GivenParameter[] = [];
    const parts: string[] = [];
    let cost = 0.08;
    for (const field of fields) {
      const best = given
        .filter(
          (parameter) => unused.has(parameter) && !usedParameters.includes(parameter) && !parameter.isRest,
        )
        .map((parameter) => ({ parameter, name: this.#names.similarity(parameter.name, field.name) }))
        .sort((left, right) => right.name - left.name)[0];
      const value =
        best && best.name >= 0.8
          ? this.value(best.parameter.text, best.parameter.type, field.type, best.parameter.name, field.name)
          : undefined;
      if (!best || !value) {
        if (!field.isOptional) return undefined;
        continue;
      }
      cost += value.cost;
      usedParameters.push(best.parameter);
      parts.push(value.text === field.key ? field.key : `${field.key}: ${value.text}`);
    }
    if (usedParameters.length === 0) return undefined;
    for (const parameter of usedParameters) unused.delete(parameter);
    return { text: `{ ${parts.join(", ")} }`, cost, notes: ["parameters become an object"] };
  }

  /** Returns a call's result as that of a method or getter. */
  result(
    call: string,
    result: Type,
    { result: wantedResult, isThis = false }: Pick<TypedSignature, "result"> & { readonly isThis?: boolean },
    name: string,
    otherName: string,
    argumentCost: Cost,
  ): Made[] | string {
    const conversions = this.#conversions;
    const promised = conversions.promised(wantedResult);
    const settled = conversions.promised(result);
    const inner = promised ?? wantedResult;
    const callResult = settled ?? result;
    const isLate = settled !== undefined && promised === undefined && !isOpenType(wantedResult);
    if (isLate && !conversions.isVoid(wantedResult)) return "it returns a promise";
    const becomesAsync = promised !== undefined && settled === undefined;
    const notes = [
      ...(becomesAsync ? ["becomes asynchronous"] : []),
      ...(isLate ? ["its promise is not awaited"] : []),
      ...argumentCost.notes,
    ];
    const cost = argumentCost.cost + (becomesAsync ? 0.03 : 0) + (isLate ? 0.2 : 0);
    const checks = [
      ...(argumentCost.checks ?? []),
      ...(argumentCost.refused ?? []).map((conversion) => refusal(conversion, name)),
    ];
    const candidates = (
      more: Pick<Cost, "cost" | "notes">,
      isAsync: boolean,
      body: readonly string[],
    ): Made[] => [
      {
        cost: cost + more.cost,
        notes: [...notes, ...more.notes],
        unusedOptions: argumentCost.unusedOptions ?? 0,
        isAsync,
        body: [...checks, ...body],
      },
    ];
    if (conversions.isVoid(inner)) {
      if (conversions.isErrorNumber(callResult) && !isLate)
        return candidates(
          { cost: 0.03, notes: ["an error number becomes an error"] },
          promised !== undefined,
          [
            `const code = ${settled === undefined ? "" : "await "}${call};`,
            `if (code !== 0) throw Object.assign(new Error(${stringLiteral(`${name}: error number `)} + String(code)), { code });`,
          ],
        );
      const unused =
        conversions.isVoid(callResult) || conversions.isAdaptee(callResult)
          ? { cost: 0, notes: [] }
          : { cost: 0.02, notes: ["its result is not used"] };
      const isAwaited = promised !== undefined && settled !== undefined;
      return candidates(unused, promised !== undefined, [
        isAwaited ? `await ${call};` : isLate ? `void ${call};` : `${call};`,
      ]);
    }
    // A fluent method returns its own object.
    if (conversions.isTarget(inner) && conversions.isVoid(callResult))
      return candidates({ cost: 0, notes: ["returns the adapter"] }, becomesAsync, [`${call};`]).map(
        (candidate) => ({
          ...candidate,
          returnsSelf: true,
        }),
      );
    if (conversions.isVoid(callResult)) return "it returns nothing";
    const isStep = settled === undefined && promised === undefined && conversions.isIterator(wantedResult);
    if (isStep && conversions.isIterable(callResult) && !conversions.isAssignable(callResult, wantedResult))
      return [
        {
          ...candidates({ cost: 0.03, notes: [] }, false, [`yield* ${call};`])[0],
          isGenerator: true,
        } as Made,
      ];
    const direct = this.value(call, callResult, inner, otherName, name);
    if (direct && direct.refused === undefined && (settled === undefined || direct.text === call))
      return candidates(direct, becomesAsync || (checks.length > 0 && promised !== undefined), [
        `return ${direct.text}${isThis ? " as this" : ""};`,
      ]);
    const value = this.value("value", callResult, inner, otherName, name);
    if (!value) return "its result has another type";
    return candidates(value, promised !== undefined, [
      `const value = ${settled === undefined ? "" : "await "}${call};`,
      ...(value.refused === undefined ? [] : [refusal(value.refused, name)]),
      `return ${value.text};`,
    ]);
  }

  /** Converts a value, and the units that the names of both places contain. */
  value(text: string, from: Type, to: Type, fromName: string, toName: string): Converted | undefined {
    const unit = unitConversion(fromName, toName);
    const converted = this.#conversions.convert(text, from, to);
    const isNumber = (from.flags & TypeFlags.NumberLike) !== 0;
    if (!converted || !unit || !isNumber || converted.text !== text) return converted;
    return {
      text: `${text} * ${unit.factor}`,
      cost: 0.05,
      notes: [`${unit.from} become ${unit.to}`],
    };
  }
}

/** The statement that throws if an argument is given that is not used. */
function unadapted({ text, name, isRest }: GivenParameter): string {
  const isGiven = isRest ? `${text}.length > 0` : `${text} !== undefined`;
  return `if (${isGiven}) throw new TypeError(${stringLiteral(`${name} is not adapted`)});`;
}

/** The statement that throws if a value cannot be converted. */
function refusal({ condition, reason }: Refused, member: string): string {
  return `if (${condition}) throw new TypeError(${stringLiteral(`${member}: ${reason}`)});`;
}
