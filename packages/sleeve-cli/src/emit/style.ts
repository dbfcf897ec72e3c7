import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";

/** The formatting of a project's source, which generated code follows. */
export interface Style {
  readonly indent: "tab" | 2 | 4;
  readonly quote: '"' | "'";
  readonly hasSemicolons: boolean;
  readonly endOfLine: "\n" | "\r\n";
  /** Maximum line length in characters. */
  readonly width: number;
}

/** A source file, and the offsets of the names of modules in its imports, which are in quotes. */
interface StyledSource {
  readonly text: string;
  readonly sites: readonly { readonly offset: number }[];
}

/** Maximum number of files that are looked at. */
const MAX_SOURCES = 200;

/** Detects the style of sources by majority. */
export function styleOf(root: string, sources: readonly StyledSource[]): Style {
  const indents = new Votes<Style["indent"]>(2);
  const quotes = new Votes<Style["quote"]>('"');
  const ends = new Votes<boolean>(true);
  const lineEnds = new Votes<Style["endOfLine"]>("\n");
  for (const { text, sites } of sources.slice(0, MAX_SOURCES)) {
    // Lines of a comment are indented by one more space.
    const [, indent = ""] = /\n([ \t]+)[^\s*]/.exec(text) ?? [];
    if (indent.startsWith("\t")) indents.add("tab");
    else if (indent.length === 4 || indent.length === 2) indents.add(indent.length);
    lineEnds.add(text.includes("\r\n") ? "\r\n" : "\n");
    for (const { offset } of sites) {
      const quote = text.charAt(offset);
      if (quote === "'" || quote === '"') quotes.add(quote);
      const close = text.indexOf(quote, offset + 1);
      ends.add(/^\s*\)*\s*;/.test(text.slice(close + 1, close + 6)));
    }
  }
  return {
    indent: indents.winner(),
    quote: quotes.winner(),
    hasSemicolons: ends.winner(),
    endOfLine: lineEnds.winner(),
    width: widthIn(root),
  };
}

/** Counts occurrences of each value of a setting. */
class Votes<Value> {
  readonly #default: Value;
  readonly #counts = new Map<Value, number>();

  constructor(defaultValue: Value) {
    this.#default = defaultValue;
  }

  add(value: Value): void {
    this.#counts.set(value, (this.#counts.get(value) ?? 0) + 1);
  }

  /** Returns the value with the most votes; of equal ones the default. */
  winner(): Value {
    let winner = this.#default;
    for (const [value, count] of this.#counts) if (count > (this.#counts.get(winner) ?? 0)) winner = value;
    return winner;
  }
}

/** Files that set the line width for formatters and editors. */
const WIDTH_FILES = [
  "biome.json",
  "biome.jsonc",
  ".prettierrc",
  ".prettierrc.json",
  "package.json",
  ".editorconfig",
  "dprint.json",
];

/** Returns the line width in a formatter's config or `.editorconfig`. Default: 100. */
function widthIn(root: string): number {
  for (const file of WIDTH_FILES) {
    const path = join(root, file);
    if (!existsSync(path)) continue;
    const [, width] =
      /(?:"?lineWidth"?|"?printWidth"?|max_line_length)\s*[:=]\s*(\d+)/.exec(readFileSync(path, "utf8")) ??
      [];
    if (width !== undefined) return Number(width);
  }
  return 100;
}
