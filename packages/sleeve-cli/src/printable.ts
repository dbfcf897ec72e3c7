/**
 * Characters that a terminal or an editor acts on, except tabs and line ends: control characters, and marks
 * that change the direction of text.
 */
const ACTED_ON = /(?![\t\n])[\p{Cc}\p{Bidi_Control}\u2028\u2029\ufeff]/gu;
const LINE_ENDS = /[\t\n]/g;

/** Whether text is one line without characters that a terminal or an editor acts on. */
export function isPrintable(text: string): boolean {
  return printable(text) === text;
}

/** Returns text of a project as one line that a terminal prints as it is. */
export function printable(text: string): string {
  return printableLines(text).replace(LINE_ENDS, escaped);
}

/** Returns text of a project with its line ends and tabs, and no other control characters. */
export function printableLines(text: string): string {
  return text.replaceAll("\r\n", "\n").replace(ACTED_ON, escaped);
}

/** Returns a line of code without control characters, with the same number of characters. */
export function printableCode(line: string): string {
  return line.replaceAll("\t", " ").replace(ACTED_ON, "\ufffd");
}

/** Returns JSON text that a terminal prints as it is; its meaning stays the same. */
export function printableJson(json: string): string {
  return json.replace(ACTED_ON, (character) => `\\u${hexOf(character)}`);
}

/** Texts of documents that have several lines. */
const HAS_LINES: ReadonlySet<string> = new Set(["text", "diff", "configEntries", "example"]);

/** Returns a document whose texts, keys included, are printable. */
export function printableDocument<Value>(value: Value, key = ""): Value {
  if (typeof value === "string")
    return (HAS_LINES.has(key) ? printableLines(value) : printable(value)) as Value;
  if (typeof value !== "object" || value === null) return value;
  if (Array.isArray(value)) return value.map((item) => printableDocument<unknown>(item, key)) as Value;
  return Object.fromEntries(
    Object.entries(value).map(([name, item]) => [printable(name), printableDocument<unknown>(item, name)]),
  ) as Value;
}

function escaped(character: string): string {
  if (character === "\n") return "\\n";
  if (character === "\t") return "\\t";
  return character === "\r" ? "\\r" : `\\u${hexOf(character)}`;
}

function hexOf(character: string): string {
  return character.charCodeAt(0).toString(16).padStart(4, "0");
}
