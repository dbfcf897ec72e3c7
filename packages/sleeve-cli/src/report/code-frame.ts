import type { Place } from "../documents/place.ts";

import type { Colours } from "./terminal.ts";

const WIDEST = 110;

/** Returns the line of a finding, with a mark under its place. */
export function codeFrame(
  text: string | undefined,
  { line, column }: Place,
  indent: string,
  { dim, red }: Colours,
): readonly string[] {
  const shown = text?.split("\n")[line - 1]?.replace(/\r$/, "").replaceAll("\t", " ");
  if (shown === undefined) return [];
  // A long line is shown from shortly before the place.
  const start = column > WIDEST - 20 ? column - 20 : 0;
  const part = shown.slice(start, start + WIDEST);
  const number = String(line);
  const rest = part.slice(column - 1 - start);
  const length = Math.max(1, /^[\w$.]+/.exec(rest)?.[0].length ?? 1);
  return [
    `${indent}${dim(`${number} |`)} ${part}`,
    `${indent}${dim(`${" ".repeat(number.length)} |`)} ${" ".repeat(column - 1 - start)}${red("^".repeat(length))}`,
  ];
}
