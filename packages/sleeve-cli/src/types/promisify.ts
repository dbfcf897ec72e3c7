import { isOptionalParameter } from "../compiler/parameters.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Signature,
  SignatureKind,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { TypeWriter } from "./writing/type-writer.ts";

/** A function with a callback, described as one that returns a promise. */
export interface CallbackResult {
  /** `(gauge: string): Promise<number>`. */
  readonly text: string;
  /** Its parameters without the callback. */
  readonly parameters: readonly string[];
  /** The callback's name for its value; `undefined` if it has none. */
  readonly value: string | undefined;
}

/**
 * Returns the promise form of a function with a Node.js callback, called once with an error or null and a
 * value; `undefined` for any other function.
 *
 * @throws {Uncopiable}
 */
export function promisify(
  checker: Checker,
  writer: TypeWriter,
  signature: Signature,
): CallbackResult | undefined {
  const called = callbackOf(checker, signature);
  if (!called) return undefined;
  const symbols = signature.getParameters().slice(0, -1);
  const parameters = symbols.map((symbol, index) => {
    const type = checker.getParameterType(signature, index);
    return `${symbol.name}${isOptionalParameter(symbol) ? "?" : ""}: ${type ? writer.write(type, "in") : "unknown"}`;
  });
  const [, value] = called.getParameters();
  const valueType = value && checker.getParameterType(called, 1);
  const valueText = valueType ? writer.write(valueType, "out") : "void";
  const isMaybe = value !== undefined && isOptionalParameter(value) && !/\bundefined\b/.test(valueText);
  return {
    text: `(${parameters.join(", ")}): Promise<${valueText}${isMaybe ? " | undefined" : ""}>`,
    parameters: symbols.map(({ name }) => name),
    value: value?.name,
  };
}

/** Returns the signature of a Node.js callback, if it is the last parameter. */
function callbackOf(checker: Checker, signature: Signature): Signature | undefined {
  if (signature.hasRestParameter || signature.getTypeParameters().length > 0) return undefined;
  const last = signature.getParameters().length - 1;
  const type = last < 0 ? undefined : checker.getParameterType(signature, last);
  const callable = type && (checker.getNonNullableType(type) ?? type);
  const signatures = callable ? checker.getSignaturesOfType(callable, SignatureKind.Call) : [];
  const [called] = signatures;
  if (!called || signatures.length > 1) return undefined;
  const [error, , ...furtherParameters] = called.getParameters();
  const errorType = error && checker.getParameterType(called, 0);
  if (!errorType || furtherParameters.length > 0) return undefined;
  return isErrorOrNothing(errorType, error) ? called : undefined;
}

function isErrorOrNothing(type: Type, parameter: CompilerSymbol): boolean {
  const parts = type.isUnionType() ? type.getTypes() : [type];
  const isNothing = ({ flags }: Type) => (flags & (TypeFlags.Null | TypeFlags.Undefined)) !== 0;
  const errors = parts.filter((part) => !isNothing(part));
  const mayBeNothing = errors.length < parts.length || isOptionalParameter(parameter);
  return (
    mayBeNothing &&
    errors.length > 0 &&
    errors.every((error) => /Error$|Exception$/.test(error.getSymbol()?.name ?? ""))
  );
}
