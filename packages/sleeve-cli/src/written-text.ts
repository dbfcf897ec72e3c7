import { CliError } from "./errors.ts";
import { isPrintable, printable } from "./printable.ts";

/** Where text of a project or a package stands in source that is written. */
export type SourcePosition = "string" | "line comment" | "block comment";

/**
 * Returns text of a project or a package (paths, names, documentation) as it can be written in source: as a string
 * literal in double quotes, which may itself be in a comment, or as part of a line of a comment. It can end neither, and
 * contains no character that an editor or a terminal acts on.
 */
export function writtenText(text: string, position: SourcePosition): string {
  switch (position) {
    case "line comment":
      return printable(text);
    case "block comment":
      return printable(text).replaceAll("*/", "*\\/");
    case "string":
      return isPrintable(text)
        ? JSON.stringify(text).replaceAll("*/", "*\\/")
        : JSON.stringify(text)
            .replace(/[^\x20-\x7e]/g, unicodeEscape)
            .replaceAll("*/", "*\\/");
  }
}

function unicodeEscape(character: string): string {
  return `\\u${character.charCodeAt(0).toString(16).padStart(4, "0")}`;
}

/** Returns a string literal in double quotes. */
export function stringLiteral(text: string): string {
  return writtenText(text, "string");
}

/** Returns a literal of a text or a number. */
export function valueLiteral(value: string | number): string {
  return typeof value === "number" ? String(value) : stringLiteral(value);
}

/**
 * Refuses paths that cannot be written on one line of source.
 *
 * @throws {CliError} `BAD_PATH`
 */
export function requirePlainPaths(paths: Iterable<string>): void {
  for (const path of paths) {
    if (isPrintable(path)) continue;
    throw new CliError(
      "BAD_PATH",
      `The path ${path} contains a control character or a line separator. Rename the file or folder, and run again.`,
    );
  }
}
