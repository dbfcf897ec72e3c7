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
