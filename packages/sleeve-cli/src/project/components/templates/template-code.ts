import { parseAnyDepth } from "../../../parser/parse.ts";

/** A part of generated code that is copied from a component: where it is there, and in the code. */
export type CopiedPart = readonly [from: number, to: number, length: number];

/** The expressions of a template as TypeScript, which is appended to the script that the compiler sees. */
export interface TemplateCode {
  readonly code: string;
  readonly parts: readonly CopiedPart[];
  /** Expressions that cannot be analysed. */
  readonly skipped: readonly string[];
}

/** How a framework changes the values of its script before a template sees them. */
export interface TemplateScope {
  /** Functions that only change types: the result type of each, for an argument of type `T`. */
  readonly conversions: Readonly<Record<string, string>>;
  /** Returns the value of a name in the template, such as that of a reactive reference. */
  readonly valueFor: (name: string) => string;
  /** Names in the template that mean a name of the script: `$count` for `count`. */
  readonly aliases?: ((name: string) => string | undefined) | undefined;
}

/** Collects the expressions of one template. */
export class TemplateWriter {
  readonly #text: string;
  readonly #scope: TemplateScope;
  readonly #isTyped: boolean;
  readonly #pieces: (string | { readonly from: number; readonly text: string })[] = [];
  readonly #skipped: string[] = [];
  readonly #mentioned = new Set<string>();

  /**
   * @param text the text of the component, of which expressions are parts
   * @param isTyped whether the code is TypeScript, rather than JavaScript
   */
  constructor(text: string, isTyped: boolean, scope: TemplateScope) {
    this.#text = text;
    this.#isTyped = isTyped;
    this.#scope = scope;
  }

  /** Adds an expression, or statements of an event handler. */
  expression(from: number, source: string): void {
    const start = this.#found(from, source);
    if (parses(`(${source});`)) this.#add("(", { from: start, text: source }, ");\n");
    else if (parses(`(() => {${source}\n});`))
      this.#add("(() => {", { from: start, text: source }, "\n});\n");
    else this.#skipped.push(source);
  }

  /** Adds an expression of which parts are left out; its beginning is as in the component. */
  generated(from: number, opening: string, closing: string): void {
    const source = `${opening}${closing}`;
    if (parses(`(${source});`))
      this.#add("(", { from: this.#found(from, opening), text: opening }, closing, ");\n");
    else this.#skipped.push(source);
  }

  /** Adds an expression whose items are bound to a pattern in a part of the template. */
  each(
    from: number,
    source: string,
    { pattern, at }: { readonly pattern: string; readonly at: number },
    counters: readonly string[],
    write: () => void,
  ): void {
    const start = this.#found(from, source);
    if (!parses(`for (const ${pattern} of $each(${source})) {}`)) {
      this.#skipped.push(source);
      write();
      return;
    }
    this.#add("for (const ", { from: this.#found(at, pattern), text: pattern }, " of $each(");
    this.#add({ from: start, text: source }, ")) {\n");
    for (const counter of counters) this.#add(`const ${counter} = 0;\n`);
    write();
    this.#add("}\n");
  }

  /** Adds a part of the template in which a pattern is bound to a value that is not known. */
  bound(patterns: readonly string[], write: () => void): void {
    const parameters = patterns.map((pattern) => (this.#isTyped ? `${pattern}: any` : pattern));
    const isReadable = parameters.every((pattern) => parses(`((${pattern}) => {});`));
    if (!isReadable) this.#skipped.push(...patterns);
    this.#add(`((${isReadable ? parameters.join(", ") : ""}) => {\n`);
    write();
    this.#add("});\n");
  }

  /** Adds `pattern = expression`, for the rest of a part of the template. */
  constant(from: number, source: string): void {
    if (parses(`const ${source};`))
      this.#add("const ", { from: this.#found(from, source), text: source }, ";\n");
    else this.#skipped.push(source);
  }

  /** Adds a part of the template with its own constants. */
  block(write: () => void): void {
    this.#add("{\n");
    write();
    this.#add("}\n");
  }

  skip(source: string): void {
    this.#skipped.push(source);
  }

  /** Returns the code; it names only what the script declares at its top level. */
  build(script: string): TemplateCode | undefined {
    const declared = topLevelNames(script);
    const { conversions, valueFor, aliases } = this.#scope;
    const names = [...this.#mentioned].filter((name) => declared.has(aliases?.(name) ?? name)).sort();
    const declarations = Object.entries({ $each: EACH, ...conversions }).map(([name, result]) =>
      conversion(name, result, this.#isTyped),
    );
    const opening = `\n;${declarations.join("\n")}\n(({ ${names.join(", ")} }) => {\n`;
    const closing = `})({ ${names.map((name) => `${name}: ${valueFor(name)}`).join(", ")} });\n`;
    let code = opening;
    const parts: CopiedPart[] = [];
    for (const piece of this.#pieces) {
      if (typeof piece === "string") code += piece;
      else {
        if (piece.from >= 0) parts.push([piece.from, code.length, piece.text.length]);
        code += piece.text;
      }
    }
    const isEmpty = names.length === 0 || this.#pieces.length === 0;
    if (isEmpty && this.#skipped.length === 0) return undefined;
    return isEmpty
      ? { code: "", parts: [], skipped: this.#skipped }
      : { code: code + closing, parts, skipped: this.#skipped };
  }

  #add(...pieces: readonly (string | { readonly from: number; readonly text: string })[]): void {
    for (const piece of pieces) {
      this.#pieces.push(piece);
      const source = typeof piece === "string" ? piece : piece.text;
      for (const [name] of source.matchAll(/[A-Za-z_$][\w$]*/g)) this.#mentioned.add(name);
    }
  }

  /** Positions of compilers may be those of white space before an expression; -1 if the text is elsewhere. */
  #found(from: number, source: string): number {
    return this.#text.indexOf(source, Math.max(0, from));
  }
}

function parses(source: string): boolean {
  return parseAnyDepth("template.ts", source, { lang: "ts" }).errors.length === 0;
}

/** Returns the names that a script declares at its top level, imports included. */
function topLevelNames(script: string): ReadonlySet<string> {
  const { program, module } = parseAnyDepth("script.ts", script, { lang: "ts" });
  const names = new Set(
    module.staticImports.flatMap(({ entries }) =>
      entries.filter(({ isType }) => !isType).map(({ localName }) => localName.value),
    ),
  );
  const add = (pattern: unknown): void => {
    const { type, name, properties, elements, value, left, argument } = (pattern ?? {}) as {
      readonly type?: string;
      readonly name?: string;
      readonly properties?: readonly unknown[];
      readonly elements?: readonly unknown[];
      readonly value?: unknown;
      readonly left?: unknown;
      readonly argument?: unknown;
    };
    if (type === "Identifier" && name !== undefined) names.add(name);
    for (const part of [...(properties ?? []), ...(elements ?? [])]) add(part);
    for (const part of [value, left, argument]) if (part !== undefined) add(part);
  };
  for (const statement of program.body) {
    const declaration = statement.type === "ExportNamedDeclaration" ? statement.declaration : statement;
    if (declaration?.type === "VariableDeclaration") for (const { id } of declaration.declarations) add(id);
    else if (declaration?.type === "FunctionDeclaration" || declaration?.type === "ClassDeclaration")
      add(declaration.id);
  }
  return names;
}

/** The items of a list, of an iterable, of a number, or of the values of an object. */
const EACH =
  "T extends readonly (infer I)[] ? readonly I[] : T extends Iterable<infer I> ? Iterable<I> : T extends number ? readonly number[] : readonly T[keyof T][]";

/** Declares a function that returns its argument as another type. In scripts, types are in comments. */
function conversion(name: string, result: string, isTyped: boolean): string {
  return isTyped
    ? `function ${name}<T>(value: T): ${result} { return value as never; }`
    : `/** @template T @param {T} value @returns {${result}} */ function ${name}(value) { return /** @type {never} */ (value); }`;
}
