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
  if (isDeep(text))
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

/** Whether source may be nested too deeply to parse it in this process. May return `true` too often. */
export function isDeep(text: string): boolean {
  if (text.length < MAX_DEPTH) return false;
  let depth = 0;
  let since = 0;
  for (let index = 0; index < text.length; index++) {
    switch (text.charCodeAt(index)) {
      case OPEN.parenthesis:
      case OPEN.bracket:
        depth++;
        break;
      case OPEN.brace:
        depth++;
        since = index;
        break;
      case OPEN.angle:
        // Type arguments, rather than a comparison.
        if (text.charCodeAt(index + 1) !== SPACE) depth++;
        break;
      case CLOSE.parenthesis:
      case CLOSE.bracket:
      case CLOSE.angle:
        if (depth > 0) depth--;
        break;
      case CLOSE.brace:
        if (depth > 0) depth--;
        since = index;
        break;
      case COMMA:
      case SEMICOLON:
        since = index;
        break;
    }
    if (depth > MAX_DEPTH || index - since > MAX_STRETCH) return true;
  }
  return (text.match(CHAINED)?.length ?? 0) > MAX_CHAIN;
}

const OPEN = { parenthesis: 0x28, bracket: 0x5b, brace: 0x7b, angle: 0x3c } as const;
const CLOSE = { parenthesis: 0x29, bracket: 0x5d, brace: 0x7d, angle: 0x3e } as const;
const [COMMA, SEMICOLON, SPACE] = [0x2c, 0x3b, 0x20];

const CHAINED = /\belse\b|\)\s*(?:for|while|if|with)\b/g;
