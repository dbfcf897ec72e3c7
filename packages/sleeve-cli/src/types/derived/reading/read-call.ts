import type { Node, Type } from "../../../compiler/typescript.ts";
import { baseOf } from "../shapes/merge-shapes.ts";
import { type ResultShape, type Shape, text, valueResult } from "../shapes/shape.ts";
import type { ArgumentReader } from "./argument-reader.ts";
import { mentionsIdentifier, type ResolvedCall } from "./call-sites.ts";
import type { TypeReader } from "./type-reader.ts";

/** The readers of one checker. */
export interface Readers {
  readonly types: TypeReader;
  readonly args: ArgumentReader;
}

/** A call as shapes. */
export interface ReadCall extends ResolvedCall {
  readonly shapes: readonly Shape[];
  /** `undefined` if the result is not used. */
  readonly result: ResultShape | undefined;
}

export function readCall(call: ResolvedCall, { types, args }: Readers): ReadCall {
  const shapes = readShapes(call, args);
  const isUnused = call.isDiscarded && !call.checker.getTypePredicateOfSignature(call.resolved);
  return {
    ...call,
    shapes,
    result: isUnused ? undefined : withoutLiteral(types.signatures.result(call.resolved)),
  };
}

function readShapes(call: ResolvedCall, args: ArgumentReader): readonly Shape[] {
  return call.args.map((argument, index) => {
    const declared = declaredParameter(call, index);
    // What a result, another parameter or the object depends on is not just any value.
    const isConnected = declared?.isTypeParameter() === true && mentionsOf(call, declared) !== 1;
    return isConnected ? args.value(argument, declared) : args.read(argument, declared);
  });
}

/** Returns a call whose options have the booleans that the caller writes, rather than any. */
export function withBooleans(call: ReadCall, { args }: Readers): ReadCall {
  return { ...call, shapes: args.withBooleans(() => readShapes(call, args)) };
}

/** A literal that follows from one call is not the result of all. */
function withoutLiteral(result: ResultShape): ResultShape {
  if (result.kind !== "value" || result.shape.kind !== "text") return result;
  const base = baseOf(result.shape.text);
  return base === undefined ? result : valueResult(text(base));
}

/** Returns in how many parameters and results of its declaration a type parameter is mentioned; 0 for one of a class. */
function mentionsOf({ declared }: ResolvedCall, parameter: Type): number {
  const { type, parameters = [] } = (declared.declaration?.resolve() ?? {}) as DeclarationNode;
  if (!declared.getTypeParameters().some(({ id }) => id === parameter.id)) return 0;
  const name = parameter.getSymbol()?.name ?? "";
  const places = [type, ...parameters.map((node) => node.type)];
  return places.filter((node) => mentionsIdentifier(node, name)).length + (declared.isConstruct ? 1 : 0);
}

/** Returns the declared type of a parameter, or of an element of a rest parameter. */
function declaredParameter({ declared, checker }: ResolvedCall, index: number): Type | undefined {
  return checker.getParameterType(declared, index);
}

export type DeclarationNode = Node & {
  readonly type?: Node;
  readonly parameters?: readonly (Node & { readonly type?: Node })[];
  readonly typeParameters?: readonly (Node & { readonly defaultType?: Node })[];
};
