import { type Type, TypeFlags } from "../../compiler/typescript.ts";
import type { MethodForm, PropertyForm, WrittenSignature } from "../members.ts";
import type { ChosenMember } from "../render/class.ts";
import { isOpenType, type TypedMember, type TypedParameter, type TypedSignature } from "./adaptee.ts";
import type { Conversions, Converted, Refused } from "./conversions.ts";
import { unitConversion } from "./units.ts";
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
  readonly code: Pick<Candidate, "body" | "isAsync" | "isGenerator" | "cost" | "notes" | "unusedOptions">;
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

  constructor(conversions: Conversions, names: NameComparison, adaptee: readonly TypedMember[]) {
    this.#conversions = conversions;
    this.#names = names;
    this.#adaptee = adaptee;
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
    const inners = isLate || !conversions.isRecord(own) ? [] : (this.#fieldsOf?.(own) ?? []);
    const given = givenParameters(written, signature);
    const first = call ? this.#arguments(call.parameters, given) : NO_ARGUMENTS;
    if (typeof first === "string" || first.refused.length > 0) return [];
    const rest = given.filter((parameter) => !first.used.includes(parameter));
    const object = `${accessTo(outer.key)}${call ? `(${first.texts.join(", ")})` : ""}`;
    return inners.flatMap((inner): readonly Candidate[] => {
      const name = this.#composedName(typed.name, outer.name, inner.name, first.used.length > 0);
      if (name < LEAST_SIMILARITY || inner.isOptional || inner.key.startsWith('"')) return [];
      const [innerCall] = inner.signatures;
      const second = this.#arguments(innerCall?.parameters ?? [], rest);
      if (typeof second === "string" || second.refused.length > 0) return [];
      const access = `${promised ? `(await ${object})` : object}.${inner.key}`;
      const made = this.#withResult(
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
      return this.#withResult(access, other.type, signature, typed.name, other.name, {
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
      return this.#withResult(
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
    const passed = this.#arguments(call.parameters, given);
    if (typeof passed === "string") return passed;
    return this.#withResult(
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
    const passed = this.#arguments(call.parameters.slice(0, -1), args);
    if (typeof passed === "string") return passed;
    if (passed.refused.length > 0) return "an argument that it needs may be missing";
    const isEmpty = value === undefined || this.#conversions.isVoid(promised);
    // Without an error, the value is there, although its type says that it may be missing.
    const given = value && this.#conversions.present(value);
    const result =
      isEmpty || !given
        ? { text: "undefined", cost: 0, notes: [] }
        : this.#value(given === value ? "value" : "value!", given, promised, other.name, typed.name);
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
    const passed = this.#arguments(call.parameters, given.slice(0, -1));
    if (typeof passed === "string") return undefined;
    const value = callback.value && this.#value("value", promised, callback.value, other.name, typed.name);
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

  /** Writes the arguments of a call from those that are given. */
  #arguments(
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
      const value = from && this.#value(given.text, from, to, given.name, wanted.name);
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
    const fields = this.#fieldsOf?.(wanted.type) ?? [];
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
          ? this.#value(best.parameter.text, best.parameter.type, field.type, best.parameter.name, field.name)
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

  #fieldsOf: ((type: Type) => readonly TypedMember[]) | undefined;

  /** Sets what reads the fields of objects of options. */
  readFieldsWith(fieldsOf: (type: Type) => readonly TypedMember[]): void {
    this.#fieldsOf = fieldsOf;
  }

  /** Returns a call's result as that of a method or getter. */
  #withResult(
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
          `if (code !== 0) throw Object.assign(new Error(${JSON.stringify(`${name}: error number `)} + String(code)), { code });`,
        ]);
      const unused = conversions.isVoid(own)
        ? { cost: 0, notes: [] }
        : { cost: 0.02, notes: ["its result is not used"] };
      const isAwaited = promised !== undefined && given !== undefined;
      return made(unused, promised !== undefined, [
        isAwaited ? `await ${call};` : isLate ? `void ${call};` : `${call};`,
      ]);
    }
    // A fluent method returns its own object.
    if (conversions.isTarget(inner) && conversions.isVoid(own))
      return made({ cost: 0, notes: ["returns the adapter"] }, becomesAsync, [`${call};`, "return this;"]);
    if (conversions.isVoid(own)) return "it returns nothing";
    const isStep = given === undefined && promised === undefined && conversions.isIterator(wanted);
    if (isStep && conversions.isIterable(own) && !conversions.isAssignable(own, wanted))
      return [
        { ...made({ cost: 0.03, notes: [] }, false, [`yield* ${call};`])[0], isGenerator: true } as Made,
      ];
    const direct = this.#value(call, own, inner, otherName, name);
    if (direct && direct.refused === undefined && (given === undefined || direct.text === call))
      return made(direct, becomesAsync || (checks.length > 0 && promised !== undefined), [
        `return ${direct.text}${isThis ? " as this" : ""};`,
      ]);
    const value = this.#value("value", own, inner, otherName, name);
    if (!value) return "its result has another type";
    return made(value, promised !== undefined, [
      `const value = ${given === undefined ? "" : "await "}${call};`,
      ...(value.refused === undefined ? [] : [refusal(value.refused, name)]),
      `return ${value.text};`,
    ]);
  }

  /** Converts a value, and the units that the names of both places contain. */
  #value(text: string, from: Type, to: Type, fromName: string, toName: string): Converted | undefined {
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

  #properties(form: PropertyForm, typed: TypedMember, other: TypedMember): Made[] | string {
    const access = accessTo(other.key);
    if (form.called && other.signatures.length > 0) {
      const setter = [`throw new TypeError(${JSON.stringify(`${typed.name} cannot be replaced`)});`];
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
      return this.#withResult(`${access}()`, call.result, { result: typed.type }, typed.name, other.name, {
        cost: 0.03,
        notes: ["a method becomes a property"],
      });
    }
    if (form.written !== undefined && other.isReadonly) return `\`${other.name}\` is only read`;
    const read = this.#withResult(access, other.type, { result: typed.type }, typed.name, other.name, {
      cost: 0,
      notes: [],
    });
    if (typeof read === "string" || form.written === undefined) return read;
    const value = this.#value("value", typed.type, other.type, typed.name, other.name);
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

function givenParameters(
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

type Made = Omit<Candidate, "uses" | "name">;

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

interface Cost {
  readonly cost: number;
  readonly notes: readonly string[];
  /** Arguments that cannot be converted. */
  readonly refused?: readonly Refused[];
  readonly unusedOptions?: number;
  /** Statements that throw if an argument is given that is not used. */
  readonly checks?: readonly string[];
}

/** The statement that throws if an argument is given that is not used. */
function unadapted({ text, name, isRest }: GivenParameter): string {
  const isGiven = isRest ? `${text}.length > 0` : `${text} !== undefined`;
  return `if (${isGiven}) throw new TypeError(${JSON.stringify(`${name} is not adapted`)});`;
}

/** The statement that throws if a value cannot be converted. */
function refusal({ condition, reason }: Refused, member: string): string {
  return `if (${condition}) throw new TypeError(${JSON.stringify(`${member}: ${reason}`)});`;
}

interface GivenParameter extends TypedParameter {
  /** The expression of its value. */
  readonly text: string;
}

function accessTo(key: string): string {
  return key.startsWith('"') ? `this.#adaptee[${key}]` : `this.#adaptee.${key}`;
}
