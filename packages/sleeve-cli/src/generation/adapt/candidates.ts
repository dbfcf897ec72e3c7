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
      .map((adapteeMember) => ({ other: adapteeMember, name: this.#similarity(typed, adapteeMember) }))
      .filter(({ name }) => name >= LEAST_SIMILARITY)
      .sort((left, right) => right.name - left.name)
      .slice(0, MOST_CANDIDATES);
    const candidates: Candidate[] = [];
    const rejected: RejectedCandidate[] = [];
    for (const { other: adapteeMember, name } of ranked) {
      const implementations = this.#implementations(member, typed, adapteeMember);
      if (typeof implementations === "string")
        rejected.push({ uses: adapteeMember.name, name, why: implementations });
      else
        candidates.push(
          ...implementations.map((implementation) => ({ uses: adapteeMember.name, name, ...implementation })),
        );
    }
    candidates.push(...this.#composed(member, typed));
    return { candidates, rejected };
  }

  /** Returns candidates that call a member of what another member returns: `station(name).heightAt(time)`. */
  #composed({ form }: ChosenMember, typed: TypedMember): readonly Candidate[] {
    const [signatureText, ...others] = form.kind === "method" ? form.signatures : [];
    const [signature] = typed.signatures;
    if (!signatureText || !signature || others.length > 0) return [];
    return this.#adaptee
      .filter(({ name }) => !NOT_WITHIN.test(name))
      .flatMap((outer) => this.#composedThrough(outer, { written: signatureText, signature, typed }))
      .sort((left, right) => right.name - left.name)
      .slice(0, MOST_COMPOSED);
  }

  #composedThrough(outer: TypedMember, { written, signature, typed }: Composed): readonly Candidate[] {
    const conversions = this.#conversions;
    const [call] = outer.signatures;
    const outerResult = call?.result ?? outer.type;
    const promised = conversions.promised(outerResult);
    const innerType = promised ?? outerResult;
    const isLate = promised !== undefined && conversions.promised(signature.result) === undefined;
    const inners = isLate || !conversions.isRecord(innerType) ? [] : conversions.membersOf(innerType);
    const parameters = givenParameters(written, signature);
    const outerCall = call ? this.#calls.arguments(call.parameters, parameters) : NO_ARGUMENTS;
    if (typeof outerCall === "string" || outerCall.refused.length > 0) return [];
    const unusedParameters = parameters.filter((parameter) => !outerCall.used.includes(parameter));
    const object = `${accessTo(outer.key)}${call ? `(${outerCall.texts.join(", ")})` : ""}`;
    return inners.flatMap((inner): readonly Candidate[] => {
      const name = this.#composedName(typed.name, outer.name, inner.name, outerCall.used.length > 0);
      if (name < LEAST_SIMILARITY || inner.isOptional || inner.key.startsWith('"')) return [];
      const [innerCall] = inner.signatures;
      const second = this.#calls.arguments(innerCall?.parameters ?? [], unusedParameters);
      if (typeof second === "string" || second.refused.length > 0) return [];
      const access = `${promised ? `(await ${object})` : object}.${inner.key}`;
      const implementations = this.#calls.result(
        innerCall ? `${access}(${second.texts.join(", ")})` : access,
        innerCall?.result ?? inner.type,
        { ...signature, isThis: written.result === "this" },
        typed.name,
        inner.name,
        { ...second, cost: second.cost + 0.04, notes: [`through \`${outer.name}\``, ...second.notes] },
      );
      if (typeof implementations === "string") return [];
      const uses = `${outer.name}.${inner.name}`;
      return implementations.map((implementation) => ({
        ...implementation,
        isAsync: implementation.isAsync || promised !== undefined,
        uses,
        name,
      }));
    });
  }

  /** Both names together, or the inner one if the outer member takes an argument, or else too little to be proposed. */
  #composedName(name: string, outer: string, inner: string, takesArgument: boolean): number {
    const both = this.#names.similarity(name, `${outer}${inner.charAt(0).toUpperCase()}${inner.slice(1)}`);
    if (both >= 0.9) return both * 0.97;
    const alone = this.#names.similarity(name, inner);
    return alone >= 0.9 ? alone * (takesArgument ? 0.93 : 0.65) : 0;
  }

  #similarity(typed: TypedMember, adapteeMember: TypedMember): number {
    const similarity = this.#names.similarity(typed.name, adapteeMember.name);
    // A property and a method of one name are often the same in two styles, but a verb is no property.
    const isSameKind = typed.signatures.length > 0 === adapteeMember.signatures.length > 0;
    // A function that may be missing is one that the client gives, rather than calls.
    const isGiven =
      !adapteeMember.isMethod &&
      adapteeMember.signatures.length > 0 &&
      this.#conversions.mayBeMissing(adapteeMember.type);
    return similarity * (isSameKind ? 1 : 0.95) * (isGiven ? 0.7 : 1);
  }

  #implementations(member: ChosenMember, typed: TypedMember, adapteeMember: TypedMember): Made[] | string {
    const { form } = member;
    if (form.kind === "method") return this.#methods(form, typed, adapteeMember);
    return this.#properties(form, typed, adapteeMember);
  }

  #methods(form: MethodForm, typed: TypedMember, adapteeMember: TypedMember): Made[] | string {
    const [firstSignature, ...others] = form.signatures;
    const [signature] = typed.signatures;
    if (!firstSignature || !signature) return "it cannot be called";
    if (others.length === 0) return this.#method(firstSignature, signature, typed, adapteeMember);
    return this.#passedOn(typed, adapteeMember) ?? this.#overloaded(form.signatures, typed, adapteeMember);
  }

  #method(
    written: WrittenSignature,
    signature: TypedSignature,
    typed: TypedMember,
    adapteeMember: TypedMember,
  ): Made[] | string {
    const access = accessTo(adapteeMember.key);
    if (adapteeMember.signatures.length === 0) {
      const result = this.#conversions.promised(signature.result) ?? signature.result;
      const needsArguments = signature.parameters.some(({ isOptional }) => !isOptional);
      if (needsArguments || this.#conversions.isVoid(result))
        return `\`${adapteeMember.name}\` is a property`;
      return this.#calls.result(access, adapteeMember.type, signature, typed.name, adapteeMember.name, {
        cost: 0.03,
        notes: ["a property becomes a method"],
      });
    }
    const implementations: Made[] = [];
    let why = "";
    for (const call of adapteeMember.signatures.slice(-8)) {
      const attempt = this.#call(access, call, written, signature, typed, adapteeMember);
      if (typeof attempt === "string") why ||= attempt;
      else implementations.push(...attempt);
    }
    return implementations.length > 0 ? implementations : why;
  }

  /** A method whose signatures the other one has too passes all arguments on as they are. */
  #passedOn(typed: TypedMember, adapteeMember: TypedMember): Made[] | undefined {
    if (adapteeMember.signatures.length === 0) return undefined;
    const access = accessTo(adapteeMember.key);
    const isFluent =
      typed.signatures.every(({ result }) => this.#conversions.isTarget(result)) &&
      adapteeMember.signatures.every(({ result }) => this.#conversions.isAdaptee(result));
    const call = `Reflect.apply(${access}, this.#adaptee, args)`;
    if (!this.#conversions.isAssignable(adapteeMember.type, typed.type) || isFluent) return undefined;
    return [{ cost: 0, notes: [], isAsync: false, body: [`return ${call};`] }];
  }

  /** Covers as many of several signatures as possible. Arguments of the others throw. */
  #overloaded(
    signatures: readonly WrittenSignature[],
    typed: TypedMember,
    adapteeMember: TypedMember,
  ): Made[] | string {
    const covered: CoveredSignature[] = [];
    let why = "";
    for (const [index, signatureText] of signatures.entries()) {
      const signature = typed.signatures[index];
      if (!signature || covered.length === MOST_SIGNATURES) break;
      const attempt = this.#method(signatureText, signature, typed, adapteeMember);
      if (typeof attempt === "string") why ||= attempt;
      else {
        const [best] = attempt.toSorted((left, right) => left.cost - right.cost);
        if (best) covered.push({ index, test: this.#testOf(signature), code: best });
      }
    }
    if (covered.length === 0) return why || "its signatures differ";
    return [overloadedCandidate(covered, signatures.length)];
  }

  #testOf({ parameters }: TypedSignature): string {
    const hasRest = parameters.at(-1)?.isRest === true;
    const tests = parameters.flatMap(({ type, isOptional, isRest }, index) => {
      const value = `args[${index}]`;
      const test = isRest ? undefined : this.#conversions.testOf(value, type);
      if (test === undefined) return isRest || isOptional ? [] : [`args.length > ${index}`];
      const isEither = isOptional && !test.includes(`${value} === undefined`);
      const condition = isEither ? `${value} === undefined || ${test}` : test;
      return [condition.includes(" || ") ? `(${condition})` : condition];
    });
    return [...(hasRest ? [] : [`args.length <= ${parameters.length}`]), ...tests].join(" && ") || "true";
  }

  #call(
    access: string,
    call: TypedSignature,
    written: WrittenSignature,
    signature: TypedSignature,
    typed: TypedMember,
    adapteeMember: TypedMember,
  ): Made[] | string {
    const givenOnes = givenParameters(written, signature);
    const [onlyParameter] = givenOnes;
    // A list of any arguments is passed on as it is.
    if (
      givenOnes.length === 1 &&
      onlyParameter?.isRest &&
      this.#conversions.isListOfAny(onlyParameter.type) &&
      call.parameters.length > 0
    )
      return this.#calls.result(
        `Reflect.apply(${access}, this.#adaptee, ${onlyParameter.text})`,
        call.result,
        { ...signature, isThis: written.result === "this" },
        typed.name,
        adapteeMember.name,
        { cost: 0.02, notes: [] },
      );
    const last = call.parameters.at(-1);
    const callback = last && this.#conversions.callbackValue(last.type);
    const promised = this.#conversions.promised(signature.result);
    if (callback && promised && !this.#conversions.promised(call.result))
      return this.#promisified(access, call, givenOnes, promised, callback.value, typed, adapteeMember);
    const calledBack = this.#callingBack(access, call, signature, givenOnes, typed, adapteeMember);
    if (calledBack) return calledBack;
    const argumentsOfCall = this.#calls.arguments(call.parameters, givenOnes);
    if (typeof argumentsOfCall === "string") return argumentsOfCall;
    return this.#calls.result(
      `${access}(${argumentsOfCall.texts.join(", ")})`,
      call.result,
      { ...signature, isThis: written.result === "this" },
      typed.name,
      adapteeMember.name,
      argumentsOfCall,
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
    adapteeMember: TypedMember,
  ): Made[] | string {
    const argumentsOfCall = this.#calls.arguments(call.parameters.slice(0, -1), args);
    if (typeof argumentsOfCall === "string") return argumentsOfCall;
    if (argumentsOfCall.refused.length > 0) return "an argument that it needs may be missing";
    const isEmpty = value === undefined || this.#conversions.isVoid(promised);
    // Without an error, the value is there, although its type says that it may be missing.
    const present = value && this.#conversions.present(value);
    const result =
      isEmpty || !present
        ? { text: "undefined", cost: 0, notes: [] }
        : this.#calls.value(
            present === value ? "value" : "value!",
            present,
            promised,
            adapteeMember.name,
            typed.name,
          );
    if (!result || result.refused !== undefined) return "its value has another type";
    const parameters = isEmpty ? "(error)" : "(error, value)";
    const resolved = isEmpty ? "resolve()" : `resolve(${result.text})`;
    return [
      {
        cost: argumentsOfCall.cost + result.cost,
        notes: ["a callback becomes a promise", ...argumentsOfCall.notes, ...result.notes],
        unusedOptions: argumentsOfCall.unusedOptions ?? 0,
        isAsync: false,
        body: [
          ...argumentsOfCall.checks,
          "return new Promise((resolve, reject) => {",
          `  ${access}(${[...argumentsOfCall.texts, `${parameters} => {`].join(", ")}`,
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
    adapteeMember: TypedMember,
  ): Made[] | undefined {
    const last = given.at(-1);
    const callback = last && this.#conversions.callbackValue(last.type);
    const promised = this.#conversions.promised(call.result);
    if (!last || !callback || !promised || !this.#conversions.isVoid(signature.result)) return undefined;
    const argumentsOfCall = this.#calls.arguments(call.parameters, given.slice(0, -1));
    if (typeof argumentsOfCall === "string") return undefined;
    const value =
      callback.value && this.#calls.value("value", promised, callback.value, adapteeMember.name, typed.name);
    const done = value ? `(value) => ${last.text}(null, ${value.text})` : `() => ${last.text}(null)`;
    return [
      {
        cost: argumentsOfCall.cost,
        notes: ["a promise becomes a callback", ...argumentsOfCall.notes],
        isAsync: false,
        body: [
          `${access}(${argumentsOfCall.texts.join(", ")}).then(${done}, (error) => ${last.text}(error));`,
        ],
      },
    ];
  }

  #properties(form: PropertyForm, typed: TypedMember, adapteeMember: TypedMember): Made[] | string {
    const access = accessTo(adapteeMember.key);
    if (form.called && adapteeMember.signatures.length > 0) {
      const setter = [`throw new TypeError(${stringLiteral(`${typed.name} cannot be replaced`)});`];
      if (this.#conversions.isAssignable(adapteeMember.type, typed.type))
        return [
          { cost: 0, notes: [], isAsync: false, body: [`return ${access}.bind(this.#adaptee);`], setter },
        ];
      const overloaded = this.#overloaded(form.called.signatures, typed, adapteeMember);
      return typeof overloaded === "string"
        ? overloaded
        : overloaded.map((implementation) => ({ ...implementation, setter }));
    }
    if (adapteeMember.signatures.length > 0) {
      const call = adapteeMember.signatures.find(({ parameters }) =>
        parameters.every(({ isOptional }) => isOptional),
      );
      if (!call) return `\`${adapteeMember.name}\` needs arguments`;
      if (this.#conversions.isVoid(call.result)) return `\`${adapteeMember.name}\` returns nothing`;
      if (form.written !== undefined) return `\`${adapteeMember.name}\` is a method, which cannot be written`;
      return this.#calls.result(
        `${access}()`,
        call.result,
        { result: typed.type },
        typed.name,
        adapteeMember.name,
        {
          cost: 0.03,
          notes: ["a method becomes a property"],
        },
      );
    }
    if (form.written !== undefined && adapteeMember.isReadonly)
      return `\`${adapteeMember.name}\` is only read`;
    const read = this.#calls.result(
      access,
      adapteeMember.type,
      { result: typed.type },
      typed.name,
      adapteeMember.name,
      {
        cost: 0,
        notes: [],
      },
    );
    if (typeof read === "string" || form.written === undefined) return read;
    const value = this.#calls.value("value", typed.type, adapteeMember.type, typed.name, adapteeMember.name);
    if (!value || value.refused !== undefined) return "what is written has another type";
    return read.map((implementation) => ({
      ...implementation,
      cost: implementation.cost + value.cost,
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
  const uncovered = count - covered.length;
  return {
    cost: Math.min(...covered.map(({ code }) => code.cost)) + (uncovered > 0 ? 0.04 : 0),
    unusedOptions: Math.min(...covered.map(({ code }) => code.unusedOptions ?? 0)),
    notes: [
      ...new Set(covered.flatMap(({ code }) => code.notes)),
      ...(uncovered > 0 ? [`covers ${covered.length} of ${count} signatures; the others throw`] : []),
    ],
    body: [],
    isAsync: false,
    overloads: covered,
  };
}

function accessTo(key: string): string {
  return key.startsWith('"') ? `this.#adaptee[${key}]` : `this.#adaptee.${key}`;
}
