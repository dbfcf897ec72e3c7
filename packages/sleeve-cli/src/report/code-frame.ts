import type { Place } from "../documents/place.ts";
import { printable, printableCode } from "../printable.ts";
import type { Colours } from "./terminal.ts";

/** The line of a finding, divided at the marked word. */
export interface CodeLine {
  readonly before: string;
  readonly marked: string;
  readonly after: string;
}

/** Returns the texts of files by their names as they are printed. */
export function byPrintableName(texts: ReadonlyMap<string, string>): ReadonlyMap<string, string> {
  return new Map([...texts].map(([file, text]) => [printable(file), text]));
}

/** Returns the line of a place, with the word there; `undefined` if the text has no such line. */
export function codeLine(text: string | undefined, { line, column }: Place): CodeLine | undefined {
  const sourceLine = text?.split("\n")[line - 1]?.replace(/\r$/, "");
  if (sourceLine === undefined) return undefined;
  const shown = printableCode(sourceLine);
  const end = column - 1 + (/^[\w$.]+/.exec(shown.slice(column - 1))?.[0].length ?? 1);
  return {
    before: shown.slice(0, column - 1),
    marked: shown.slice(column - 1, end),
    after: shown.slice(end),
  };
}

/** Longest part of a line that is shown, and how much of it precedes a place far to the right. */
const MAX_WIDTH = 110;
const CONTEXT = 20;

/** Formats the line of a place for the terminal, with a mark under the place. */
export function codeFrame(
  text: string | undefined,
  place: Place,
  indent: string,
  { dim, red }: Colours,
): readonly string[] {
  const code = codeLine(text, place);
  if (!code) return [];
  const { before, marked, after } = code;
  const start = before.length > MAX_WIDTH - CONTEXT ? before.length - CONTEXT : 0;
  const number = String(place.line);
  const padding = " ".repeat(before.length - start);
  return [
    `${indent}${dim(`${number} |`)} ${`${before}${marked}${after}`.slice(start, start + MAX_WIDTH)}`,
    `${indent}${dim(`${" ".repeat(number.length)} |`)} ${padding}${red("^".repeat(Math.max(1, marked.length)))}`,
  ];
}
