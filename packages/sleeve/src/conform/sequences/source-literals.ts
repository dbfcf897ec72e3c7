/** Literals in the source text of functions, which often mark the limits of what they accept. */
export interface SourceLiterals {
  readonly numbers: readonly number[];
  readonly texts: readonly string[];
}

/** Maximum number of literals of each kind, and length of a text. */
const MAX_LITERALS = 24;
const MAX_LENGTH = 40;

/** Returns the literals of functions: numbers with their neighbours, and short texts. */
export function sourceLiterals(functions: readonly unknown[]): SourceLiterals {
  const numbers = new Set<number>();
  const texts = new Set<string>();
  for (const item of functions) {
    if (typeof item !== "function") continue;
    const source = withoutComments(Function.prototype.toString.call(item));
    for (const [, quoted = ""] of source.matchAll(/["']((?:[^"'\\\n]|\\.){1,40})["']/g))
      if (quoted.length <= MAX_LENGTH && !quoted.includes("\\")) texts.add(quoted);
    const code = source.replaceAll(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'/g, '""');
    for (const [text] of code.matchAll(/(?<![\w$.])\d[\d_]*(?:\.\d+)?(?:e[+-]?\d+)?(?![\w$.])/gi)) {
      const value = Number(text.replaceAll("_", ""));
      if (!Number.isFinite(value)) continue;
      for (const near of Number.isInteger(value) ? [value, value - 1, value + 1] : [value]) numbers.add(near);
    }
  }
  return { numbers: [...numbers].slice(0, 3 * MAX_LITERALS), texts: [...texts].slice(0, MAX_LITERALS) };
}

function withoutComments(source: string): string {
  return source.replaceAll(/\/\*.*?\*\/|(?<!:)\/\/[^\n]*/gs, " ");
}
