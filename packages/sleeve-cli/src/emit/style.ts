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
  const votes = { tab: 0, two: 0, four: 0, single: 0, double: 0, closed: 0, open: 0, crlf: 0, lf: 0 };
  for (const { text, sites } of sources.slice(0, MAX_SOURCES)) {
    // Lines of a comment are indented by one more space.
    const [, indent = ""] = /\n([ \t]+)[^\s*]/.exec(text) ?? [];
    if (indent.startsWith("\t")) votes.tab++;
    else if (indent.length === 4) votes.four++;
    else if (indent.length === 2) votes.two++;
    votes[text.includes("\r\n") ? "crlf" : "lf"]++;
    for (const { offset } of sites) {
      const quote = text.charAt(offset);
      if (quote === "'") votes.single++;
      else if (quote === '"') votes.double++;
      const close = text.indexOf(quote, offset + 1);
      votes[/^\s*\)*\s*;/.test(text.slice(close + 1, close + 6)) ? "closed" : "open"]++;
    }
  }
  return {
    indent: votes.tab > votes.two + votes.four ? "tab" : votes.four > votes.two ? 4 : 2,
    quote: votes.single > votes.double ? "'" : '"',
    hasSemicolons: votes.open <= votes.closed,
    endOfLine: votes.crlf > votes.lf ? "\r\n" : "\n",
    width: widthIn(root),
  };
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
