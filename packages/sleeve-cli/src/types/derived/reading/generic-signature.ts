import { isOptionalParameter } from "../../../compiler/parameters.ts";
import type { Checker, Node, TypeParameter } from "../../../compiler/typescript.ts";
import { definedPart, unionOf } from "../shapes/merge-shapes.ts";
import {
  identityOf,
  mapResult,
  mapShape,
  type ResultShape,
  resultIdentity,
  type Shape,
  type SignatureShape,
  someShape,
} from "../shapes/shape.ts";
import { mentionsIdentifier, type ResolvedCall } from "./call-sites.ts";
import { Underivable } from "./derive-context.ts";
import { discardedResult, mergedParameters } from "./merged-calls.ts";
import type { DeclarationNode, ReadCall, Readers } from "./read-call.ts";
import type { SignatureReader } from "./signature-reader.ts";
import type { TypeReader } from "./type-reader.ts";

/** A declared type parameter that remains, and its position. */
interface KeptParameter {
  readonly parameter: TypeParameter;
  readonly name: string;
  readonly position: number;
}

/**
 * Returns the type parameters that callers write, that decide the result, or that connect several parameters
 * whose arguments differ. A parameter with a default counts only if it is written.
 */
export function keptParameters(calls: readonly ReadCall[]): readonly KeptParameter[] {
  const [call] = calls;
  if (!call) return [];
  const { declared } = call;
  const {
    type: resultType,
    parameters = [],
    typeParameters = [],
  } = (declared.declaration?.resolve() ?? {}) as DeclarationNode;
  const results = calls.flatMap(({ result }) => result ?? []);
  const resultTexts = new Set(results.map(resultIdentity));
  const isForeign = results.some(hasForeign) || calls.some(({ shapes }) => shapes.some(isForeignShape));
  const varies = resultTexts.size > 1 || isForeign;
  return declared.getTypeParameters().flatMap((parameter, position): readonly KeptParameter[] => {
    const name = parameter.getSymbol()?.name;
    if (name === undefined) return [];
    // Callers that write type arguments need as many parameters.
    const isWritten = calls.some(({ typeArguments }) => typeArguments[position] !== undefined);
    if (isWritten) return [{ parameter, name, position }];
    const isInResult = declared.isConstruct || mentionsIdentifier(resultType, name);
    const indices = parameters.flatMap(({ type }, index) => (mentionsIdentifier(type, name) ? [index] : []));
    const decidesResult = isInResult ? varies : isForeign && indices.length > 0;
    const isNeeded = decidesResult || isCorrelated(calls, indices);
    const hasDefault = typeParameters[position]?.defaultType !== undefined;
    return isNeeded && !hasDefault ? [{ parameter, name, position }] : [];
  });
}

function hasForeign(result: ResultShape): boolean {
  return result.shape !== undefined && isForeignShape(result.shape);
}

function isForeignShape(shape: Shape): boolean {
  return someShape(shape, (part) => part.kind === "parameter" && part.isForeign);
}

/** Whether arguments of parameters that belong together differ between calls. */
function isCorrelated(calls: readonly ReadCall[], indices: readonly number[]): boolean {
  if (indices.length < 2) return false;
  return indices.some((index) => {
    const identities = calls.flatMap(({ shapes }) => (shapes[index] ? [identityOf(shapes[index])] : []));
    return new Set(identities).size > 1;
  });
}

/** Returns a signature with type parameters, unless its result is computed from type arguments that no caller writes. */
export function genericIfReadable(
  calls: readonly ReadCall[],
  kept: readonly KeptParameter[],
  readersOf: (checker: Checker) => Readers,
): SignatureShape | undefined {
  try {
    return genericSignature(calls, kept, readersOf);
  } catch (error) {
    if (error instanceof Underivable) return undefined;
    throw error;
  }
}

/** Returns a signature with type parameters: what mentions them is as declared, the rest follows from the calls. */
function genericSignature(
  calls: readonly ReadCall[],
  kept: readonly KeptParameter[],
  readersOf: (checker: Checker) => Readers,
): SignatureShape {
  const [call] = calls;
  if (!call) throw new Error("A group has at least one call.");
  const { types } = readersOf(call.checker);
  const { declared, checker } = call;
  const declaration = declared.declaration?.resolve() as DeclarationNode | undefined;
  const mentionsKept = (node: Node | undefined) => kept.some(({ name }) => mentionsIdentifier(node, name));
  return types.within(
    kept.map(({ parameter }) => parameter),
    undefined,
    () => ({
      typeParameters: kept.map(({ parameter }) =>
        withoutForeignConstraint(types.signatures.typeParameter(parameter)),
      ),
      parameters: mergedParameters(calls, (index, shapes) => {
        const type = mentionsKept(declaration?.parameters?.[index]?.type)
          ? checker.getParameterType(declared, index)
          : undefined;
        const symbol = declared.getParameters()[index];
        if (!type) return unionOf(shapes);
        const areWritten = calls.every(({ typeArguments }) => typeArguments.length > 0);
        // Options say little of type arguments that callers write themselves.
        if (areWritten && shapes.every(({ kind }) => kind === "object"))
          return withParameters(unionOf(shapes), calls, kept, types);
        const shape = types.read(type);
        return symbol && isOptionalParameter(symbol) ? definedPart(shape) : shape;
      }),
      result: genericResult(calls, kept, types),
    }),
  );
}

function withoutForeignConstraint(parameter: ReturnType<SignatureReader["typeParameter"]>): typeof parameter {
  const { constraint } = parameter;
  return constraint && isForeignShape(constraint) ? { ...parameter, constraint: undefined } : parameter;
}

/** Returns the declared result or, if it is computed, an inferred one in which type parameters replace their arguments. */
function genericResult(
  calls: readonly ReadCall[],
  kept: readonly KeptParameter[],
  types: TypeReader,
): ResultShape {
  const [call] = calls;
  if (!call) throw new Error("A group has at least one call.");
  if (calls.every(({ result }) => result === undefined)) return discardedResult(call);
  const declared = types.signatures.declaredResult(call.declared);
  if (declared) return declared;
  const written = calls.find(({ typeArguments, result }) => typeArguments.length > 0 && result !== undefined);
  if (!written?.result)
    throw new Underivable("its result is computed from type arguments that no caller writes");
  const replacements = replacementsFor(written, kept, types);
  return mapResult(written.result, (part) => replacements.get(identityOf(part)));
}

/** Returns the type parameters for the type arguments that a call writes, by their identities. */
function replacementsFor(
  { typeArguments, checker }: ResolvedCall,
  kept: readonly KeptParameter[],
  types: TypeReader,
): ReadonlyMap<string, Shape> {
  const replacements = new Map<string, Shape>();
  for (const { name, position } of kept) {
    const node = typeArguments[position];
    const type = node && checker.getTypeFromTypeNode(node as never);
    if (type) replacements.set(identityOf(types.read(type)), { kind: "parameter", name, isForeign: false });
  }
  return replacements;
}

function withParameters(
  shape: Shape,
  calls: readonly ReadCall[],
  kept: readonly KeptParameter[],
  types: TypeReader,
): Shape {
  const [call] = calls;
  if (!call) return shape;
  const replacements = replacementsFor(call, kept, types);
  return mapShape(shape, (part) => (part.kind === "text" ? undefined : replacements.get(identityOf(part))));
}
