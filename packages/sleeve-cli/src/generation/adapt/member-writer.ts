import type { Type } from "../../compiler/typescript.ts";
import { stringLiteral } from "../../written-text.ts";
import type { ChosenMember } from "../render/class.ts";
import type { MethodForm, PropertyForm, WrittenSignature } from "../target/signature-forms.ts";
import type { TypedMember, TypedSignature } from "./adaptee.ts";
import { CallWriter, type GivenParameter, givenParameters } from "./calls.ts";
import type { Conversions } from "./conversions.ts";
import { type CoveredSignature, type Implementation, overloadedImplementation } from "./implementation.ts";
import { convertNamed, type NamedValue, ResultWriter } from "./results.ts";
import type { NameComparison } from "./words.ts";

/** The largest number of signatures that a member is adapted for. */
const MOST_SIGNATURES = 8;

/** A member of the target, and the member of the adaptee that may implement it. */
interface MemberPair {
  readonly target: TypedMember;
  readonly adaptee: TypedMember;
}

/** A signature of the target's member, and one of the adaptee's member. */
interface SignaturePair extends MemberPair {
  readonly written: WrittenSignature;
  readonly signature: TypedSignature;
  readonly call: TypedSignature;
}

/** Writes members of a target by members of an adaptee. */
export class MemberWriter {
  readonly #conversions: Conversions;
  readonly #calls: CallWriter;
  readonly #results: ResultWriter;

  constructor(conversions: Conversions, names: NameComparison) {
    this.#conversions = conversions;
    this.#calls = new CallWriter(conversions, names);
    this.#results = new ResultWriter(conversions);
  }

  /** Returns the implementations of one member by another, or why there are none. */
  implementations({ form }: ChosenMember, pair: MemberPair): Implementation[] | string {
    if (form.kind === "method") return this.#methods(form, pair);
    if (form.called && pair.adaptee.signatures.length > 0)
      return this.#functionProperty(form.called.signatures, pair);
    return pair.adaptee.signatures.length > 0
      ? this.#propertyByMethod(form, pair)
      : this.#propertyByProperty(form, pair);
  }

  #methods({ signatures }: MethodForm, pair: MemberPair): Implementation[] | string {
    const [firstSignature, ...otherSignatures] = signatures;
    const [signature] = pair.target.signatures;
    if (!firstSignature || !signature) return "it cannot be called";
    if (otherSignatures.length === 0) return this.#method(firstSignature, signature, pair);
    return this.#passedOn(pair) ?? this.#overloaded(signatures, pair);
  }

  #method(written: WrittenSignature, signature: TypedSignature, pair: MemberPair): Implementation[] | string {
    const { target, adaptee } = pair;
    if (adaptee.signatures.length === 0) {
      const result = this.#conversions.promised(signature.result) ?? signature.result;
      const needsArguments = signature.parameters.some(({ isOptional }) => !isOptional);
      if (needsArguments || this.#conversions.isVoid(result)) return `\`${adaptee.name}\` is a property`;
      return this.#results.implementations({
        code: accessTo(adaptee.key),
        result: adaptee,
        member: { type: signature.result, name: target.name },
        arguments: { cost: 0.03, notes: ["a property becomes a method"] },
      });
    }
    const implementations: Implementation[] = [];
    let why = "";
    for (const call of adaptee.signatures.slice(-8)) {
      const attempt = this.#call({ ...pair, written, signature, call });
      if (typeof attempt === "string") why ||= attempt;
      else implementations.push(...attempt);
    }
    return implementations.length > 0 ? implementations : why;
  }

  /** A method whose signatures the adaptee's method has too passes all arguments on as they are. */
  #passedOn({ target, adaptee }: MemberPair): Implementation[] | undefined {
    if (adaptee.signatures.length === 0) return undefined;
    const isFluent =
      target.signatures.every(({ result }) => this.#conversions.isTarget(result)) &&
      adaptee.signatures.every(({ result }) => this.#conversions.isAdaptee(result));
    const call = `Reflect.apply(${accessTo(adaptee.key)}, this.#adaptee, args)`;
    if (!this.#conversions.isAssignable(adaptee.type, target.type) || isFluent) return undefined;
    return [{ cost: 0, notes: [], isAsync: false, body: [`return ${call};`] }];
  }

  /** Covers as many of several signatures as possible. Arguments of the others throw. */
  #overloaded(signatures: readonly WrittenSignature[], pair: MemberPair): Implementation[] | string {
    const covered: CoveredSignature[] = [];
    let why = "";
    for (const [index, written] of signatures.entries()) {
      const signature = pair.target.signatures[index];
      if (!signature || covered.length === MOST_SIGNATURES) break;
      const attempt = this.#method(written, signature, pair);
      if (typeof attempt === "string") why ||= attempt;
      else {
        const [best] = attempt.toSorted((left, right) => left.cost - right.cost);
        if (best) covered.push({ index, test: this.#testOf(signature), code: best });
      }
    }
    if (covered.length === 0) return why || "its signatures differ";
    return [overloadedImplementation(covered, signatures.length)];
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

  #call(pair: SignaturePair): Implementation[] | string {
    const { call, written, signature, target, adaptee } = pair;
    const parameters = givenParameters(written, signature);
    const member = { type: signature.result, name: target.name, isThis: written.result === "this" };
    const result = { type: call.result, name: adaptee.name };
    const access = accessTo(adaptee.key);
    const [onlyParameter] = parameters;
    // A list of any arguments is passed on as it is.
    if (onlyParameter && this.#takesAnything(parameters) && call.parameters.length > 0)
      return this.#results.implementations({
        code: `Reflect.apply(${access}, this.#adaptee, ${onlyParameter.text})`,
        result,
        member,
        arguments: { cost: 0.02, notes: [] },
      });
    const byCallback = this.#promisified(pair, parameters) ?? this.#callingBack(pair, parameters);
    if (byCallback) return byCallback;
    const argumentsOfCall = this.#calls.arguments(call.parameters, parameters);
    if (typeof argumentsOfCall === "string") return argumentsOfCall;
    return this.#results.implementations({
      code: `${access}(${argumentsOfCall.texts.join(", ")})`,
      result,
      member,
      arguments: argumentsOfCall,
    });
  }

  #takesAnything([parameter, ...otherParameters]: readonly GivenParameter[]): boolean {
    if (!parameter?.isRest || otherParameters.length > 0) return false;
    return this.#conversions.isListOfAny(parameter.type);
  }

  /** A callback becomes a promise. */
  #promisified(
    { call, signature, target, adaptee }: SignaturePair,
    parameters: readonly GivenParameter[],
  ): Implementation[] | string | undefined {
    const last = call.parameters.at(-1);
    const callback = last && this.#conversions.callbackValue(last.type);
    const promised = this.#conversions.promised(signature.result);
    if (!callback || !promised || this.#conversions.promised(call.result)) return undefined;
    const argumentsOfCall = this.#calls.arguments(call.parameters.slice(0, -1), parameters);
    if (typeof argumentsOfCall === "string") return argumentsOfCall;
    if (argumentsOfCall.refused.length > 0) return "an argument that it needs may be missing";
    const result = this.#resolved(callback.value, adaptee.name, { type: promised, name: target.name });
    if (!result || result.refused !== undefined) return "its value has another type";
    return [
      {
        cost: argumentsOfCall.cost + result.cost,
        notes: ["a callback becomes a promise", ...argumentsOfCall.notes, ...result.notes],
        unusedOptions: argumentsOfCall.unusedOptions ?? 0,
        isAsync: false,
        body: [
          ...argumentsOfCall.checks,
          "return new Promise((resolve, reject) => {",
          `  ${accessTo(adaptee.key)}(${[...argumentsOfCall.texts, `(${["error", ...result.parameters].join(", ")}) => {`].join(", ")}`,
          "    if (error) reject(error);",
          `    else resolve(${result.text});`,
          "  });",
          "});",
        ],
      },
    ];
  }

  /** The value that a promise resolves to, from that of a callback. */
  #resolved(value: Type | undefined, name: string, promised: NamedValue) {
    if (value === undefined || this.#conversions.isVoid(promised.type))
      return { parameters: [], text: "", cost: 0, notes: [], refused: undefined };
    // Without an error, the value is there, although its type says that it may be missing.
    const present = this.#conversions.present(value);
    const text = present === value ? "value" : "value!";
    const converted = convertNamed(this.#conversions, text, { type: present, name }, promised);
    return converted && { refused: undefined, ...converted, parameters: ["value"] };
  }

  /** A promise becomes a callback. */
  #callingBack(
    { call, signature, target, adaptee }: SignaturePair,
    parameters: readonly GivenParameter[],
  ): Implementation[] | undefined {
    const last = parameters.at(-1);
    const callback = last && this.#conversions.callbackValue(last.type);
    const promised = this.#conversions.promised(call.result);
    if (!callback || !promised || !this.#conversions.isVoid(signature.result)) return undefined;
    const argumentsOfCall = this.#calls.arguments(call.parameters, parameters.slice(0, -1));
    if (typeof argumentsOfCall === "string") return undefined;
    const value =
      callback.value &&
      convertNamed(
        this.#conversions,
        "value",
        { type: promised, name: adaptee.name },
        { type: callback.value, name: target.name },
      );
    const done = value ? `(value) => ${last.text}(null, ${value.text})` : `() => ${last.text}(null)`;
    const code = `${accessTo(adaptee.key)}(${argumentsOfCall.texts.join(", ")})`;
    return [
      {
        cost: argumentsOfCall.cost,
        notes: ["a promise becomes a callback", ...argumentsOfCall.notes],
        isAsync: false,
        body: [`${code}.then(${done}, (error) => ${last.text}(error));`],
      },
    ];
  }

  /** A property that holds a function, by a method. */
  #functionProperty(signatures: readonly WrittenSignature[], pair: MemberPair): Implementation[] | string {
    const { target, adaptee } = pair;
    const setter = [`throw new TypeError(${stringLiteral(`${target.name} cannot be replaced`)});`];
    if (this.#conversions.isAssignable(adaptee.type, target.type)) {
      const body = [`return ${accessTo(adaptee.key)}.bind(this.#adaptee);`];
      return [{ cost: 0, notes: [], isAsync: false, body, setter }];
    }
    const overloaded = this.#overloaded(signatures, pair);
    if (typeof overloaded === "string") return overloaded;
    return overloaded.map((implementation) => ({ ...implementation, setter }));
  }

  #propertyByMethod(form: PropertyForm, { target, adaptee }: MemberPair): Implementation[] | string {
    const call = adaptee.signatures.find(({ parameters }) =>
      parameters.every(({ isOptional }) => isOptional),
    );
    if (!call) return `\`${adaptee.name}\` needs arguments`;
    if (this.#conversions.isVoid(call.result)) return `\`${adaptee.name}\` returns nothing`;
    if (form.written !== undefined) return `\`${adaptee.name}\` is a method, which cannot be written`;
    return this.#results.implementations({
      code: `${accessTo(adaptee.key)}()`,
      result: { type: call.result, name: adaptee.name },
      member: target,
      arguments: { cost: 0.03, notes: ["a method becomes a property"] },
    });
  }

  #propertyByProperty(form: PropertyForm, { target, adaptee }: MemberPair): Implementation[] | string {
    const access = accessTo(adaptee.key);
    if (form.written !== undefined && adaptee.isReadonly) return `\`${adaptee.name}\` is only read`;
    const reads = this.#results.implementations({
      code: access,
      result: adaptee,
      member: target,
      arguments: { cost: 0, notes: [] },
    });
    if (typeof reads === "string" || form.written === undefined) return reads;
    const value = convertNamed(this.#conversions, "value", target, adaptee);
    if (!value || value.refused !== undefined) return "what is written has another type";
    return reads.map((implementation) => ({
      ...implementation,
      cost: implementation.cost + value.cost,
      setter: [`${access} = ${value.text};`],
    }));
  }
}

/** The expression of a member of the adaptee. */
export function accessTo(key: string): string {
  return key.startsWith('"') ? `this.#adaptee[${key}]` : `this.#adaptee.${key}`;
}
