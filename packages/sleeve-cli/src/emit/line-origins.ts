import type MagicString from "magic-string";

/** Returns a function from offsets in edited text to offsets in the original. */
export function originIn(out: MagicString): (offset: number) => number {
  const originStarts = lineStarts(out.original);
  const starts = lineStarts(out.toString());
  const { mappings } = out.generateDecodedMap({ hires: "boundary" });
  return (offset) => {
    const line = starts.findLastIndex((start) => start <= offset);
    const column = offset - (starts[line] ?? 0);
    const segment =
      mappings[line]?.findLast(([start]) => start <= column) ??
      mappings
        .slice(0, line)
        .findLast((segments) => segments.length > 0)
        ?.at(-1);
    const [, , originLine = 0, originColumn = 0] = segment ?? [];
    return (originStarts[originLine] ?? 0) + originColumn;
  };
}

function lineStarts(text: string): readonly number[] {
  const starts = [0];
  for (let index = text.indexOf("\n"); index >= 0; index = text.indexOf("\n", index + 1))
    starts.push(index + 1);
  return starts;
}
