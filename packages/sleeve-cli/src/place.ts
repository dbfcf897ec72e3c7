import type { Place } from "./documents/place.ts";

/** Finds lines and columns in one text. */
export class Lines {
  readonly #starts: readonly number[];

  constructor(text: string) {
    const starts = [0];
    for (let at = text.indexOf("\n"); at >= 0; at = text.indexOf("\n", at + 1)) starts.push(at + 1);
    this.#starts = starts;
  }

  at(offset: number): { readonly line: number; readonly column: number } {
    let low = 0;
    let high = this.#starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((this.#starts[middle] as number) <= offset) low = middle;
      else high = middle - 1;
    }
    return { line: low + 1, column: offset - (this.#starts[low] as number) + 1 };
  }

  offsetOf({ line, column }: { readonly line: number; readonly column: number }): number {
    return (this.#starts[line - 1] ?? 0) + column - 1;
  }
}

/** Divides the name of an export, `file#export`. The name of a file may itself contain `#`. */
export function exportParts(place: string): readonly [file: string, exported: string] {
  const at = place.lastIndexOf("#");
  return at < 0 ? [place, ""] : [place.slice(0, at), place.slice(at + 1)];
}

/** Formats a place as editors open it: `src/tides.ts:12:3`. */
export function placeText({ file, line, column }: Place): string {
  return `${file}:${line}:${column}`;
}

/** Orders by file, then line, then column, independent of the machine. */
export function comparePlaces(left: Place, right: Place): number {
  return compareText(left.file, right.file) || left.line - right.line || left.column - right.column;
}

/** Orders text by code units, independent of the locale. */
export function compareText(left: string, right: string): number {
  if (left === right) return 0;
  return left < right ? -1 : 1;
}
