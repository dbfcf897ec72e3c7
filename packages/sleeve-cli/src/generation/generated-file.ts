import { createHash } from "node:crypto";
import { writtenText } from "../written-text.ts";
import { shellWord } from "./shell-words.ts";

/** The first lines of a generated file: where it comes from, and how it is made again. */
export interface GeneratedHeader {
  /** What was wrapped: `src/tides.ts#TideTable`. */
  readonly source: string;
  /** The command that writes the file again. */
  readonly command: string;
}

const FIRST =
  /^\/\/ Generated from ('(?:[^'\n]|'\\'')*'|\S+) by: (npx sleeve wrap .+)\r?\n\/\/ Content ([0-9a-f]{12})\./;

/** Adds the header to generated code. */
export function withHeader({ source, command }: GeneratedHeader, code: string, endOfLine: string): string {
  const lines = [
    `// Generated from ${writtenText(shellWord(source), "line comment")} by: ${writtenText(command, "line comment")}`,
    `// Content ${digestOf(code)}. Run the command again instead of editing this file.`,
    "",
  ];
  return lines.map((line) => `${line}${endOfLine}`).join("") + code;
}

/** What a file on disk is to the generator. */
export type FoundFile =
  | { readonly kind: "generated"; readonly header: GeneratedHeader }
  /** Its content is not what was generated. */
  | { readonly kind: "edited"; readonly header: GeneratedHeader }
  | { readonly kind: "foreign" };

/** Recognises a generated file, and whether it was edited since. */
export function foundFile(text: string): FoundFile {
  const [, source, command, digest] = FIRST.exec(text) ?? [];
  if (source === undefined || command === undefined) return { kind: "foreign" };
  const code = text.slice(text.search(/\r?\n\r?\n/)).replace(/^\s+/, "");
  const header = { source, command };
  return { kind: digestOf(code) === digest ? "generated" : "edited", header };
}

/** Identifies code, whatever its line ends. */
function digestOf(code: string): string {
  return createHash("sha256").update(code.replaceAll("\r\n", "\n").trim()).digest("hex").slice(0, 12);
}
