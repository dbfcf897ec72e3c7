import type { Type } from "../../compiler/typescript.ts";
import { stringLiteral } from "../../written-text.ts";
import type { ChosenMember } from "../render/class.ts";
import type { MethodForm, PropertyForm, WrittenSignature } from "../target/members.ts";
import type { TypedMember, TypedSignature } from "./adaptee.ts";
import { CallWriter, type GivenParameter, givenParameters, type Made } from "./calls.ts";
import type { Conversions } from "./conversions.ts";
import type { NameComparison } from "./words.ts";

/** A way to implement a member of the target by one of the adaptee. */
export interface Candidate {
  /** The member of the adaptee. */
  readonly uses: string;
  /** How much alike the names are, from 0 to 1. */
  readonly name: number;
  /** How far arguments and results are apart, from 0. */
  readonly cost: number;
  /** What is done besides the call. */
  readonly notes: readonly string[];
  /** Statements of the method, or of the getter. */
  readonly body: readonly string[];
  readonly isAsync: boolean;
  /** Number of optional parameters of the target's member that are not used. */
  readonly unusedOptions?: number;
  /** Whether the body is that of a generator. */
  readonly isGenerator?: boolean;
  /** Whether the adapter itself is returned after the statements. */
  readonly returnsSelf?: boolean;
  /** For a member with several signatures: the code of each that is covered, in order. */
  readonly overloads?: readonly CoveredSignature[];
  /** Statements of the setter, for a property that is written. */
  readonly setter?: readonly string[];
}

/** One of several signatures of a member, with its code. */
export interface CoveredSignature {
  /** Which of the signatures it is, from 0. */
  readonly index: number;
  /** Whether given arguments are of this signature, as an expression over `args`. */
  readonly test: string;
  readonly code: Pick<
    Candidate,
    "body" | "isAsync" | "isGenerator" | "returnsSelf" | "cost" | "notes" | "unusedOptions"
  >;
}

/** A candidate that has no code, with the reason. */
export interface RejectedCandidate {
  readonly uses: string;
  readonly name: number;
  readonly why: string;
}

/** The smallest similarity of names that makes a candidate. */
const LEAST_SIMILARITY = 0.45;
const MOST_CANDIDATES = 6;
/** The largest number of signatures that a member is adapted for. */
const MOST_SIGNATURES = 8;

/** Finds candidates for members of a target among those of an adaptee. */
export class CandidateSearch {
  readonly #conversions: Conversions;
  readonly #names: NameComparison;
  readonly #adaptee: readonly TypedMember[];
  readonly #calls: CallWriter;

  constructor(conversions: Conversions, names: NameComparison, adaptee: readonly TypedMember[]) {
    this.#conversions = conversions;
    this.#names = names;
    this.#adaptee = adaptee;
    this.#calls = new CallWriter(conversions, names);
  }

  /** Returns candidates and rejected, those with the most similar names first. */
  for(
    member: ChosenMember,
    typed: TypedMember,
  ): { readonly candidates: readonly Candidate[]; readonly rejected: readonly RejectedCandidate[] } {
    const ranked = this.#adaptee
      .map((other) => ({ other, name: this.#similarity(typed, other) }))
      .filter(({ name }) => name >= LEAST_SIMILARITY)
      .sort((left, right) => right.name - left.name)
      .slice(0, MOST_CANDIDATES);
    const candidates: Candidate[] = [];
    const rejected: RejectedCandidate[] = [];
    for (const { other, name } of ranked) {
      const found = this.#implementations(member, typed, other);
      if (typeof found === "string") rejected.push({ uses: other.name, name, why: found });
      else candidates.push(...found.map((made) => ({ uses: other.name, name, ...made })));
    }
    candidates.push(...this.#composed(member, typed));
    return { candidates, rejected };
  }

  /** Returns candidates that call a member of what another member returns: `station(name).heightAt(time)`. */
  #composed({ form }: ChosenMember, typed: TypedMember): readonly Candidate[] {
    const [written, ...others] = form.kind === "method" ? form.signatures : [];
    const [signature] = typed.signatures;
    if (!written || !signature || others.length > 0) return [];
    return this.#adaptee
      .filter(({ name }) => !NOT_WITHIN.test(name))
      .flatMap((outer) => this.#composedThrough(outer, { written, signature, typed }))
      .sort((left, right) => right.name - left.name)
      .slice(0, MOST_COMPOSED);
  }

  #composedThrough(outer: TypedMember, { written, signature, typed }: Composed): readonly Candidate[] {
    const conversions = this.#conversions;
    const [call] = outer.signatures;
    const held = call?.result ?? outer.type;
    const promised = conversions.promised(held);
    const own = promised ?? held;
    const isLate = promised !== undefined && conversions.promised(signature.result) === undefined;
    const inners = isLate || !conversions.isRecord(own) ? [] : conversions.membersOf(own);
    const given = givenParameters(written, signature);
    const first = call ? this.#calls.arguments(call.parameters, given) : NO_ARGUMENTS;
    if (typeof first === "string" || first.refused.length > 0) return [];
    const rest = given.filter((parameter) => !first.used.includes(parameter));
    const object = `${accessTo(outer.key)}${call ? `(${first.texts.join(", ")})` : ""}`;
    return inners.flatMap((inner): readonly Candidate[] => {
      const name = this.#composedName(typed.name, outer.name, inner.name, first.used.length > 0);
      if (name < LEAST_SIMILARITY || inner.isOptional || inner.key.startsWith('"')) return [];
      const [innerCall] = inner.signatures;
      const second = this.#calls.arguments(innerCall?.parameters ?? [], rest);
      if (typeof second === "string" || second.refused.length > 0) return [];
      const access = `${promised ? `(await ${object})` : object}.${inner.key}`;
      const made = this.#calls.result(
        innerCall ? `${access}(${second.texts.join(", ")})` : access,
        innerCall?.result ?? inner.type,
        { ...signature, isThis: written.result === "this" },
        typed.name,
        inner.name,
        { ...second, cost: second.cost + 0.04, notes: [`through \`${outer.name}\``, ...second.notes] },
      );
      if (typeof made === "string") return [];
      const uses = `${outer.name}.${inner.name}`;
      return made.map((one) => ({ ...one, isAsync: one.isAsync || promised !== undefined, uses, name }));
    });
  }

  /** Both names together, or the inner one if the outer member takes an argument, or else too little to be proposed. */
  #composedName(name: string, outer: string, inner: string, takesArgument: boolean): number {
    const both = this.#names.similarity(name, `${outer}${inner.charAt(0).toUpperCase()}${inner.slice(1)}`);
    if (both >= 0.9) return both * 0.97;
    const alone = this.#names.similarity(name, inner);
    return alone >= 0.9 ? alone * (takesArgument ? 0.93 : 0.65) : 0;
  }

  #similarity(typed: TypedMember, other: TypedMember): number {
    const similarity = this.#names.similarity(typed.name, other.name);
    // A property and a method of one name are often the same in two styles, but a verb is no property.
    const isSameKind = typed.signatures.length > 0 === other.signatures.length > 0;
    // A function that may be missing is one that the client gives, rather than calls.
    const isGiven =
      !other.isMethod && other.signatures.length > 0 && this.#conversions.mayBeMissing(other.type);
    return similarity * (isSameKind ? 1 : 0.95) * (isGiven ? 0.7 : 1);
  }

  #implementations(member: ChosenMember, typed: TypedMember, other: TypedMember): Made[] | string {
    const { form } = member;
    if (form.kind === "method") return this.#methods(form, typed, other);
    return this.#properties(form, typed, other);
  }

  #methods(form: MethodForm, typed: TypedMember, other: TypedMember): Made[] | string {
    const [first, ...others] = form.signatures;
    const [signature] = typed.signatures;
    if (!first || !signature) return "it cannot be called";
    if (others.length === 0) return this.#method(first, signature, typed, other);
    return this.#passedOn(typed, other) ?? this.#overloaded(form.signatures, typed, other);
  }

  #method(
    written: WrittenSignature,
    signature: TypedSignature,
    typed: TypedMember,
    other: TypedMember,
  ): Made[] | string {
    const access = accessTo(other.key);
    if (other.signatures.length === 0) {
      const result = this.#conversions.promised(signature.result) ?? signature.result;
      const needsArguments = signature.parameters.some(({ isOptional }) => !isOptional);
      if (needsArguments || this.#conversions.isVoid(result)) return `\`${other.name}\` is a property`;
      return this.#calls.result(access, other.type, signature, typed.name, other.name, {
        cost: 0.03,
        notes: ["a property becomes a method"],
      });
    }
    const made: Made[] = [];
    let why = "";
    for (const call of other.signatures.slice(-8)) {
      const found = this.#call(access, call, written, signature, typed, other);
      if (typeof found === "string") why ||= found;
      else made.push(...found);
    }
    return made.length > 0 ? made : why;
  }

  /** A method whose signatures the other one has too passes all arguments on as they are. */
  #passedOn(typed: TypedMember, other: TypedMember): Made[] | undefined {
    if (other.signatures.length === 0) return undefined;
    const access = accessTo(other.key);
    const isFluent =
      typed.signatures.every(({ result }) => this.#conversions.isTarget(result)) &&
      other.signatures.every(({ result }) => this.#conversions.isAdaptee(result));
    const call = `Reflect.apply(${access}, this.#adaptee, args)`;
    if (!this.#conversions.isAssignable(other.type, typed.type) || isFluent) return undefined;
    return [{ cost: 0, notes: [], isAsync: false, body: [`return ${call};`] }];
  }

  /** Covers as many of several signatures as possible. Arguments of the others throw. */
  #overloaded(written: readonly WrittenSignature[], typed: TypedMember, other: TypedMember): Made[] | string {
    const covered: CoveredSignature[] = [];
    let why = "";
    for (const [index, own] of written.entries()) {
      const signature = typed.signatures[index];
      if (!signature || covered.length === MOST_SIGNATURES) break;
      const found = this.#method(own, signature, typed, other);
      if (typeof found === "string") why ||= found;
      else {
        const [best] = found.toSorted((left, right) => left.cost - right.cost);
        if (best) covered.push({ index, test: this.#testOf(signature), code: best });
      }
    }
    if (covered.length === 0) return why || "its signatures differ";
    return [overloadedCandidate(covered, written.length)];
  }

  #testOf({ parameters }: TypedSignature): string {
    const rest = parameters.at(-1)?.isRest === true;
    const tests = parameters.flatMap(({ type, isOptional, isRest }, index) => {
      const value = `args[${index}]`;
      const test = isRest ? undefined : this.#conversions.testOf(value, type);
      if (test === undefined) return isRest || isOptional ? [] : [`args.length > ${index}`];
      const isEither = isOptional && !test.includes(`${value} === undefined`);
      const whole = isEither ? `${value} === undefined || ${test}` : test;
      return [whole.includes(" || ") ? `(${whole})` : whole];
    });
    return [...(rest ? [] : [`args.length <= ${parameters.length}`]), ...tests].join(" && ") || "true";
  }

  #call(
    access: string,
    call: TypedSignature,
    written: WrittenSignature,
    signature: TypedSignature,
    typed: TypedMember,
    other: TypedMember,
  ): Made[] | string {
    const given = givenParameters(written, signature);
    const [only] = given;
    // A list of any arguments is passed on as it is.
    if (
      given.length === 1 &&
      only?.isRest &&
      this.#conversions.isListOfAny(only.type) &&
      call.parameters.length > 0
    )
      return this.#calls.result(
        `Reflect.apply(${access}, this.#adaptee, ${only.text})`,
        call.result,
        { ...signature, isThis: written.result === "this" },
        typed.name,
        other.name,
        { cost: 0.02, notes: [] },
      );
    const last = call.parameters.at(-1);
    const callback = last && this.#conversions.callbackValue(last.type);
    const promised = this.#conversions.promised(signature.result);
    if (callback && promised && !this.#conversions.promised(call.result))
      return this.#promisified(access, call, given, promised, callback.value, typed, other);
    const calledBack = this.#callingBack(access, call, signature, given, typed, other);
    if (calledBack) return calledBack;
    const passed = this.#calls.arguments(call.parameters, given);
    if (typeof passed === "string") return passed;
    return this.#calls.result(
      `${access}(${passed.texts.join(", ")})`,
      call.result,
      { ...signature, isThis: written.result === "this" },
      typed.name,
      other.name,
      passed,
    );
  }

  /** A callback becomes a promise. */
  #promisified(
    access: string,
    call: TypedSignature,
    args: readonly GivenParameter[],
    promised: Type,
    value: Type | undefined,
    typed: TypedMember,
    other: TypedMember,
  ): Made[] | string {
    const passed = this.#calls.arguments(call.parameters.slice(0, -1), args);
    if (typeof passed === "string") return passed;
    if (passed.refused.length > 0) return "an argument that it needs may be missing";
    const isEmpty = value === undefined || this.#conversions.isVoid(promised);
    // Without an error, the value is there, although its type says that it may be missing.
    const given = value && this.#conversions.present(value);
    const result =
      isEmpty || !given
        ? { text: "undefined", cost: 0, notes: [] }
        : this.#calls.value(given === value ? "value" : "value!", given, promised, other.name, typed.name);
    if (!result || result.refused !== undefined) return "its value has another type";
    const parameters = isEmpty ? "(error)" : "(error, value)";
    const resolved = isEmpty ? "resolve()" : `resolve(${result.text})`;
    return [
      {
        cost: passed.cost + result.cost,
        notes: ["a callback becomes a promise", ...passed.notes, ...result.notes],
        unusedOptions: passed.unusedOptions ?? 0,
        isAsync: false,
        body: [
          ...passed.checks,
          "return new Promise((resolve, reject) => {",
          `  ${access}(${[...passed.texts, `${parameters} => {`].join(", ")}`,
          "    if (error) reject(error);",
          `    else ${resolved};`,
          "  });",
          "});",
        ],
      },
    ];
  }

  /** A promise becomes a callback. */
  #callingBack(
    access: string,
    call: TypedSignature,
    signature: TypedSignature,
    given: readonly GivenParameter[],
    typed: TypedMember,
    other: TypedMember,
  ): Made[] | undefined {
    const last = given.at(-1);
    const callback = last && this.#conversions.callbackValue(last.type);
    const promised = this.#conversions.promised(call.result);
    if (!last || !callback || !promised || !this.#conversions.isVoid(signature.result)) return undefined;
    const passed = this.#calls.arguments(call.parameters, given.slice(0, -1));
    if (typeof passed === "string") return undefined;
    const value =
      callback.value && this.#calls.value("value", promised, callback.value, other.name, typed.name);
    const done = value ? `(value) => ${last.text}(null, ${value.text})` : `() => ${last.text}(null)`;
    return [
      {
        cost: passed.cost,
        notes: ["a promise becomes a callback", ...passed.notes],
        isAsync: false,
        body: [`${access}(${passed.texts.join(", ")}).then(${done}, (error) => ${last.text}(error));`],
      },
    ];
  }

  #properties(form: PropertyForm, typed: TypedMember, other: TypedMember): Made[] | string {
    const access = accessTo(other.key);
    if (form.called && other.signatures.length > 0) {
      const setter = [`throw new TypeError(${stringLiteral(`${typed.name} cannot be replaced`)});`];
      if (this.#conversions.isAssignable(other.type, typed.type))
        return [
          { cost: 0, notes: [], isAsync: false, body: [`return ${access}.bind(this.#adaptee);`], setter },
        ];
      const made = this.#overloaded(form.called.signatures, typed, other);
      return typeof made === "string" ? made : made.map((one) => ({ ...one, setter }));
    }
    if (other.signatures.length > 0) {
      const call = other.signatures.find(({ parameters }) =>
        parameters.every(({ isOptional }) => isOptional),
      );
      if (!call) return `\`${other.name}\` needs arguments`;
      if (this.#conversions.isVoid(call.result)) return `\`${other.name}\` returns nothing`;
      if (form.written !== undefined) return `\`${other.name}\` is a method, which cannot be written`;
      return this.#calls.result(`${access}()`, call.result, { result: typed.type }, typed.name, other.name, {
        cost: 0.03,
        notes: ["a method becomes a property"],
      });
    }
    if (form.written !== undefined && other.isReadonly) return `\`${other.name}\` is only read`;
    const read = this.#calls.result(access, other.type, { result: typed.type }, typed.name, other.name, {
      cost: 0,
      notes: [],
    });
    if (typeof read === "string" || form.written === undefined) return read;
    const value = this.#calls.value("value", typed.type, other.type, typed.name, other.name);
    if (!value || value.refused !== undefined) return "what is written has another type";
    return read.map((made) => ({
      ...made,
      cost: made.cost + value.cost,
      setter: [`${access} = ${value.text};`],
    }));
  }
}

/** Number of candidates that call a member of another member's result. */
const MOST_COMPOSED = 2;

/** Members that lead to other objects, rather than to parts of this one, or that create objects. */
const NOT_WITHIN =
  /^(?:_|(?:parent|root|next|prev|previous|first|last|child|children|options?|opts|config|settings|constructor|prototype|then|create|new|open|connect|clone|copy|with|set|add|to|from|is|has|on)(?![a-z]))/;

const NO_ARGUMENTS = { texts: [], used: [] as readonly GivenParameter[], refused: [] };

/** A member of the target that a composition of two calls implements. */
interface Composed {
  readonly written: WrittenSignature;
  readonly signature: TypedSignature;
  readonly typed: TypedMember;
}

/** Puts the code of several signatures together. */
export function overloadedCandidate(covered: readonly CoveredSignature[], count: number): Made {
  const rest = count - covered.length;
  return {
    cost: Math.min(...covered.map(({ code }) => code.cost)) + (rest > 0 ? 0.04 : 0),
    unusedOptions: Math.min(...covered.map(({ code }) => code.unusedOptions ?? 0)),
    notes: [
      ...new Set(covered.flatMap(({ code }) => code.notes)),
      ...(rest > 0 ? [`covers ${covered.length} of ${count} signatures; the others throw`] : []),
    ],
    body: [],
    isAsync: false,
    overloads: covered,
  };
}

function accessTo(key: string): string {
  return key.startsWith('"') ? `this.#adaptee[${key}]` : `this.#adaptee.${key}`;
}
