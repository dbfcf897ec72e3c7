import pico from "picocolors";

/** Functions that colour text. Without colour, each returns its text unchanged. */
export type Colours = ReturnType<typeof pico.createColors>;

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
      widths[index] = Math.max(widths[index] ?? 0, String(cell).length);
    });
  }
  return rows.map((row) => {
    const cells = row.map((cell, index) => {
      const width = widths[index] ?? 0;
      return typeof cell === "number" ? String(cell).padStart(width) : cell.padEnd(width);
    });
    return `${indent}${cells.join("  ")}`.trimEnd();
  });
}

/** `1 file`, `2 files`. */
export function counted(count: number, singular: string, plural = `${singular}s`): string {
  return `${count} ${count === 1 ? singular : plural}`;
}
