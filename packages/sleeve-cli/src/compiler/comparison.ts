import { ModifierFlags } from "typescript/unstable/ast";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  type Signature,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "typescript/unstable/sync";
import type { Candidate, TargetMember } from "./candidates.ts";
import { awaited } from "./exported.ts";
import { Fit, type Misfit } from "./fit.ts";
import { declaresThis, isOptionalParameter, parametersOf } from "./parameters.ts";
import { modifiersOf } from "./syntax.ts";
import { isReadonly } from "./type-text.ts";
import { anyWithin } from "./untyped.ts";

/** One member of a target, and what a wrapper has in its place, as the compiler sees them. */
export interface MemberComparison {
  readonly target: MemberView;
  readonly found: MemberView;
  /** For each signature of the target, the wrapper's signature that comes nearest. Empty for properties. */
  readonly signatures: readonly SignatureComparison[];
  /** What is wrong with what is read, beside what the target promises. Told of properties only. */
  readonly reading: Misfit | undefined;
  /** What is wrong with taking what the target's type lets clients write. Told of properties only. */
  readonly writing: Misfit | undefined;
}

export type MemberKind = "method" | "class" | "property";

export interface MemberView {
  readonly kind: MemberKind;
  readonly isOptional: boolean;
  readonly isReadonly: boolean;
  /** Whether clients are kept from it: `private` or `protected`. */
  readonly isHidden: boolean;
  /** The way to an `any` in its type, `""` for the type itself. Of methods, only where the type itself is `any`. */
  readonly any: string | undefined;
  readonly text: string;
}

export interface SignatureComparison {
  readonly expected: string;
  readonly found: string;
  readonly fits: boolean;
  /** Whether either has type parameters, so that a misfit may only be told of the two as a whole. */
  readonly isGeneric: boolean;
  readonly parameters: readonly ParameterComparison[];
  /** How many arguments it needs, and how many the target sends at most. */
  readonly needs: number;
  readonly sent: number;
  /** The names of what the target sends and the signature does not take. */
  readonly dropped: readonly string[];
  readonly result: ResultComparison;
  /** The signature that stands before it and takes its calls, where that promises something else. */
  readonly hiddenBy: string | undefined;
}

export interface ParameterComparison {
  readonly name: string;
  readonly misfit: Misfit | undefined;
  readonly any: string | undefined;
  readonly expected: string;
  readonly found: string;
}

export interface ResultComparison {
  readonly misfit: Misfit | undefined;
  readonly any: string | undefined;
  readonly isVoidExpected: boolean;
  readonly isPromiseExpected: boolean;
  readonly isPromiseFound: boolean;
  readonly expected: string;
  readonly found: string;
}

/** Compares the members of one target with those of one wrapper. */
export class Comparison {
  readonly #checker: Checker;
  readonly #isOwn: (path: string) => boolean;
  readonly #fit: Fit;
  readonly #wrapper: Type;

  constructor(checker: Checker, isOwn: (path: string) => boolean, wrapper: Type) {
    this.#checker = checker;
    this.#isOwn = isOwn;
    this.#fit = new Fit(checker, isOwn);
    this.#wrapper = wrapper;
  }

  /** Asks the compiler for all that is needed to judge one member. */
  member(target: TargetMember, candidate: Candidate): MemberComparison {
    const checker = this.#checker;
    const { type: declared, symbol, signatureKind } = target;
    const expected = checker.getNonNullableType(declared) ?? declared;
    const mayBeAbsent = [symbol, candidate.symbol].some((each) => each !== undefined && isOptional(each));
    const found = (mayBeAbsent && checker.getNonNullableType(candidate.type)) || candidate.type;
    const ours = checker.getSignaturesOfType(found, signatureKind);
    const theirs = checker.getSignaturesOfType(expected, signatureKind);
    const isCalled = theirs.length > 0;
    // With a parameter that the target does not know of, the two cannot be compared as a whole.
    const isWhole = candidate.leading > 0 || checker.isTypeAssignableTo(found, expected);
    const view = this.#view(candidate.symbol, candidate.type, target, ours.length > 0);
    return {
      target: this.#view(symbol, declared, target, isCalled),
      found: { ...view, isReadonly: view.isReadonly || candidate.isReadonly },
      signatures:
        ours.length > 0 ? theirs.map((each) => this.#nearest(each, ours, candidate.leading, isWhole)) : [],
      reading: isCalled ? undefined : this.#valueMisfit(symbol, candidate.type, declared),
      writing: isCalled ? undefined : this.#fit.misfit(declared, candidate.type),
    };
  }

  #view(
    symbol: CompilerSymbol | undefined,
    type: Type,
    { call }: TargetMember,
    isCalled: boolean,
  ): MemberView {
    const checker = this.#checker;
    const any = isCalled ? (isAny(type) ? "" : undefined) : anyWithin(checker, this.#isOwn, type);
    return {
      kind: !isCalled ? "property" : call === "new" ? "class" : "method",
      isOptional: symbol !== undefined && isOptional(symbol),
      isReadonly: symbol !== undefined && isReadonly(symbol),
      isHidden: symbol !== undefined && (modifiersOfSymbol(symbol) & HIDDEN) !== 0,
      any,
      text: checker.typeToString(type),
    };
  }

  /** A property that holds the object itself is held by the wrapper as itself. */
  #valueMisfit(symbol: CompilerSymbol | undefined, found: Type, expected: Type): Misfit | undefined {
    const isItself = declaresThis(symbol?.valueDeclaration?.resolve());
    return isItself ? this.#selfMisfit(found) : this.#fit.misfit(found, expected);
  }

  #selfMisfit(found: Type): Misfit | undefined {
    if (this.#checker.isTypeAssignableTo(found, this.#wrapper)) return undefined;
    const text = this.#checker.typeToString(found);
    return { kind: "type", path: "", expected: "this, the wrapper itself", found: text };
  }

  /** The signature that serves the target's, or else the one with the fewest faults. */
  #nearest(
    target: Signature,
    ours: readonly Signature[],
    leading: number,
    isWhole: boolean,
  ): SignatureComparison {
    const compared = ours.map((each) => this.#signatures(target, each, leading, isWhole));
    const faults = ({ fits, parameters, result }: SignatureComparison) =>
      fits ? 0 : 1 + parameters.filter((each) => each.misfit).length + (result.misfit ? 1 : 0);
    // There is at least one signature, or the members would be of different kinds.
    const best = compared.reduce((least, each) => (faults(each) < faults(least) ? each : least));
    const earlier = compared.slice(0, compared.indexOf(best)).find(takesTheCalls);
    return { ...best, hiddenBy: best.fits ? earlier?.found : undefined };
  }

  #signatures(target: Signature, found: Signature, leading: number, isWhole: boolean): SignatureComparison {
    const checker = this.#checker;
    const isGeneric = [target, found].some(({ typeParameters = [] }) => typeParameters.length > 0);
    const taken = found.getParameters().slice(leading);
    const misfit = isGeneric && leading === 0 ? this.#fit.signatureMisfit(found, target, "", 0) : undefined;
    const parameters = isGeneric ? [] : this.#parameters(target, found, leading);
    const result = this.#result(target, found, isGeneric ? misfit : undefined, isGeneric && isWhole);
    const needs =
      taken.filter((each) => !isOptionalParameter(each)).length - (found.hasRestParameter ? 1 : 0);
    const names = target.getParameters().map(({ name }) => name);
    return {
      expected: signatureText(checker, target, 0),
      found: signatureText(checker, found, leading),
      isGeneric,
      fits:
        needs <= (target.hasRestParameter ? Number.POSITIVE_INFINITY : names.length) &&
        !result.misfit &&
        parameters.every((each) => !each.misfit),
      parameters,
      needs,
      sent: target.hasRestParameter ? Number.POSITIVE_INFINITY : names.length,
      dropped: found.hasRestParameter ? [] : names.slice(Math.max(0, taken.length)),
      result,
      hiddenBy: undefined,
    };
  }

  #parameters(target: Signature, found: Signature, leading: number): ParameterComparison[] {
    const checker = this.#checker;
    const taken = parametersOf(checker, found, leading);
    const compared: ParameterComparison[] = [];
    for (const [index, { name, type: sent }] of parametersOf(checker, target).entries()) {
      const place = taken.at(index);
      if (!place) break;
      compared.push({
        name,
        misfit: this.#fit.misfit(sent, place.type),
        any: isAny(sent) ? undefined : anyWithin(checker, this.#isOwn, place.type),
        expected: checker.typeToString(sent),
        found: checker.typeToString(place.type),
      });
    }
    return [...this.#receiver(target, found), ...compared];
  }

  /** `this`, where a signature declares it: the wrapper, or nothing where the target's member is called alone. */
  #receiver(target: Signature, found: Signature): readonly ParameterComparison[] {
    const checker = this.#checker;
    const [wanted, given] = [target, found].map((each) => {
      const parameter = each.getThisParameter();
      return parameter && checker.getTypeOfSymbol(parameter);
    });
    if (!given || (given.flags & (TypeFlags.Void | TypeFlags.AnyOrUnknown)) !== 0) return [];
    const sent = wanted ?? this.#wrapper;
    if (checker.isTypeAssignableTo(sent, given)) return [];
    const [expected, text] = [sent, given].map((each) => checker.typeToString(each)) as [string, string];
    const misfit: Misfit = { kind: "parameter", path: "", expected, found: text };
    return [{ name: "this", misfit, any: undefined, expected, found: text }];
  }

  #result(
    target: Signature,
    found: Signature,
    generic: Misfit | undefined,
    isWholeFit: boolean,
  ): ResultComparison {
    const checker = this.#checker;
    const expected = checker.getReturnTypeOfSignature(target) ?? checker.getUnknownType();
    const actual = checker.getReturnTypeOfSignature(found) ?? checker.getUnknownType();
    const promised = awaited(checker, expected);
    const delivered = awaited(checker, actual);
    const isVoidExpected = (expected.flags & TypeFlags.Void) !== 0;
    const misfit = isVoidExpected
      ? undefined
      : declaresThis(target.declaration?.resolve())
        ? this.#selfMisfit(actual)
        : isWholeFit
          ? undefined
          : this.#fit.misfit(actual, expected);
    const [expectedText, foundText] = [expected, actual].map((each) => checker.typeToString(each)) as [
      string,
      string,
    ];
    return {
      misfit: generic ?? misfit,
      any: isVoidExpected
        ? undefined
        : (anyWithin(checker, this.#isOwn, delivered ?? actual) ??
          anyWithin(checker, this.#isOwn, promised ?? expected)),
      isVoidExpected,
      isPromiseExpected: promised !== undefined,
      isPromiseFound: delivered !== undefined,
      expected: expectedText,
      found: foundText,
    };
  }
}

/** Whether a signature takes all that the target sends, though it does not give what the target promises. */
function takesTheCalls({ fits, parameters, needs, sent, isGeneric, result }: SignatureComparison): boolean {
  return (
    !fits &&
    !isGeneric &&
    needs <= sent &&
    parameters.every((each) => !each.misfit) &&
    result.misfit !== undefined
  );
}

function isOptional(symbol: CompilerSymbol): boolean {
  return (symbol.flags & SymbolFlags.Optional) !== 0;
}

const HIDDEN = ModifierFlags.Private | ModifierFlags.Protected;

function modifiersOfSymbol(symbol: CompilerSymbol): number {
  const declaration = symbol.valueDeclaration?.resolve();
  return declaration ? modifiersOf(declaration) : 0;
}

function isAny(type: Type): boolean {
  return (type.flags & TypeFlags.Any) !== 0;
}

function signatureText(checker: Checker, signature: Signature, leading: number): string {
  const all = signature.getParameters();
  const parameters = all.slice(leading).map((parameter, index) => {
    const isLast = index === all.length - leading - 1;
    const type = checker.getTypeOfSymbol(parameter);
    const name = `${signature.hasRestParameter && isLast ? "..." : ""}${parameter.name}${isOptionalParameter(parameter) ? "?" : ""}`;
    return `${name}: ${type ? checker.typeToString(type) : "unknown"}`;
  });
  const result = checker.getReturnTypeOfSignature(signature);
  return `(${parameters.join(", ")}) => ${result ? checker.typeToString(result) : "unknown"}`;
}
