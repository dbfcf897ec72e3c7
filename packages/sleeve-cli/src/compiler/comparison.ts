import { ModifierFlags, type Node } from "typescript/unstable/ast";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "typescript/unstable/sync";
import type { TargetMember } from "./candidates.ts";
import { awaited } from "./exported.ts";
import { modifiersOf } from "./syntax.ts";

/** One member of a target, and what a wrapper has in its place, as the compiler sees them. */
export interface MemberComparison {
  readonly target: MemberView;
  readonly found: MemberView;
  /** For each signature of the target, the wrapper's signature that comes nearest. Empty for properties. */
  readonly signatures: readonly SignatureComparison[];
  /** Whether what is read has the type that the target promises. Told of properties only. */
  readonly isReadable: boolean;
  /** Whether it takes what the target's type lets clients write. Told of properties only. */
  readonly takesWrites: boolean;
}

export interface MemberView {
  readonly isMethod: boolean;
  readonly isOptional: boolean;
  readonly isReadonly: boolean;
  readonly isAny: boolean;
  readonly text: string;
}

export interface SignatureComparison {
  readonly expected: string;
  readonly found: string;
  /** Whether either has type parameters, so that the two are only compared as a whole. */
  readonly isGeneric: boolean;
  readonly fits: boolean;
  readonly parameters: readonly ParameterComparison[];
  /** How many arguments it needs, and how many the target sends at most. */
  readonly needs: number;
  readonly sent: number;
  readonly result: ResultComparison;
}

export interface ParameterComparison {
  readonly name: string;
  readonly fits: boolean;
  readonly isAny: boolean;
  readonly expected: string;
  readonly found: string;
}

export interface ResultComparison {
  readonly fits: boolean;
  readonly isAny: boolean;
  readonly isVoidExpected: boolean;
  readonly isPromiseExpected: boolean;
  readonly isPromiseFound: boolean;
  readonly expected: string;
  readonly found: string;
}

/** What stands in the place of a target's member: a member of an object, or an entry of a mapping. */
export interface Candidate {
  readonly type: Type;
  readonly symbol: CompilerSymbol | undefined;
  /** How many of its first parameters the target does not know of, as the adaptee in a mapping's function. */
  readonly leading: number;
  /** Whether it cannot be written, beyond what its symbol tells. */
  readonly isReadonly: boolean;
}

/** Asks the compiler for all that is needed to judge one member. */
export function compareMember(
  checker: Checker,
  target: TargetMember,
  candidate: Candidate,
): MemberComparison {
  const { type: declared, symbol } = target;
  const expected = checker.getNonNullableType(declared) ?? declared;
  const isAbsentAllowed = symbol !== undefined && isOptional(symbol);
  const found = (isAbsentAllowed && checker.getNonNullableType(candidate.type)) || candidate.type;
  const ours = checker.getSignaturesOfType(found, SignatureKind.Call);
  const theirs = checker.getSignaturesOfType(expected, SignatureKind.Call);
  const isMethod = theirs.length > 0;
  // With a parameter that the target does not know of, the two cannot be compared as a whole.
  const isWhole = candidate.leading === 0 && checker.isTypeAssignableTo(found, expected);
  const fitsGeneric = isWhole || candidate.leading > 0;
  const view = viewOf(checker, candidate.symbol, candidate.type, ours.length > 0);
  return {
    target: viewOf(checker, symbol, declared, isMethod),
    found: { ...view, isReadonly: view.isReadonly || candidate.isReadonly },
    signatures:
      ours.length > 0
        ? theirs.map((each) => nearest(checker, each, ours, candidate.leading, fitsGeneric))
        : [],
    isReadable: isMethod || checker.isTypeAssignableTo(candidate.type, declared),
    takesWrites: isMethod || checker.isTypeAssignableTo(declared, candidate.type),
  };
}

function viewOf(
  checker: Checker,
  symbol: CompilerSymbol | undefined,
  type: Type,
  isMethod: boolean,
): MemberView {
  return {
    isMethod,
    isOptional: symbol !== undefined && isOptional(symbol),
    isReadonly: symbol !== undefined && isReadonly(symbol),
    isAny: isAny(type),
    text: checker.typeToString(type),
  };
}

function isOptional(symbol: CompilerSymbol): boolean {
  return (symbol.flags & SymbolFlags.Optional) !== 0;
}

/** What the compiler notes on a symbol that `Readonly<…>` or `as const` made; it does not publish the name. */
const CHECKED_READONLY = 1 << 3;

function isReadonly(symbol: CompilerSymbol): boolean {
  if ((symbol.checkFlags & CHECKED_READONLY) !== 0) return true;
  if ((symbol.flags & SymbolFlags.Accessor) !== 0) return (symbol.flags & SymbolFlags.SetAccessor) === 0;
  const declaration = symbol.valueDeclaration?.resolve();
  return declaration !== undefined && (modifiersOf(declaration) & ModifierFlags.Readonly) !== 0;
}

function isAny(type: Type): boolean {
  return (type.flags & TypeFlags.Any) !== 0;
}

/** The signature that serves the target's, or else the one with the fewest faults. */
function nearest(
  checker: Checker,
  target: Signature,
  ours: readonly Signature[],
  leading: number,
  fitsGeneric: boolean,
): SignatureComparison {
  const compared = ours.map((each) => compareSignatures(checker, target, each, leading, fitsGeneric));
  const faults = ({ fits, parameters, result }: SignatureComparison) =>
    fits ? 0 : 1 + parameters.filter((each) => !each.fits).length + (result.fits ? 0 : 1);
  // There is at least one signature, or the members would be of different kinds.
  return compared.reduce((best, each) => (faults(each) < faults(best) ? each : best));
}

/** Generic signatures are compared as a whole, since the type parameters of one mean nothing to the other. */
function compareSignatures(
  checker: Checker,
  target: Signature,
  found: Signature,
  leading: number,
  fitsGeneric: boolean,
): SignatureComparison {
  const isGeneric = [target, found].some(({ typeParameters = [] }) => typeParameters.length > 0);
  const taken = found.getParameters().slice(leading);
  const parameters = isGeneric ? [] : compareParameters(checker, target, found, leading);
  const compared = compareResults(checker, target, found);
  const result = isGeneric ? { ...compared, fits: fitsGeneric } : compared;
  const needs = taken.filter((each) => !isOptionalParameter(each)).length - (found.hasRestParameter ? 1 : 0);
  const sent = target.hasRestParameter ? Number.POSITIVE_INFINITY : target.getParameters().length;
  return {
    expected: signatureText(checker, target, 0),
    found: signatureText(checker, found, leading),
    isGeneric,
    fits: needs <= sent && result.fits && parameters.every(({ fits }) => fits),
    parameters,
    needs,
    sent,
    result,
  };
}

function compareParameters(
  checker: Checker,
  target: Signature,
  found: Signature,
  leading: number,
): ParameterComparison[] {
  const takenCount = found.getParameters().length - leading;
  return target.getParameters().flatMap((parameter, index) => {
    if (index >= takenCount && !found.hasRestParameter) return [];
    const sent = checker.getParameterType(target, index);
    const taken = checker.getParameterType(found, index + leading);
    if (!sent || !taken) return [];
    return {
      name: parameter.name,
      fits: checker.isTypeAssignableTo(sent, taken),
      isAny: isAny(taken) && !isAny(sent),
      expected: checker.typeToString(sent),
      found: checker.typeToString(taken),
    };
  });
}

function compareResults(checker: Checker, target: Signature, found: Signature): ResultComparison {
  const expected = checker.getReturnTypeOfSignature(target) ?? checker.getUnknownType();
  const actual = checker.getReturnTypeOfSignature(found) ?? checker.getUnknownType();
  const promised = awaited(checker, expected);
  const delivered = awaited(checker, actual);
  const isVoidExpected = (expected.flags & TypeFlags.Void) !== 0;
  return {
    fits: isVoidExpected || checker.isTypeAssignableTo(actual, expected),
    isAny: !isVoidExpected && (isAny(delivered ?? actual) || isAny(promised ?? expected)),
    isVoidExpected,
    isPromiseExpected: promised !== undefined,
    isPromiseFound: delivered !== undefined,
    expected: checker.typeToString(expected),
    found: checker.typeToString(actual),
  };
}

function isOptionalParameter(parameter: CompilerSymbol): boolean {
  const declaration = parameter.valueDeclaration?.resolve() as
    | (Node & { questionToken?: Node; initializer?: Node })
    | undefined;
  return declaration?.questionToken !== undefined || declaration?.initializer !== undefined;
}

function signatureText(checker: Checker, signature: Signature, leading: number): string {
  const parameters = signature
    .getParameters()
    .slice(leading)
    .map((parameter, index) => {
      const isLast = index === signature.getParameters().length - leading - 1;
      const type = checker.getTypeOfSymbol(parameter);
      const name = `${signature.hasRestParameter && isLast ? "..." : ""}${parameter.name}${isOptionalParameter(parameter) ? "?" : ""}`;
      return `${name}: ${type ? checker.typeToString(type) : "unknown"}`;
    });
  const result = checker.getReturnTypeOfSignature(signature);
  return `(${parameters.join(", ")}) => ${result ? checker.typeToString(result) : "unknown"}`;
}
