import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { SourceText } from "../project/source-text.ts";

/** The formatting of a project's source that drafted code follows. */
export interface Style {
  readonly indent: string;
  readonly quote: '"' | "'";
  readonly semicolon: ";" | "";
  readonly endOfLine: "\n" | "\r\n";
  /** Maximum line length in characters. */
  readonly width: number;
}

/** Detects the style of sources by majority. */
export function styleOf(root: string, sources: readonly SourceText[]): Style {
  const votes = { tab: 0, two: 0, four: 0, single: 0, double: 0, closed: 0, open: 0, crlf: 0, lf: 0 };
  for (const { text, sites } of sources.slice(0, 200)) {
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
  const spaces = votes.four > votes.two ? "    " : "  ";
  return {
    indent: votes.tab > votes.two + votes.four ? "\t" : spaces,
    quote: votes.single > votes.double ? "'" : '"',
    semicolon: votes.open > votes.closed ? "" : ";",
    endOfLine: votes.crlf > votes.lf ? "\r\n" : "\n",
    width: widthIn(root),
  };
}

/** Returns the line width in a formatter's config or `.editorconfig`. Default: 100. */
function widthIn(root: string): number {
  const files = [
    "biome.json",
    "biome.jsonc",
    ".prettierrc",
    ".prettierrc.json",
    "package.json",
    ".editorconfig",
    "dprint.json",
  ];
  for (const file of files) {
    const path = join(root, file);
    if (!existsSync(path)) continue;
    const [, width] =
      /(?:"?lineWidth"?|"?printWidth"?|max_line_length)\s*[:=]\s*(\d+)/.exec(readFileSync(path, "utf8")) ??
      [];
    if (width !== undefined) return Number(width);
  }
  return 100;
}

/** Converts source with two spaces, double quotes, semicolons and line feeds to a style. */
export function inStyle(text: string, { indent, quote, semicolon, endOfLine, width }: Style): string {
  const lines = text.split("\n").flatMap((line) => broken(line, width));
  return lines
    .map((line) => {
      const [spaces = ""] = /^ */.exec(line) ?? [];
      // Comments, and strings that contain the other quote, stay unchanged.
      const isComment = /^\s*(\/\*|\*|\/\/)/.test(line);
      const body = line.slice(spaces.length);
      const quoted = quote === '"' || isComment ? body : body.replace(/"([^"'\\]*)"/g, "'$1'");
      const closed = semicolon === "" && !isComment ? quoted.replace(/;$/, "") : quoted;
      return `${indent.repeat(spaces.length / 2)}${" ".repeat(spaces.length % 2)}${closed}`.trimEnd();
    })
    .join(endOfLine);
}

/** A long line is broken after the bracket that opens its list, and after each comma of the list. */
function broken(line: string, width: number): readonly string[] {
  // In a template, a line break would become a part of the text.
  if (line.length <= width || /^\s*(\/\*|\*|\/\/)|`/.test(line)) return [line];
  const [indent = ""] = /^ */.exec(line) ?? [];
  const list = outermostList(line);
  if (!list) return brokenUnion(line, indent);
  const { open, close, items } = list;
  return [
    line.slice(0, open + 1).trimEnd(),
    ...items.flatMap((item) => broken(`${indent}  ${item}`, width)),
    `${indent}${line.slice(close).trimStart()}`,
  ];
}

/** A long union has one part on each line. */
function brokenUnion(line: string, indent: string): readonly string[] {
  const [head] = /^.*?[:=](?= )/.exec(line) ?? [];
  if (head === undefined) return [line];
  const parts: string[] = [];
  let depth = 0;
  let from = head.length + 1;
  for (const found of line.matchAll(/"(?:[^"\\]|\\.)*"|`[^`]*`|=>|[[({<\])}>]| \| /g)) {
    const [token] = found;
    if (found.index < from) continue;
    if (/^[[({<]$/.test(token)) depth++;
    else if (/^[\])}>]$/.test(token)) depth--;
    else if (token === " | " && depth === 0) {
      parts.push(line.slice(from, found.index));
      from = found.index + token.length;
    } else if (token === "=>" && depth === 0) return [line];
  }
  if (parts.length === 0) return [line];
  return [head, ...[...parts, line.slice(from)].map((part) => `${indent}  | ${part}`)];
}

/** Where parameters, arguments or members of an object type open; other brackets contain no list. */
function listStart(line: string): number | undefined {
  const [whole] =
    /^\s*(?:import|export) (?:type )?(?=\{)|^.*?(?<=[\w$>]|new )(?<!\bimport)(?=\()|^.*?(?<=[:=] )(?=\{)/.exec(
      line,
    ) ?? [];
  if (whole === undefined || /[?] /.test(whole) || / extends .* /.test(whole.replace(/<.*>/, "")))
    return undefined;
  return whole.length;
}

/** Returns the first non-empty list in brackets, with its items and separators. */
function outermostList(line: string): { open: number; close: number; items: readonly string[] } | undefined {
  const start = listStart(line);
  if (start === undefined) return undefined;
  let depth = 0;
  let from = start + 1;
  const items: string[] = [];
  // Import names are in braces too, separated by commas.
  const isBody = line.charAt(start) === "{" && !/^\s*(import|export) (type )?\{/.test(line);
  const separator = isBody ? /[;,]/ : /,/;
  for (const found of line.slice(start).matchAll(/"(?:[^"\\]|\\.)*"|=>|[[({<\])}>;,]/g)) {
    const at = start + found.index;
    const [token] = found;
    if (/^[[({<]$/.test(token)) depth++;
    else if (/^[\])}>]$/.test(token)) depth--;
    if (depth === 1 && separator.test(token)) {
      items.push(line.slice(from, at + 1).trim());
      from = at + 1;
    }
    if (depth > 0) continue;
    const last = line.slice(from, at).trim();
    if (last !== "") items.push(`${last}${isBody ? ";" : ","}`);
    // A rest parameter, and what follows it, takes no trailing comma.
    const tidy = items.map((item) => (/^\.\.\./.test(item) ? item.replace(/,$/, "") : item));
    return items.length > 0 ? { open: start, close: at, items: tidy } : undefined;
  }
  return undefined;
}
