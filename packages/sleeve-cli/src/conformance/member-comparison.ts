import { declaresThis, isOptionalParameter, parametersOf } from "../compiler/parameters.ts";
import { modifiersOf } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isSetAccessorDeclaration,
  ModifierFlags,
  type Node,
  type Signature,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import { isReadonly } from "../types/writing/type-text.ts";
import type { Candidate, TargetMember } from "./candidates.ts";
import type {
  IndexComparison,
  MemberComparison,
  MemberView,
  ParameterComparison,
  ResultComparison,
  SignatureComparison,
} from "./compared-member.ts";
import { awaited } from "./exported.ts";
import { type Mismatch, StrictAssignability } from "./strict-assignability.ts";
import { anyWithin } from "./untyped.ts";

/** Compares the members of one target with those of one wrapper. */
export class MemberComparer {
  readonly #checker: Checker;
  readonly #isOwn: (path: string) => boolean;
  readonly #assignability: StrictAssignability;
  readonly #wrapper: Type;

  constructor(
    checker: Checker,
    isOwn: (path: string) => boolean,
    wrapper: Type,
    paired: readonly (readonly [Type, Type])[],
  ) {
    this.#checker = checker;
    this.#isOwn = isOwn;
    this.#assignability = new StrictAssignability(checker, isOwn, paired);
    this.#wrapper = wrapper;
  }

  /** Queries the compiler for everything needed to judge one member. */
  member(target: TargetMember, candidate: Candidate): MemberComparison {
    const checker = this.#checker;
    const { type: declared, symbol, signatureKind } = target;
    const isSame = candidate.leading === 0 && candidate.type.id === declared.id;
    const expected = checker.getNonNullableType(declared) ?? declared;
    const mayBeAbsent = [symbol, candidate.symbol].some((item) => item !== undefined && isOptional(item));
    const memberType = (mayBeAbsent && checker.getNonNullableType(candidate.type)) || candidate.type;
    const ours = checker.getSignaturesOfType(memberType, signatureKind);
    const theirs = checker.getSignaturesOfType(expected, signatureKind);
    const isCalled = theirs.length > 0;
    // With a parameter that the target does not have, the signatures cannot be compared as a whole.
    const isWhole = candidate.leading > 0 || checker.isTypeAssignableTo(memberType, expected);
    const view = this.#view(candidate.symbol, candidate.type, target, ours.length > 0, declared);
    return {
      target: this.#view(symbol, declared, target, isCalled, undefined),
      found: { ...view, isReadonly: view.isReadonly || candidate.isReadonly },
      signatures:
        ours.length > 0 && !isSame
          ? theirs.map((their) => this.#nearest(their, ours, candidate.leading, isWhole))
          : [],
      reading: isCalled ? undefined : this.#valueMismatch(symbol, candidate.type, declared),
      writing: isCalled
        ? undefined
        : this.#assignability.mismatch(
            this.#writtenType(symbol) ?? declared,
            this.#writtenType(candidate.symbol) ?? candidate.type,
          ),
    };
  }

  /** Compares the index signatures of a target with those of what implements it. */
  indexSignatures(target: Type, wrapperType: Type): readonly IndexComparison[] {
    const checker = this.#checker;
    const wrapperIndexes = checker.getIndexInfosOfType(wrapperType);
    return checker.getIndexInfosOfType(target).flatMap(({ keyType, valueType }): IndexComparison[] => {
      const wrapperIndex = wrapperIndexes.find((info) => info.keyType.id === keyType.id);
      if (!wrapperIndex) return [];
      return [
        {
          key: checker.typeToString(keyType),
          expected: checker.typeToString(valueType),
          found: checker.typeToString(wrapperIndex.valueType),
          any: anyWithin(checker, this.#isOwn, wrapperIndex.valueType, valueType),
          mismatch: this.#assignability.mismatch(wrapperIndex.valueType, valueType),
        },
      ];
    });
  }

  #view(
    symbol: CompilerSymbol | undefined,
    type: Type,
    { call }: TargetMember,
    isCalled: boolean,
    expected: Type | undefined,
  ): MemberView {
    const checker = this.#checker;
    const isUnread = isAny(type) || isCalled || !expected;
    const anyPart = isUnread ? undefined : anyWithin(checker, this.#isOwn, type, expected);
    const calledKind = call === "new" ? "class" : "method";
    return {
      kind: isCalled ? calledKind : "property",
      isOptional: symbol !== undefined && isOptional(symbol),
      isReadonly: symbol !== undefined && isReadonly(symbol),
      isHidden: symbol !== undefined && (modifiersOfSymbol(symbol) & HIDDEN) !== 0,
      any: isAny(type) ? "" : anyPart,
      text: checker.typeToString(type),
    };
  }

  /** Returns the type that a setter accepts, which may differ from that of its getter. */
  #writtenType(symbol: CompilerSymbol | undefined): Type | undefined {
    for (const declaration of symbol?.declarations ?? []) {
      const node = declaration.resolve();
      if (!node || !isSetAccessorDeclaration(node)) continue;
      const [parameter] = node.parameters;
      return parameter && this.#checker.getTypeAtLocation(parameter);
    }
    return undefined;
  }

  /** A property that holds the object itself holds the wrapper there. */
  #valueMismatch(
    symbol: CompilerSymbol | undefined,
    wrapperType: Type,
    expected: Type,
  ): Mismatch | undefined {
    const isItself = declaresThis(symbol?.valueDeclaration?.resolve());
    return isItself
      ? this.#selfMismatch(wrapperType, symbol?.valueDeclaration?.resolve())
      : this.#assignability.mismatch(wrapperType, expected);
  }

  #selfMismatch(wrapperType: Type, member: Node | undefined): Mismatch | undefined {
    // The literal or class that declares the member, if it is generic, has no type arguments here.
    const holder = wrapperType
      .getSymbol()
      ?.declarations.some((handle) => handle.resolve() === member?.parent);
    if (holder || this.#checker.isTypeAssignableTo(wrapperType, this.#wrapper)) return undefined;
    const text = this.#checker.typeToString(wrapperType);
    return { kind: "type", path: "", expected: "this, the wrapper itself", found: text };
  }

  /** Returns the signature that fits the target's, or else the one with the fewest mismatches. */
  #nearest(
    target: Signature,
    ours: readonly Signature[],
    leading: number,
    isWhole: boolean,
  ): SignatureComparison {
    const compared = ours.map((our) => this.#signatures(target, our, leading, isWhole));
    // Of signatures that fit, one without `any` proves more.
    const untyped = ({ parameters, result }: SignatureComparison) =>
      [...parameters, result].some(({ any }) => any !== undefined) ? 0.5 : 0;
    const faults = (compared: SignatureComparison) => {
      const { fits, parameters, result } = compared;
      if (fits) return untyped(compared);
      return 1 + parameters.filter((parameter) => parameter.mismatch).length + (result.mismatch ? 1 : 0);
    };
    // There is at least one signature; otherwise the kinds would differ.
    const best = compared.reduce((least, signature) =>
      faults(signature) < faults(least) ? signature : least,
    );
    const earlier = compared.slice(0, compared.indexOf(best)).find(takesTheCalls);
    return { ...best, hiddenBy: best.fits ? earlier?.found : undefined };
  }

  #signatures(
    target: Signature,
    wrapperSignature: Signature,
    leading: number,
    isWhole: boolean,
  ): SignatureComparison {
    const checker = this.#checker;
    const [ours, theirs] = [wrapperSignature, target].map(
      ({ typeParameters = [] }) => typeParameters.length,
    ) as [number, number];
    const isWholeOnly = ours > 0 && ours !== theirs;
    const taken = wrapperSignature.getParameters().slice(leading);
    const wholeMismatch =
      isWholeOnly && leading === 0
        ? this.#assignability.signatureMismatch(wrapperSignature, target, "", 0)
        : undefined;
    const { parameters, result } = this.#assignability.paired(wrapperSignature, target, () => ({
      parameters: isWholeOnly
        ? []
        : [
            ...this.#constraints(target, wrapperSignature),
            ...this.#parameters(target, wrapperSignature, leading),
          ],
      result: this.#result(target, wrapperSignature, wholeMismatch, isWholeOnly && isWhole),
    }));
    const needs =
      taken.filter((takenName) => !isOptionalParameter(takenName)).length -
      (wrapperSignature.hasRestParameter ? 1 : 0);
    const names = target.getParameters().map(({ name }) => name);
    return {
      expected: signatureText(checker, target, 0),
      found: signatureText(checker, wrapperSignature, leading),
      isWholeOnly,
      fits:
        needs <= (target.hasRestParameter ? Number.POSITIVE_INFINITY : names.length) &&
        !result.mismatch &&
        parameters.every((parameter) => !parameter.mismatch),
      parameters,
      needs,
      sent: target.hasRestParameter ? Number.POSITIVE_INFINITY : names.length,
      dropped: wrapperSignature.hasRestParameter ? [] : names.slice(Math.max(0, taken.length)),
      result,
      hiddenBy: undefined,
    };
  }

  #constraints(target: Signature, wrapperSignature: Signature): readonly ParameterComparison[] {
    if (wrapperSignature.getTypeParameters().length !== target.getTypeParameters().length) return [];
    const mismatch = this.#assignability.constraintMismatch(wrapperSignature, target);
    if (!mismatch) return [];
    const { path: name, expected, found: text } = mismatch;
    return [
      { name, mismatch: { ...mismatch, path: "" }, any: undefined, expected: `any ${expected}`, found: text },
    ];
  }

  #parameters(target: Signature, wrapperSignature: Signature, leading: number): ParameterComparison[] {
    const checker = this.#checker;
    const taken = parametersOf(checker, wrapperSignature, leading);
    const compared: ParameterComparison[] = [];
    for (const [index, { name, type: sent }] of parametersOf(checker, target).entries()) {
      const place = taken.at(index);
      if (!place) break;
      compared.push({
        name,
        mismatch: this.#assignability.mismatch(sent, place.type),
        any: this.#anyFor(sent, place.type),
        expected: checker.typeToString(sent),
        found: checker.typeToString(place.type),
      });
    }
    return [
      ...this.#receiver(target, wrapperSignature),
      ...compared,
      ...this.#rest(target, wrapperSignature, leading),
    ];
  }

  /** A rest parameter of the target that the signature takes only the first values of. */
  #rest(target: Signature, wrapperSignature: Signature, leading: number): readonly ParameterComparison[] {
    const sent = target.getParameters();
    const taken = wrapperSignature.getParameters().slice(leading);
    const firstTaken = taken[sent.length - 1];
    if (!target.hasRestParameter || wrapperSignature.hasRestParameter || !firstTaken) return [];
    const checker = this.#checker;
    const name = sent.at(-1)?.name ?? "";
    const [type] = [checker.getTypeOfSymbol(firstTaken)];
    const expected = "any number of values";
    const text = `${taken.length - sent.length + 1}, in ${firstTaken.name}: ${type ? checker.typeToString(type) : "unknown"}`;
    const mismatch: Mismatch = { kind: "parameter", path: "", expected, found: text };
    return [{ name, mismatch, any: undefined, expected, found: text }];
  }

  /** Returns the path to an `any` in the parts of a parameter's type that take what is sent. */
  #anyFor(sent: Type, taken: Type): string | undefined {
    const checker = this.#checker;
    const parts = taken.isUnionType()
      ? taken.getTypes().filter((part) => checker.isTypeAssignableTo(sent, part))
      : [taken];
    const comparisons = (parts.length > 0 ? parts : [taken]).map((part) =>
      anyWithin(checker, this.#isOwn, part, sent),
    );
    return comparisons.includes(undefined) ? undefined : comparisons[0];
  }

  /** The declared `this`: the wrapper, or none if the target's member is called without a receiver. */
  #receiver(target: Signature, wrapperSignature: Signature): readonly ParameterComparison[] {
    const checker = this.#checker;
    const [targetReceiver, wrapperReceiver] = [target, wrapperSignature].map((signature) => {
      const parameter = signature.getThisParameter();
      return parameter && checker.getTypeOfSymbol(parameter);
    });
    if (!wrapperReceiver || (wrapperReceiver.flags & (TypeFlags.Void | TypeFlags.AnyOrUnknown)) !== 0)
      return [];
    const sent = targetReceiver ?? this.#wrapper;
    if (checker.isTypeAssignableTo(sent, wrapperReceiver)) return [];
    const [expected, text] = [sent, wrapperReceiver].map((type) => checker.typeToString(type)) as [
      string,
      string,
    ];
    const mismatch: Mismatch = { kind: "parameter", path: "", expected, found: text };
    return [{ name: "this", mismatch, any: undefined, expected, found: text }];
  }

  #result(
    target: Signature,
    wrapperSignature: Signature,
    generic: Mismatch | undefined,
    isWholeFit: boolean,
  ): ResultComparison {
    const checker = this.#checker;
    const expected = checker.getReturnTypeOfSignature(target) ?? checker.getUnknownType();
    const actual = checker.getReturnTypeOfSignature(wrapperSignature) ?? checker.getUnknownType();
    const awaitedType = awaited(checker, expected);
    const delivered = awaited(checker, actual);
    const isVoidExpected = (expected.flags & TypeFlags.Void) !== 0;
    let mismatch: Mismatch | undefined;
    if (!isVoidExpected && declaresThis(target.declaration?.resolve()))
      mismatch = this.#selfMismatch(actual, wrapperSignature.declaration?.resolve());
    else if (!isVoidExpected && !isWholeFit) mismatch = this.#assignability.mismatch(actual, expected);
    const [expectedText, foundText] = [expected, actual].map((type) => checker.typeToString(type)) as [
      string,
      string,
    ];
    return {
      mismatch: generic ?? mismatch,
      any: isVoidExpected
        ? undefined
        : anyWithin(checker, this.#isOwn, delivered ?? actual, awaitedType ?? expected),
      isVoidExpected,
      isPromiseExpected: awaitedType !== undefined,
      isPromiseFound: delivered !== undefined,
      expected: expectedText,
      found: foundText,
    };
  }
}

/** Whether a signature accepts everything the target sends, although its result differs. */
function takesTheCalls({ fits, parameters, needs, sent, isWholeOnly, result }: SignatureComparison): boolean {
  return (
    !fits &&
    !isWholeOnly &&
    needs <= sent &&
    parameters.every((parameter) => !parameter.mismatch) &&
    result.mismatch !== undefined
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
  const symbols = signature.getParameters();
  const parameters = symbols.slice(leading).map((parameter, index) => {
    const isLast = index === symbols.length - leading - 1;
    const type = checker.getTypeOfSymbol(parameter);
    const name = `${signature.hasRestParameter && isLast ? "..." : ""}${parameter.name}${isOptionalParameter(parameter) ? "?" : ""}`;
    return `${name}: ${type ? checker.typeToString(type) : "unknown"}`;
  });
  const result = checker.getReturnTypeOfSignature(signature);
  return `(${parameters.join(", ")}) => ${result ? checker.typeToString(result) : "unknown"}`;
}
