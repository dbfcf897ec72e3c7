import { type Declaration, type Statement, Visitor } from "oxc-parser";
import { parse } from "./parse.ts";

/** A file's text, divided into parts whose types other files can see, and parts they cannot. */
export interface MaskedSource {
  /** The visible text. If it stays the same, other files see no change. */
  readonly seen: string;
  /** The hidden ranges, in order, not nested: bodies of functions with declared results, and of constructors. */
  readonly hidden: readonly Stretch[];
  /** The text, with spaces in place of comments. */
  readonly plain: string;
}

interface Stretch {
  readonly start: number;
  readonly end: number;
}

/** Divides a file. In scripts, types are in comments and inferred from bodies, so nothing is hidden. */
export function maskSource(path: string, text: string): MaskedSource {
  if (/\.[cm]?jsx?$/.test(path)) return { seen: text, hidden: [], plain: text };
  const { program, comments } = parse(path, text);
  const bodies: Stretch[] = [];
  const take = ({ returnType, body }: { returnType?: unknown; body?: Stretch | null }) => {
    if (returnType && body) bodies.push({ start: body.start, end: body.end });
  };
  new Visitor({
    FunctionDeclaration: take,
    FunctionExpression: take,
    ArrowFunctionExpression: take,
    ClassBody({ body: elements }) {
      // The types of properties without annotation follow from the constructor.
      const infersProperties = elements.some(
        (element) => element.type === "PropertyDefinition" && !element.typeAnnotation && !element.value,
      );
      for (const element of elements) {
        if (element.type !== "MethodDefinition" || !element.value.body) continue;
        if (element.kind === "set" || (element.kind === "constructor" && !infersProperties))
          bodies.push(element.value.body);
      }
    },
  }).visit(program);
  const hidden = bodies
    .sort((left, right) => left.start - right.start)
    .reduce<Stretch[]>((outermost, body) => {
      if (body.start >= (outermost.at(-1)?.end ?? 0)) outermost.push(body);
      return outermost;
    }, []);
  const plain = withSpaces(
    text,
    comments.filter(({ value }) => !/@|<reference/.test(value)),
  );
  // Hidden ranges leave a mark that does not occur in source.
  const visible = between(hidden, plain.length).map(({ start, end }) => squeezed(plain.slice(start, end)));
  return { seen: visible.join("\0"), hidden, plain };
}

/**
 * Returns a file's text with spaces in place of declarations at its top level, with their comments, all of whose
 * names are unused. Returns the declarations too.
 */
export function withoutUnused(
  path: string,
  text: string,
  isUnused: (name: string) => boolean,
): { readonly text: string; readonly unused: readonly string[] } {
  const { program } = parse(path, text);
  const unused = program.body.flatMap((statement, index) => {
    const declaration = statement.type === "ExportNamedDeclaration" ? statement.declaration : statement;
    const names = declaration ? namesOf(declaration) : [];
    const isWhollyUnused = names.length > 0 && names.every((name) => name !== undefined && isUnused(name));
    const previous = program.body[index - 1];
    return isWhollyUnused ? [{ start: previous?.end ?? statement.start, end: statement.end }] : [];
  });
  return {
    text: withSpaces(text, unused),
    unused: unused.map(({ start, end }) => text.slice(start, end)),
  };
}

/** Returns the names that a statement declares; `undefined` for a pattern. */
function namesOf(statement: Statement | Declaration): readonly (string | undefined)[] {
  switch (statement.type) {
    case "VariableDeclaration":
      return statement.declarations.map(({ id }) => (id.type === "Identifier" ? id.name : undefined));
    case "FunctionDeclaration":
    case "ClassDeclaration":
    case "TSTypeAliasDeclaration":
    case "TSInterfaceDeclaration":
    case "TSEnumDeclaration":
      return [statement.id?.name];
    default:
      return [];
  }
}

/** Returns the ranges before, between and behind the given ones. */
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

/** Removes insignificant white space; in templates, all white space is significant. */
function squeezed(text: string): string {
  return text.includes("`") ? text : text.replace(/\s+/g, " ").trim();
}

/** Returns the hidden ranges that differ between two files with the same visible text, from both. */
export function rewrittenIn(before: MaskedSource, after: MaskedSource): readonly string[] {
  return before.hidden.flatMap((_, index) => {
    const was = bodyAt(before, index);
    const is = bodyAt(after, index);
    return squeezed(was) === squeezed(is) ? [] : [was, is];
  });
}

function bodyAt({ plain, hidden }: MaskedSource, index: number): string {
  return plain.slice(hidden[index]?.start, hidden[index]?.end);
}

/**
 * Returns the offset in a new version of a file for an offset in the old one; `undefined` if that part was
 * rewritten.
 */
export function offsetIn(before: MaskedSource, after: MaskedSource, offset: number): number | undefined {
  const at = before.hidden.findIndex(({ end }) => offset < end);
  const index = at < 0 ? before.hidden.length : at;
  const isHidden = offset >= (before.hidden[index]?.start ?? Number.POSITIVE_INFINITY);
  const [old, now] = [before, after].map(({ hidden, plain }) =>
    isHidden ? hidden[index] : between(hidden, plain.length)[index],
  );
  if (!old || !now) return undefined;
  if (isHidden && squeezed(bodyAt(before, index)) !== squeezed(bodyAt(after, index))) return undefined;
  // Only white space may differ, so the same text precedes it.
  let remainingLength = before.plain.slice(old.start, offset).replace(/\s+/g, "").length;
  for (let place = now.start; place < now.end; place++) {
    if (/\s/.test(after.plain.charAt(place))) continue;
    if (remainingLength-- === 0) return place;
  }
  return undefined;
}
