import type { Settlement } from "../target/signature-forms.ts";

/** Writes the statements that use a value. */
export interface Sink {
  (value: string): readonly string[];
  /** Whether the value is returned at once. */
  readonly returns: boolean;
}

/** Writes a call: the statements that compute its result and give it to a sink. */
export type CallCode = (sink: Sink) => readonly string[];

/** A call of a member, as layers see it. */
export interface CallSite {
  /** The member as source of a string. */
  readonly member: string;
  readonly label: string;
  /** The expression of its key, if that is a symbol. */
  readonly symbol: string | undefined;
  /** The expressions of the arguments, by position. */
  readonly args: readonly { readonly value: string; readonly name: string }[];
  /** A new list of all arguments. */
  readonly list: string;
  /** The same list, with secrets redacted. */
  readonly loggedList: string;
  readonly settlement: Settlement;
  /** Returns a name that no parameter has, the same one for the same purpose. */
  readonly fresh: (name: string) => string;
}

/** Returns the result of a call. */
export const returning: Sink = Object.assign((value: string) => [`return ${value};`], { returns: true });

/** A sink that goes on with a value. */
export function then(use: (value: string) => readonly string[]): Sink {
  return Object.assign(use, { returns: false });
}

/** Returns a function that makes a call. */
export function functionOf(code: CallCode): string {
  const expression = expressionOf(code);
  return expression === undefined ? `() => {\n${code(returning).join("\n")}\n}` : `() => ${expression}`;
}

/** Returns the result as an expression; `undefined` if it needs statements. */
function expressionOf(code: CallCode): string | undefined {
  const values: string[] = [];
  const collect = (value: string): readonly string[] => {
    values.push(value);
    return [];
  };
  const statements = code(Object.assign(collect, { returns: true }));
  return statements.length === 0 && values.length === 1 ? values[0] : undefined;
}
