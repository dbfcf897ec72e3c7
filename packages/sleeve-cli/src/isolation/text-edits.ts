import MagicString from "magic-string";

/** A range of a text and its replacement. */
export interface TextEdit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** Applies edits that do not overlap. Offsets are those of the original text. */
export function applyEdits(text: string, edits: readonly TextEdit[]): string {
  const edited = new MagicString(text);
  for (const { start, end, text: replacement } of edits) {
    if (start === end) edited.appendLeft(start, replacement);
    else edited.update(start, end, replacement);
  }
  return edited.toString();
}

/** Removes statements with their lines and, between two empty lines, one of them. */
export function removal(text: string, { start, end }: Pick<TextEdit, "start" | "end">): TextEdit {
  const [line = ""] = /^[ \t]*\r?\n/.exec(text.slice(end)) ?? [];
  const isAfterEmpty = /\n[ \t]*\r?\n$/.test(text.slice(0, start));
  const [empty = ""] = (isAfterEmpty && /^[ \t]*\r?\n/.exec(text.slice(end + line.length))) || [];
  return { start, end: end + line.length + empty.length, text: "" };
}
