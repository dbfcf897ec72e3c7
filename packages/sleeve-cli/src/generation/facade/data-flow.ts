import {
  type Checker,
  type CompilerSymbol,
  SignatureKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import {
  isGenericType,
  isOpenType,
  promisedType,
  type TypedMember,
  type TypedParameter,
  type TypedSignature,
  typedMembersOf,
} from "../adapt/adaptee.ts";
import { wordsOf } from "../adapt/units.ts";
import type { NameComparison } from "../adapt/words.ts";

/** An object that steps use. */
export interface Subsystem {
  /** Its field in the facade. */
  readonly name: string;
  readonly members: readonly TypedMember[];
}

/** A member of a subsystem that an operation calls. */
export interface StepMember {
  readonly subsystem: Subsystem;
  readonly member: TypedMember;
}

/** A value that an operation has: a parameter, the result of a step, or a field of one. */
export interface FlowValue {
  /** Its place: `input` and the parameter, or the step. */
  readonly from: FlowSource;
  /** The field; none for the whole value. */
  readonly field: string | undefined;
  readonly type: Type;
  /** What it is called, for comparing with names of parameters. */
  readonly names: readonly string[];
}

export type FlowSource =
  | { readonly kind: "parameter"; readonly code: string }
  | { readonly kind: "step"; readonly step: StepMember };

/** What an argument, or a part of a result, is made of. */
export type FlowExpression =
  | { readonly kind: "value"; readonly value: FlowValue }
  | { readonly kind: "object"; readonly fields: readonly FlowField[] }
  /** Left to the developer. */
  | { readonly kind: "hole" };

export interface FlowField {
  readonly key: string;
  readonly value: FlowExpression;
}

/** Why nothing is chosen: there is no value, or there are several that are as good. */
export interface NoValue {
  readonly kind: "none" | "several";
  readonly values: readonly FlowValue[];
}

/** Similarity of names that makes a value of a plain type an argument. */
const LEAST_NAME = 0.7;
/** By how much a value has to be better than the next. */
const MARGIN = 0.03;
/** Depth of objects of options that are made. */
const DEEPEST = 2;

/** What a value is needed for. */
export interface Need {
  readonly type: Type;
  /** What the parameter or field is called. */
  readonly name: string;
  /** The member that has it, which says more about short names such as `id`. */
  readonly context: string;
  readonly depth?: number;
}

/** Finds values for parameters and results by their types and names. */
export class DataFlow {
  readonly #checker: Checker;
  readonly #names: NameComparison;

  constructor(checker: Checker, names: NameComparison) {
    this.#checker = checker;
    this.#names = names;
  }

  /** Returns the values that a parameter of an operation gives. */
  parameterValues({ name, type }: TypedParameter, code: string): readonly FlowValue[] {
    return this.#withFields({ from: { kind: "parameter", code }, field: undefined, type, names: [name] });
  }

  /** Returns the values that a step gives; none if it returns nothing. */
  stepValues(step: StepMember): readonly FlowValue[] {
    const type = this.resultOf(step.member);
    if (!type || this.isNothing(type)) return [];
    return this.#withFields({
      from: { kind: "step", step },
      field: undefined,
      type,
      names: this.#namesOfResult(step, type),
    });
  }

  /** Returns what the result of a step is called: by its type, its member or its subsystem. */
  nameOfResult(step: StepMember): string {
    const [name = ""] = this.#namesOfResult(step, this.resultOf(step.member));
    return name;
  }

  #namesOfResult({ member, subsystem }: StepMember, type: Type | undefined): readonly string[] {
    const names = [type ? this.#nameOfType(type) : "", nounOf(member.name), subsystem.name];
    return names.filter((name) => name !== "");
  }

  /** Returns what a step's call gives once its promise is resolved. */
  resultOf({ signatures }: TypedMember): Type | undefined {
    const [first] = signatures;
    return first && (promisedType(this.#checker, first.result) ?? first.result);
  }

  isAsync({ signatures }: TypedMember): boolean {
    return signatures.some(({ result }) => promisedType(this.#checker, result) !== undefined);
  }

  isNothing({ flags }: Type): boolean {
    return (flags & (TypeFlags.Void | TypeFlags.Undefined | TypeFlags.Never)) !== 0;
  }

  isAssignable(from: Type, to: Type): boolean {
    return from === to || this.#checker.isTypeAssignableTo(from, to);
  }

  /** Chooses the value for a need, or makes an object of several. */
  fill(need: Need, values: readonly FlowValue[]): FlowExpression | NoValue {
    const chosen = this.choose(need, values);
    if (!isNoValue(chosen) || chosen.kind === "several") return chosen;
    const fields = this.fieldsOf(need.type);
    if (fields === undefined || (need.depth ?? 0) >= DEEPEST) return chosen;
    return this.fillFields(need, fields, values) ?? chosen;
  }

  /** Makes an object of which each required field has a value. */
  fillFields(
    { context, depth = 0 }: Need,
    fields: readonly TypedMember[],
    values: readonly FlowValue[],
  ): FlowExpression | undefined {
    const flowFields: FlowField[] = [];
    for (const { name, key, type, isOptional } of fields) {
      const value = this.fill({ type, name, context, depth: depth + 1 }, values);
      if (!isNoValue(value)) flowFields.push({ key, value });
      else if (!isOptional) return undefined;
    }
    return flowFields.some(({ key }) => !EVERYWHERE.test(key))
      ? { kind: "object", fields: flowFields }
      : undefined;
  }

  /** Returns the fields of a type whose objects can be made of values; `undefined` for any other type. */
  fieldsOf(type: Type): readonly TypedMember[] | undefined {
    if ((type.flags & TypeFlags.Object) === 0 || this.#checker.isArrayType(type) || this.#isCalled(type))
      return undefined;
    const fields = typedMembersOf(this.#checker, type);
    const isRecord = fields.length > 0 && fields.every(({ isMethod }) => !isMethod);
    return isRecord ? fields : undefined;
  }

  choose(need: Need, values: readonly FlowValue[]): FlowExpression | NoValue {
    const fitting = values.filter(({ type }) => this.isAssignable(type, need.type));
    const isTelling = this.isTelling(need.type);
    const same = isTelling ? fitting.filter(({ type }) => this.#isNamedAs(type, need.type)) : [];
    const [only] = same;
    if (only && same.length === 1) return { kind: "value", value: only };
    // Values of other types that only have the same fields need the name too.
    const scored = (same.length > 0 ? same : fitting)
      .map((value) => ({ value, ...this.#scoreOf(need, value) }))
      .filter(({ name }) => name >= LEAST_NAME || same.length > 0)
      .sort((left, right) => right.score - left.score);
    const [best, second] = scored;
    if (!best) return { kind: "none", values: fitting };
    const isClear = second === undefined || best.score - second.score >= MARGIN;
    if (isClear && best.name >= LEAST_NAME) return { kind: "value", value: best.value };
    const near = scored.filter(({ score }) => best.score - score < 0.3);
    return { kind: "several", values: near.map(({ value }) => value) };
  }

  /** Whether a type alone says what its values are: a `Booking`, rather than any text, number or `Date`. */
  isTelling(type: Type): boolean {
    if (isOpenType(type) || isGenericType(type) || this.#isCalled(type)) return false;
    if (this.#checker.isArrayType(type)) {
      const [item] = type.isTypeReference() ? this.#checker.getTypeArguments(type) : [];
      return item !== undefined && this.isTelling(item);
    }
    if ((type.flags & (TypeFlags.Object | TypeFlags.Intersection)) === 0) return false;
    if (BUILT_IN.test(type.getSymbol()?.name ?? "")) return false;
    return this.#checker.getPropertiesOfType(type).length > 0;
  }

  /** Returns what values of a type are called: `booking`, `tugs`; empty for types without a name. */
  #nameOfType(type: Type): string {
    if (this.#checker.isArrayType(type)) {
      const [item] = type.isTypeReference() ? this.#checker.getTypeArguments(type) : [];
      const name = item ? this.#nameOfType(item) : "";
      return name === "" ? "" : `${name}s`;
    }
    const symbol: CompilerSymbol | undefined = type.getAliasSymbol() ?? type.getSymbol();
    const name = symbol?.name ?? "";
    if (!/^\p{Lu}/u.test(name) || BUILT_IN.test(name)) return "";
    return `${name.charAt(0).toLowerCase()}${name.slice(1)}`;
  }

  /** Whether a type is another one by its declaration, or extends it, rather than only having the same members. */
  #isNamedAs(from: Type, to: Type): boolean {
    if (from === to) return true;
    if (to.isUnionType()) return to.getTypes().some((part) => this.#isNamedAs(from, part));
    if (from.isIntersectionType()) return from.getTypes().some((part) => this.#isNamedAs(part, to));
    if (this.#checker.isArrayType(from) && this.#checker.isArrayType(to)) {
      const [item, target] = [from, to].map((list) =>
        list.isTypeReference() ? this.#checker.getTypeArguments(list)[0] : undefined,
      );
      return item !== undefined && target !== undefined && this.#isNamedAs(item, target);
    }
    const [fromSymbol, toSymbol] = [from.getSymbol(), to.getSymbol()];
    if (fromSymbol === undefined || toSymbol === undefined || toSymbol.name.startsWith("__")) return false;
    if (fromSymbol.id === toSymbol.id) return true;
    if (!from.isClassOrInterface()) return false;
    return this.#checker.getBaseTypes(from).some((base) => this.#isNamedAs(base, to));
  }

  #isCalled(type: Type): boolean {
    return this.#checker.getSignaturesOfType(type, SignatureKind.Call).length > 0;
  }

  #scoreOf(
    { name, context }: Need,
    { names, field }: FlowValue,
  ): { readonly name: number; readonly score: number } {
    const similar = Math.max(...names.map((word) => this.#names.similarity(name, word)));
    // `berthId` of a step, for a parameter that is only called `id`.
    const owned = names.some((own) => {
      const owner = wordsOf(own).slice(0, -1);
      return owner.length > 0 && owner.every((word) => wordsOf(context).includes(word));
    });
    return { name: similar, score: similar + (owned ? 0.06 : 0) + (field === undefined ? 0.04 : 0) };
  }

  #withFields(value: FlowValue): readonly FlowValue[] {
    if (!this.isTelling(value.type) || this.#checker.isArrayType(value.type)) return [value];
    const fields = typedMembersOf(this.#checker, value.type).filter(
      ({ isMethod, key, isOptional }) => !isMethod && !isOptional && !key.startsWith('"'),
    );
    return [
      value,
      ...fields.map(
        ({ name, type }): FlowValue => ({
          from: value.from,
          field: name,
          type,
          names: [
            name,
            ...value.names.map((owner) => `${owner}${name.charAt(0).toUpperCase()}${name.slice(1)}`),
          ],
        }),
      ),
    ];
  }
}

const BUILT_IN =
  /^(?:Array|ReadonlyArray|Date|Map|Set|Promise|Record|Object|Function|String|Number|Uint8Array|Buffer)$/;

/** Fields that objects of all types have, so that they say nothing about what an object is. */
const EVERYWHERE = /^(?:id|key|name|type|kind|code|value|version|status|state)$/;

export function isNoValue(expression: FlowExpression | NoValue): expression is NoValue {
  return expression.kind === "none" || expression.kind === "several";
}

/** Returns the signatures of a member by the number of their parameters, the most first. */
export function signaturesOf({ signatures }: TypedMember): readonly TypedSignature[] {
  return [...signatures].sort((left, right) => right.parameters.length - left.parameters.length);
}

/** Returns the noun of a member's name: `height` of `heightAt`, `berth` of `bookBerth`; empty for a verb alone. */
export function nounOf(member: string): string {
  const words = wordsOf(member);
  const isPlace = PREPOSITIONS.has(words.at(-1) ?? "");
  const lastWords = isPlace ? words.slice(0, -1) : words;
  const onlyWord = isPlace || /s$/.test(member) ? lastWords : [];
  const noun = lastWords.length > 1 ? lastWords.slice(1) : onlyWord;
  return noun
    .map((word, at) => (at === 0 ? word : `${word.charAt(0).toUpperCase()}${word.slice(1)}`))
    .join("");
}

const PREPOSITIONS: ReadonlySet<string> = new Set([
  "at",
  "for",
  "of",
  "on",
  "by",
  "in",
  "to",
  "from",
  "with",
]);
