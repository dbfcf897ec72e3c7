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
  const symbols = signature.getParameters();
  const last = symbols.length - 1;
  const callback = last < 0 ? undefined : checker.getParameterType(signature, last);
  if (!callback || signature.hasRestParameter || signature.getTypeParameters().length > 0) return undefined;
  const bare = checker.getNonNullableType(callback) ?? callback;
  const [called, ...others] = checker.getSignaturesOfType(bare, SignatureKind.Call);
  if (!called || others.length > 0) return undefined;
  const [error, value, ...more] = called.getParameters();
  const errorType = error && checker.getParameterType(called, 0);
  if (!errorType || more.length > 0 || !isErrorOrNothing(errorType, error)) return undefined;
  const parameters = symbols.slice(0, last).map((symbol, index) => {
    const type = checker.getParameterType(signature, index);
    return `${symbol.name}${isOptionalParameter(symbol) ? "?" : ""}: ${type ? writer.write(type, "in") : "unknown"}`;
  });
  const valueType = value && checker.getParameterType(called, 1);
  const valueText = valueType ? writer.write(valueType, "out") : "void";
  const isMaybe = value !== undefined && isOptionalParameter(value) && !/\bundefined\b/.test(valueText);
  return {
    text: `(${parameters.join(", ")}): Promise<${valueText}${isMaybe ? " | undefined" : ""}>`,
    parameters: symbols.slice(0, last).map(({ name }) => name),
    value: value?.name,
  };
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
