import { stringLiteral } from "../../written-text.ts";
import type { WrittenSignature } from "../target/signature-forms.ts";
import type { TypedParameter, TypedSignature } from "./adaptee.ts";
import type { Conversions, Converted, Refused } from "./conversions.ts";
import type { ArgumentCost, Cost } from "./implementation.ts";
import { convertNamed } from "./results.ts";
import type { NameComparison } from "./words.ts";

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
    | (ArgumentCost & {
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
      const value = this.#passed(given, parameter);
      if (!value) return [];
      const name = this.#names.similarity(given.name, parameter.name);
      const isInPlace = allParameters.indexOf(given) === index;
      const isOnly = allParameters.length === 1 && count === 1;
      if (!isInPlace && name < 0.6 && !isOnly) return [];
      // An optional argument may be missing where a value is needed.
      const isMissing = given.isOptional && !parameter.isOptional && !given.isRest;
      return [
        {
          ...value,
          given,
          cost: value.cost + (isInPlace ? 0 : 0.03) + (isMissing ? 0.1 : 0) + (name > 0.5 ? 0 : 0.03),
          rank: name + (isInPlace ? 0.5 : 0) - value.cost * 3,
        },
      ];
    });
    return ranked.sort((left, right) => right.rank - left.rank)[0];
  }

  /** A parameter as the argument for another one. */
  #passed(given: GivenParameter, parameter: TypedParameter): Converted | undefined {
    if (given.isRest !== parameter.isRest) return undefined;
    const value = convertNamed(this.#conversions, given.text, given, parameter);
    return value && given.isRest ? { ...value, text: `...${value.text}` } : value;
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
          ? convertNamed(this.#conversions, best.parameter.text, best.parameter, field)
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
}

/** The statement that throws if an argument is given that is not used. */
function unadapted({ text, name, isRest }: GivenParameter): string {
  const isGiven = isRest ? `${text}.length > 0` : `${text} !== undefined`;
  return `if (${isGiven}) throw new TypeError(${stringLiteral(`${name} is not adapted`)});`;
}
