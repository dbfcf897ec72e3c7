import pico from "picocolors";
import stringWidth from "string-width";
import wrapAnsi from "wrap-ansi";

/** Functions that colour text. Without colour, each returns its text unchanged. */
export type Colours = Readonly<
  Record<"bold" | "cyan" | "dim" | "green" | "red" | "yellow", (text: string) => string>
>;

/** Returns the colours for a stream: on a terminal or with `FORCE_COLOR`, and never with `NO_COLOR`. */
export function coloursFor(stream: { readonly isTTY?: boolean }): Colours {
  const { NO_COLOR, FORCE_COLOR, TERM } = process.env;
  const isForced = FORCE_COLOR !== undefined && FORCE_COLOR !== "0";
  return pico.createColors(!NO_COLOR && (isForced || (stream.isTTY === true && TERM !== "dumb")));
}

/** Aligns cells in columns; numbers to the right. */
export function columns(rows: readonly (readonly (string | number)[])[], indent = ""): string[] {
  const widths: number[] = [];
  for (const row of rows) {
    row.forEach((cell, index) => {
      widths[index] = Math.max(widths[index] ?? 0, stringWidth(String(cell)));
    });
  }
  return rows.map((row) => {
    const cells = row.map((cell, index) => {
      const width = widths[index] ?? 0;
      const fill = " ".repeat(width - stringWidth(String(cell)));
      return typeof cell === "number" ? `${fill}${cell}` : `${cell}${fill}`;
    });
    return `${indent}${cells.join("  ")}`.trimEnd();
  });
}

/** `1 file`, `2 files`. */
export function counted(count: number, singular: string, plural = `${singular}s`): string {
  return `${count} ${count === 1 ? singular : plural}`;
}

/** Width of output that is not a terminal, in columns. */
const DEFAULT_WIDTH = 100;
const INDENT = 6;
const LABEL_WIDTH = 10;

/** Wraps a text to the width of the terminal. */
export function paragraph(text: string): string[] {
  return wrapAnsi(text, Math.max(40, process.stdout.columns ?? DEFAULT_WIDTH)).split("\n");
}

/** Formats a label and a text that wraps to the width of the terminal: `expected  (hour: number) => ...`. */
export function labelled(label: string, text: string): string[] {
  const width = Math.max(40, process.stdout.columns ?? DEFAULT_WIDTH);
  const indent = INDENT + LABEL_WIDTH;
  const [firstLine = "", ...otherLines] = wrapAnsi(text, width - indent, { hard: true }).split("\n");
  return [
    `${" ".repeat(INDENT)}${label.padEnd(LABEL_WIDTH)}${firstLine}`,
    ...otherLines.map((line) => `${" ".repeat(indent)}${line}`),
  ];
}
