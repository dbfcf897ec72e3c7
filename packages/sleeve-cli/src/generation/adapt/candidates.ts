import type { ChosenMember } from "../render/class.ts";
import type { WrittenSignature } from "../target/signature-forms.ts";
import type { TypedMember, TypedSignature } from "./adaptee.ts";
import { CallWriter, type GivenParameter, givenParameters } from "./calls.ts";
import type { Conversions } from "./conversions.ts";
import type { Candidate, RejectedCandidate } from "./implementation.ts";
import { accessTo, MemberWriter } from "./member-writer.ts";
import { ResultWriter } from "./results.ts";
import type { NameComparison } from "./words.ts";

/** The smallest similarity of names that makes a candidate. */
const LEAST_SIMILARITY = 0.45;
const MOST_CANDIDATES = 6;

/** Finds candidates for members of a target among those of an adaptee. */
export class CandidateSearch {
  readonly #conversions: Conversions;
  readonly #names: NameComparison;
  readonly #adaptee: readonly TypedMember[];
  readonly #members: MemberWriter;
  readonly #calls: CallWriter;
  readonly #results: ResultWriter;

  constructor(conversions: Conversions, names: NameComparison, adaptee: readonly TypedMember[]) {
    this.#conversions = conversions;
    this.#names = names;
    this.#adaptee = adaptee;
    this.#members = new MemberWriter(conversions, names);
    this.#calls = new CallWriter(conversions, names);
    this.#results = new ResultWriter(conversions);
  }

  /** Returns candidates and rejected, those with the most similar names first. */
  for(
    member: ChosenMember,
    typed: TypedMember,
  ): { readonly candidates: readonly Candidate[]; readonly rejected: readonly RejectedCandidate[] } {
    const ranked = this.#adaptee
      .map((adapteeMember) => ({ adapteeMember, name: this.#similarity(typed, adapteeMember) }))
      .filter(({ name }) => name >= LEAST_SIMILARITY)
      .sort((left, right) => right.name - left.name)
      .slice(0, MOST_CANDIDATES);
    const candidates: Candidate[] = [];
    const rejected: RejectedCandidate[] = [];
    for (const { adapteeMember, name } of ranked) {
      const implementations = this.#members.implementations(member, {
        target: typed,
        adaptee: adapteeMember,
      });
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
      const implementations = this.#results.implementations({
        code: innerCall ? `${access}(${second.texts.join(", ")})` : access,
        result: { type: innerCall?.result ?? inner.type, name: inner.name },
        member: { type: signature.result, name: typed.name, isThis: written.result === "this" },
        arguments: {
          ...second,
          cost: second.cost + 0.04,
          notes: [`through \`${outer.name}\``, ...second.notes],
        },
      });
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
