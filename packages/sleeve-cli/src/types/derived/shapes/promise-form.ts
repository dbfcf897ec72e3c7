import type { CallbackResult } from "../../promisify.ts";
import { unionOf } from "./merge-shapes.ts";
import { type ParameterShape, type Shape, type SignatureShape, UNDEFINED } from "./shape.ts";
import { type ShapeNames, signatureText } from "./shape-text.ts";

/**
 * Returns the promise form of a function with a Node.js callback, called once with an error or nothing and a value;
 * `undefined` for any other function.
 */
export function promiseForm(
  signatures: readonly SignatureShape[],
  names: ShapeNames,
): CallbackResult | undefined {
  const [signature, ...overloads] = signatures;
  if (!signature || overloads.length > 0 || signature.typeParameters.length > 0) return undefined;
  const parameters = signature.parameters.slice(0, -1);
  const callback = callbackOf(signature.parameters.at(-1));
  if (!callback || parameters.some(({ isRest }) => isRest)) return undefined;
  const value = callback.parameters[1];
  const valueShape: Shape = value ? value.shape : { kind: "text", text: "void" };
  const shape = value?.isOptional === true ? unionOf([valueShape, UNDEFINED]) : valueShape;
  const result = { kind: "value", shape: { kind: "generic", name: "Promise", args: [shape] } } as const;
  return {
    text: signatureText({ typeParameters: [], parameters, result }, ": ", names),
    parameters: parameters.map(({ name }) => name),
    value: value?.name,
  };
}

/** Returns the signature of a callback that takes an error or nothing first, if a parameter is one. */
function callbackOf(parameter: ParameterShape | undefined): SignatureShape | undefined {
  const { shape } = parameter ?? {};
  const [callback, ...others] = shape?.kind === "function" ? shape.signatures : [];
  if (!callback || others.length > 0 || callback.parameters.length > 2) return undefined;
  const [error] = callback.parameters;
  return error && isErrorOrNothing(error.shape, error.isOptional) ? callback : undefined;
}

/** Whether a parameter takes an error of the language or nothing. */
export function isErrorOrNothing(shape: Shape, isOptional: boolean): boolean {
  const parts = shape.kind === "union" ? shape.parts : [shape];
  const texts = parts.flatMap((part) => (part.kind === "text" ? [part.text] : []));
  const errors = texts.filter((source) => /(Error|Exception)$/.test(source));
  const others = texts.filter((source) => source === "null" || source === "undefined");
  const mayBeNothing = others.length > 0 || isOptional;
  return mayBeNothing && errors.length > 0 && errors.length + others.length === parts.length;
}
