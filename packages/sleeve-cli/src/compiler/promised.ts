import {
  type Checker,
  type Symbol as CompilerSymbol,
  type Signature,
  SignatureKind,
  type Type,
  TypeFlags,
} from "typescript/unstable/sync";
import { isOptionalParameter } from "./parameters.ts";
import type { TypeWriter } from "./type-writer.ts";

/** A function that calls back, said as one that gives a promise. */
export interface Promised {
  /** `(gauge: string): Promise<number>`. */
  readonly text: string;
  /** What it takes, the callback left out. */
  readonly parameters: readonly string[];
  /** What the callback calls the value that it is called with; `undefined` where there is none. */
  readonly value: string | undefined;
}

/**
 * The promise in the place of a callback that is called once, with an error or nothing first and a value second, as is the
 * custom in Node.js; `undefined` of any other function.
 *
 * @throws {Uncopiable}
 */
export function promisedBy(checker: Checker, writer: TypeWriter, signature: Signature): Promised | undefined {
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
  const given = valueType ? writer.write(valueType, "out") : "void";
  const isMaybe = value !== undefined && isOptionalParameter(value) && !/\bundefined\b/.test(given);
  return {
    text: `(${parameters.join(", ")}): Promise<${given}${isMaybe ? " | undefined" : ""}>`,
    parameters: symbols.slice(0, last).map(({ name }) => name),
    value: value?.name,
  };
}

function isErrorOrNothing(type: Type, parameter: CompilerSymbol): boolean {
  const parts = type.isUnionType() ? type.getTypes() : [type];
  const isNothing = ({ flags }: Type) => (flags & (TypeFlags.Null | TypeFlags.Undefined)) !== 0;
  const errors = parts.filter((each) => !isNothing(each));
  const mayBeNothing = errors.length < parts.length || isOptionalParameter(parameter);
  return (
    mayBeNothing &&
    errors.length > 0 &&
    errors.every((each) => /Error$|Exception$/.test(each.getSymbol()?.name ?? ""))
  );
}
