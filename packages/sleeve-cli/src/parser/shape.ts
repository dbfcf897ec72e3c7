import { parseSync, Visitor } from "oxc-parser";

/** A file's text, told apart into what other files can see the types of, and what they cannot. */
export interface Shape {
  /** What they can. Where it stays the same, all that other files know of this one does too. */
  readonly seen: string;
  /** What they cannot: the bodies of functions that say what they give back, in order, none within another. */
  readonly hidden: readonly Stretch[];
  /** The text, with spaces in the place of comments. */
  readonly plain: string;
}

interface Stretch {
  readonly start: number;
  readonly end: number;
}

/** Reads the shape of a file. In scripts, types stand in comments and follow from bodies, so that nothing is hidden. */
export function shapeOf(path: string, text: string): Shape {
  if (/\.[cm]?jsx?$/.test(path)) return { seen: text, hidden: [], plain: text };
  const { program, comments } = parseSync(path, text);
  const bodies: Stretch[] = [];
  const take = ({ returnType, body }: { returnType?: unknown; body?: Stretch | null }) => {
    if (returnType && body) bodies.push({ start: body.start, end: body.end });
  };
  new Visitor({
    FunctionDeclaration: take,
    FunctionExpression: take,
    ArrowFunctionExpression: take,
  }).visit(program);
  const hidden = bodies
    .sort((left, right) => left.start - right.start)
    .reduce<Stretch[]>((all, each) => {
      if (each.start >= (all.at(-1)?.end ?? 0)) all.push(each);
      return all;
    }, []);
  const plain = withSpaces(
    text,
    comments.filter(({ value }) => !/@|<reference/.test(value)),
  );
  // What is hidden leaves a mark that no source holds.
  const seen = between(hidden, plain.length).map(({ start, end }) => squeezed(plain.slice(start, end)));
  return { seen: seen.join("\0"), hidden, plain };
}

/** The stretches before, between and behind some others. */
function between(hidden: readonly Stretch[], length: number): readonly Stretch[] {
  return [...hidden, { start: length, end: length }].map(({ start }, index) => ({
    start: hidden[index - 1]?.end ?? 0,
    end: start,
  }));
}

function withSpaces(text: string, stretches: readonly Stretch[]): string {
  let plain = "";
  let from = 0;
  for (const { start, end } of stretches) {
    plain += text.slice(from, start) + " ".repeat(end - start);
    from = end;
  }
  return plain + text.slice(from);
}

/** Without the spaces and line ends that make no difference; in a template, every one does. */
function squeezed(text: string): string {
  return text.includes("`") ? text : text.replace(/\s+/g, " ").trim();
}

/** What is hidden in each of two files of the same shape, where that differs: as it is in the one, and in the other. */
export function rewrittenIn(before: Shape, after: Shape): readonly string[] {
  return before.hidden.flatMap((_, index) => {
    const was = bodyAt(before, index);
    const is = bodyAt(after, index);
    return squeezed(was) === squeezed(is) ? [] : [was, is];
  });
}

function bodyAt({ plain, hidden }: Shape, index: number): string {
  return plain.slice(hidden[index]?.start, hidden[index]?.end);
}

/** Where something stands in a file that stood at an offset of another of the same shape; `undefined` where that was rewritten. */
export function offsetIn(before: Shape, after: Shape, offset: number): number | undefined {
  const at = before.hidden.findIndex(({ end }) => offset < end);
  const index = at < 0 ? before.hidden.length : at;
  const isHidden = offset >= (before.hidden[index]?.start ?? Number.POSITIVE_INFINITY);
  const [old, now] = [before, after].map(({ hidden, plain }) =>
    isHidden ? hidden[index] : between(hidden, plain.length)[index],
  );
  if (!old || !now) return undefined;
  if (isHidden && squeezed(bodyAt(before, index)) !== squeezed(bodyAt(after, index))) return undefined;
  // Only spaces may differ, so that as much else stands before it.
  let left = before.plain.slice(old.start, offset).replace(/\s+/g, "").length;
  for (let place = now.start; place < now.end; place++) {
    if (/\s/.test(after.plain.charAt(place))) continue;
    if (left-- === 0) return place;
  }
  return undefined;
}
