/**
 * Source as a tree. A branch may have owners: the choices that an error in its text is attributed to.
 */
export type Code = string | readonly Code[] | OwnedCode;

export interface OwnedCode {
  readonly owners: readonly string[];
  readonly code: Code;
}

/** Returns code that belongs to owners. */
export function owned(owners: readonly string[], code: Code): Code {
  return owners.length === 0 ? code : { owners, code };
}

/** Puts a separator between pieces of code. */
export function joined(pieces: readonly Code[], separator: string): Code {
  return pieces.flatMap((piece, index) => (index === 0 ? [piece] : [separator, piece]));
}

/** A part of printed text, and its owners. */
export interface OwnedSpan {
  readonly start: number;
  readonly end: number;
  readonly owners: readonly string[];
}

/** Source as text, with the spans of the branches that have owners, outer ones first. */
export interface SpannedText {
  readonly text: string;
  readonly spans: readonly OwnedSpan[];
}

/** Returns code as text. */
export function textOf(code: Code): SpannedText {
  const parts: string[] = [];
  const spans: OwnedSpan[] = [];
  let length = 0;
  const add = (piece: Code): void => {
    if (typeof piece === "string") {
      parts.push(piece);
      length += piece.length;
    } else if ("owners" in piece) {
      const start = length;
      const index = spans.push({ start, end: start, owners: piece.owners }) - 1;
      add(piece.code);
      spans[index] = { start, end: length, owners: piece.owners };
    } else piece.forEach(add);
  };
  add(code);
  return { text: parts.join(""), spans };
}
