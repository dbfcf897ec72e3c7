/** A range of a text and its replacement. */
export interface TextEdit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** Applies edits that do not overlap. Offsets are those of the original text. */
export function applyEdits(text: string, edits: readonly TextEdit[]): string {
  const sorted = [...edits].sort((left, right) => left.start - right.start || left.end - right.end);
  const parts: string[] = [];
  let at = 0;
  for (const edit of sorted) {
    if (edit.start < at) throw new Error(`edits overlap at ${edit.start}`);
    parts.push(text.slice(at, edit.start), edit.text);
    at = edit.end;
  }
  return `${parts.join("")}${text.slice(at)}`;
}
