import jsTokens from "js-tokens";
import { type ParseResult, type ParserOptions, parseSync } from "oxc-parser";
import { CliError } from "../errors.ts";

/** Depth of brackets above which the parser may exhaust its stack, which ends the process. */
const MAX_DEPTH = 500;
/** Length of code without `;`, a comma or a brace above which an expression may be as deep. */
const MAX_STRETCH = 8000;
/** Number of statements that follow each other without braces: `else if (a) b; else if (c) d;`. */
const MAX_CHAIN = 1000;

/**
 * Parses source.
 *
 * @throws {CliError} `UNREADABLE` if it is nested so deeply that the parser might end the process
 */
export function parse(path: string, text: string, options?: ParserOptions): ParseResult {
  if (isDeep(path, text))
    throw new CliError(
      "UNREADABLE",
      `${path} is nested too deeply to be read. Divide its deepest expressions and run again.`,
    );
  return parseSync(path, text, options);
}

/** Parses source however deep it is, for a process that this may end. */
export function parseAnyDepth(path: string, text: string, options?: ParserOptions): ParseResult {
  return parseSync(path, text, options);
}

/**
 * Whether source may be nested too deeply to parse it in this process. Comments and the text of strings do not count.
 * May return `true` too often.
 */
export function isDeep(path: string, text: string): boolean {
  // Reading tokens is slow, and few files need it.
  return hasDeepText(text) && hasDeepText(codeIn(text, /\.[jt]sx$/.test(path)));
}

/** Returns source without comments, and without the text of strings, templates and regular expressions. */
function codeIn(text: string, jsx: boolean): string {
  let code = "";
  for (const { type, value } of jsTokens(text, { jsx })) code += TOKEN_CODE[type] ?? value;
  return code;
}

/** What replaces a token whose text does not count. The parts of a template are brackets around its expressions. */
const TOKEN_CODE: Readonly<Record<string, string>> = {
  MultiLineComment: " ",
  SingleLineComment: " ",
  StringLiteral: "0",
  NoSubstitutionTemplate: "0",
  TemplateHead: "(",
  TemplateMiddle: "+",
  TemplateTail: ")",
  RegularExpressionLiteral: "0",
  JSXText: " ",
  JSXString: "0",
};

function hasDeepText(text: string): boolean {
  if (text.length < MAX_DEPTH) return false;
  let depth = 0;
  let separatedAt = 0;
  for (let index = 0; index < text.length; index++) {
    const kind = KINDS[text.charCodeAt(index)];
    if (kind === undefined || kind === OTHER) continue;
    depth = Math.max(0, depth + depthChange(kind, text, index));
    if (depth > MAX_DEPTH) return true;
    if (kind < SEPARATOR) continue;
    if (index - separatedAt > MAX_STRETCH) return true;
    separatedAt = index;
  }
  if (text.length - separatedAt > MAX_STRETCH) return true;
  return text.length > 4 * MAX_CHAIN && (text.match(CHAINED)?.length ?? 0) > MAX_CHAIN;
}

function depthChange(kind: number, text: string, index: number): number {
  switch (kind) {
    case OPENING:
    case BRACE:
      return 1;
    case CLOSING:
    case CLOSING_BRACE:
      return -1;
    case ANGLE:
      // Type arguments, rather than a comparison.
      return KINDS[text.charCodeAt(index + 1)] === BLANK ? 0 : 1;
    default:
      return 0;
  }
}

/** Kinds of characters; from `SEPARATOR` on, they divide expressions. */
const [OTHER, BLANK, OPENING, CLOSING, ANGLE, SEPARATOR, BRACE, CLOSING_BRACE] = [0, 1, 2, 3, 4, 5, 6, 7];

const KINDS = new Uint8Array(128);
for (const [characters, kind] of [
  [" ", BLANK],
  ["([", OPENING],
  [")]>", CLOSING],
  ["<", ANGLE],
  [";,", SEPARATOR],
  ["{", BRACE],
  ["}", CLOSING_BRACE],
] as const)
  for (const character of characters) KINDS[character.charCodeAt(0)] = kind;

const CHAINED = /\belse\b|\)\s*(?:for|while|if|with)\b/g;
