import type { Settlement } from "../members.ts";

/** Writes the statements that use a value. */
export interface Sink {
  (value: string): readonly string[];
  /** Whether the value is returned at once. */
  readonly returns: boolean;
}

/** Writes a call: the statements that compute its result and give it to a sink. */
export type CallCode = (sink: Sink) => readonly string[];

export type { Settlement };

/** A call of a member, as layers see it. */
export interface CallSite {
  /** The member as source of a string. */
  readonly member: string;
  readonly label: string;
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
  if (expression !== undefined) return `() => ${expression}`;
  return ["() => {", ...code(returning), "}"].join("\n");
}

/** Returns the result as an expression of one line; `undefined` if it needs more. */
export function expressionOf(code: CallCode): string | undefined {
  const lines = code(returning);
  const [only = ""] = lines;
  return lines.length === 1 && only.startsWith("return ") && !only.includes("\n")
    ? only.slice(7, -1)
    : undefined;
}

/** Indents code by its brackets. */
export function indented(lines: readonly string[], level: number): readonly string[] {
  let depth = level;
  return lines
    .flatMap((line) => line.split("\n"))
    .map((line) => {
      if (/^[}\])]/.test(line)) depth--;
      const text = `${"  ".repeat(depth)}${line}`;
      if (/[{[(]$/.test(line)) depth++;
      return text;
    });
}
