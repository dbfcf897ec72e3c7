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
  written: WrittenSignature,
  { parameters }: TypedSignature,
): readonly GivenParameter[] {
  // Types that cannot be written are named as those of the member's list of parameters.
  const isIndexed = written.parameters.length === 1 && written.parameters[0]?.name === "args";
  return parameters.map((parameter, index) => ({
    ...parameter,
    text: isIndexed ? `args[${index}]` : (written.parameters[index]?.name ?? parameter.name),
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
    wanted: readonly TypedParameter[],
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
    for (const [index, parameter] of wanted.entries()) {
      const found = this.#argument(parameter, index, wanted.length, [...unused], given);
      if (!found) {
        if (!parameter.isOptional) {
          const whole = this.#fromFields(parameter, given, unused);
          if (!whole) return `nothing is given for its parameter \`${parameter.name}\``;
          texts.push(whole.text);
          notes.push(...whole.notes);
          cost += whole.cost;
          continue;
        }
        omitted += 1;
        continue;
      }
      for (; omitted > 0; omitted--) texts.push("undefined");
      if (found.refused) refused.push(found.refused);
      texts.push(found.text);
      notes.push(...found.notes);
      cost += found.cost;
      unused.delete(found.given);
    }
    let unusedOptions = 0;
    const checks: string[] = [];
    for (const left of unused) {
      if (left.isOptional) {
        unusedOptions += 1;
        checks.push(unadapted(left));
      } else cost += 0.25;
      notes.push(`\`${left.name}\` is not used`);
    }
    const used = given.filter((parameter) => !unused.has(parameter));
    return { texts, used, notes, cost, refused, unusedOptions, checks };
  }

  #argument(
    wanted: TypedParameter,
    index: number,
    count: number,
    unused: readonly GivenParameter[],
    all: readonly GivenParameter[],
  ): (Converted & { readonly given: GivenParameter }) | undefined {
    const ranked = unused.flatMap((given) => {
      const from = given.isRest && !wanted.isRest ? undefined : given.type;
      const to = wanted.type;
      const value = from && this.value(given.text, from, to, given.name, wanted.name);
      if (!value || given.isRest !== wanted.isRest) return [];
      // An optional argument may be missing where a value is needed.
      const isMissing = given.isOptional && !wanted.isOptional && !given.isRest;
      const name = this.#names.similarity(given.name, wanted.name);
      const isInPlace = all.indexOf(given) === index;
      const isOnly = all.length === 1 && count === 1;
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
    const used: GivenParameter[] = [];
    const parts: string[] = [];
    let cost = 0.08;
    for (const field of fields) {
      const best = given
        .filter((parameter) => unused.has(parameter) && !used.includes(parameter) && !parameter.isRest)
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
      used.push(best.parameter);
      parts.push(value.text === field.key ? field.key : `${field.key}: ${value.text}`);
    }
    if (used.length === 0) return undefined;
    for (const parameter of used) unused.delete(parameter);
    return { text: `{ ${parts.join(", ")} }`, cost, notes: ["parameters become an object"] };
  }

  /** Returns a call's result as that of a method or getter. */
  result(
    call: string,
    result: Type,
    { result: wanted, isThis = false }: Pick<TypedSignature, "result"> & { readonly isThis?: boolean },
    name: string,
    otherName: string,
    passed: Cost,
  ): Made[] | string {
    const conversions = this.#conversions;
    const promised = conversions.promised(wanted);
    const given = conversions.promised(result);
    const inner = promised ?? wanted;
    const own = given ?? result;
    const isLate = given !== undefined && promised === undefined && !isOpenType(wanted);
    if (isLate && !conversions.isVoid(wanted)) return "it returns a promise";
    const becomesAsync = promised !== undefined && given === undefined;
    const notes = [
      ...(becomesAsync ? ["becomes asynchronous"] : []),
      ...(isLate ? ["its promise is not awaited"] : []),
      ...passed.notes,
    ];
    const cost = passed.cost + (becomesAsync ? 0.03 : 0) + (isLate ? 0.2 : 0);
    const checks = [...(passed.checks ?? []), ...(passed.refused ?? []).map((one) => refusal(one, name))];
    const made = (more: Pick<Cost, "cost" | "notes">, isAsync: boolean, body: readonly string[]): Made[] => [
      {
        cost: cost + more.cost,
        notes: [...notes, ...more.notes],
        unusedOptions: passed.unusedOptions ?? 0,
        isAsync,
        body: [...checks, ...body],
      },
    ];
    if (conversions.isVoid(inner)) {
      if (conversions.isErrorNumber(own) && !isLate)
        return made({ cost: 0.03, notes: ["an error number becomes an error"] }, promised !== undefined, [
          `const code = ${given === undefined ? "" : "await "}${call};`,
          `if (code !== 0) throw Object.assign(new Error(${stringLiteral(`${name}: error number `)} + String(code)), { code });`,
        ]);
      const unused =
        conversions.isVoid(own) || conversions.isAdaptee(own)
          ? { cost: 0, notes: [] }
          : { cost: 0.02, notes: ["its result is not used"] };
      const isAwaited = promised !== undefined && given !== undefined;
      return made(unused, promised !== undefined, [
        isAwaited ? `await ${call};` : isLate ? `void ${call};` : `${call};`,
      ]);
    }
    // A fluent method returns its own object.
    if (conversions.isTarget(inner) && conversions.isVoid(own))
      return made({ cost: 0, notes: ["returns the adapter"] }, becomesAsync, [`${call};`]).map(
        (candidate) => ({
          ...candidate,
          returnsSelf: true,
        }),
      );
    if (conversions.isVoid(own)) return "it returns nothing";
    const isStep = given === undefined && promised === undefined && conversions.isIterator(wanted);
    if (isStep && conversions.isIterable(own) && !conversions.isAssignable(own, wanted))
      return [
        { ...made({ cost: 0.03, notes: [] }, false, [`yield* ${call};`])[0], isGenerator: true } as Made,
      ];
    const direct = this.value(call, own, inner, otherName, name);
    if (direct && direct.refused === undefined && (given === undefined || direct.text === call))
      return made(direct, becomesAsync || (checks.length > 0 && promised !== undefined), [
        `return ${direct.text}${isThis ? " as this" : ""};`,
      ]);
    const value = this.value("value", own, inner, otherName, name);
    if (!value) return "its result has another type";
    return made(value, promised !== undefined, [
      `const value = ${given === undefined ? "" : "await "}${call};`,
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
