import { definedPart, unionOf } from "../shapes/merge-shapes.ts";
import {
  type ParameterShape,
  type ResultShape,
  type Shape,
  type SignatureShape,
  UNKNOWN,
  valueResult,
} from "../shapes/shape.ts";
import type { ResolvedCall } from "./call-sites.ts";
import type { ReadCall } from "./read-call.ts";
import { parameterName } from "./signature-reader.ts";

export function mergedSignature(calls: readonly ReadCall[]): SignatureShape {
  return {
    typeParameters: [],
    parameters: mergedParameters(calls, (_, shapes) => unionOf(shapes)),
    result: mergedResult(calls),
  };
}

function mergedResult(calls: readonly ReadCall[]): ResultShape {
  const [call] = calls.filter(({ result }) => result !== undefined);
  if (call?.result) return call.result;
  const [discarded] = calls;
  return discarded ? discardedResult(discarded) : valueResult(UNKNOWN);
}

/** An unused result says only whether there is one, and whether it is asynchronous. */
export function discardedResult({ resolved, checker }: ResolvedCall): ResultShape {
  const type = checker.getReturnTypeOfSignature(resolved);
  if (!type) return valueResult(UNKNOWN);
  const isVoid = type.isIntrinsicType() && type.intrinsicName === "void";
  if (isVoid) return valueResult({ kind: "text", text: "void" });
  const isPromise = type.getSymbol()?.name === "Promise";
  return valueResult(isPromise ? { kind: "generic", name: "Promise", args: [UNKNOWN] } : UNKNOWN);
}

/** Merges the arguments of calls, parameter by parameter. */
export function mergedParameters(
  calls: readonly ReadCall[],
  shapeOf: (index: number, shapes: readonly Shape[]) => Shape,
): readonly ParameterShape[] {
  const most = Math.max(...calls.map(({ shapes }) => shapes.length));
  const longest = calls.find(({ shapes }) => shapes.length === most);
  if (!longest) return [];
  const symbols = longest.declared.getParameters();
  const restAt = longest.declared.hasRestParameter ? symbols.length - 1 : Number.POSITIVE_INFINITY;
  const parameters = Array.from({ length: Math.min(most, restAt) }, (_, index): ParameterShape => {
    const shapes = calls.flatMap((call) => call.shapes[index] ?? []);
    const isOptional = shapes.length < calls.length;
    const shape = shapeOf(index, shapes);
    const symbol = symbols[index];
    return {
      name: symbol ? parameterName(symbol, index) : `argument${index + 1}`,
      shape: isOptional ? definedPart(shape) : shape,
      isOptional,
      isRest: false,
    };
  });
  if (most <= restAt) return parameters;
  return [...parameters, ...restParameters(calls, restAt, most, symbols[restAt]?.name ?? "values")];
}

/** What is passed to a rest parameter: single parameters if their number hardly varies, else a rest parameter. */
function restParameters(
  calls: readonly ReadCall[],
  restAt: number,
  most: number,
  name: string,
): readonly ParameterShape[] {
  const rests = calls.map(({ shapes }) => shapes.slice(restAt));
  const singular = name.length > 2 && name.endsWith("s") ? name.slice(0, -1) : name;
  if (most - restAt === 1) {
    const isOptional = rests.some((rest) => rest.length === 0);
    const shape = unionOf(rests.flat());
    return [{ name: singular, shape, isOptional, isRest: false }];
  }
  const element = unionOf(rests.flat());
  return [{ name, shape: { kind: "array", element, isReadonly: false }, isOptional: false, isRest: true }];
}
