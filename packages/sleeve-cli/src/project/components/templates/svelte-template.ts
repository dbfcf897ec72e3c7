import { type TemplateCode, type TemplateScope, TemplateWriter } from "./template-code.ts";

/** A node of the compiler's tree: of the template, or of an expression. */
export interface SvelteNode {
  readonly type?: string;
  readonly start?: number;
  readonly end?: number;
  readonly [key: string]: unknown;
}

/** A template sees the value of a store as `$count`. */
const SCOPE: TemplateScope = {
  conversions: { $stored: "T extends { subscribe(run: (value: infer V) => void): unknown } ? V : never" },
  aliases: (name) => (name.startsWith("$") && name.length > 1 ? name.slice(1) : undefined),
  valueFor: (name) => (name.startsWith("$") && name.length > 1 ? `$stored(${name.slice(1)})` : name),
};

/** Properties of nodes that contain parts of a template. */
const PARTS = [
  "fragment",
  "html",
  "nodes",
  "children",
  "attributes",
  "value",
  "body",
  "consequent",
  "alternate",
  "else",
  "fallback",
  "pending",
  "catch",
] as const;

/** Returns the expressions of a Svelte template, from the tree of the project's compiler. */
export function svelteTemplateCode(
  text: string,
  isTyped: boolean,
  root: SvelteNode,
  script: string,
): TemplateCode | undefined {
  const reader = new SvelteReader(text, new TemplateWriter(text, isTyped, SCOPE));
  return reader.read(root).build(script);
}

/** Passes the expressions of a template to a writer, with the names that their blocks declare. */
class SvelteReader {
  readonly #text: string;
  readonly #writer: TemplateWriter;

  constructor(text: string, writer: TemplateWriter) {
    this.#text = text;
    this.#writer = writer;
  }

  read(root: SvelteNode): TemplateWriter {
    this.#visitAll(root["fragment"] ?? root["html"]);
    return this.#writer;
  }

  #visitAll(value: unknown): void {
    for (const item of Array.isArray(value) ? value : [value]) if (isNode(item)) this.#visit(item);
  }

  #visit(node: SvelteNode): void {
    switch (node.type) {
      case "EachBlock":
        this.#each(node);
        break;
      case "AwaitBlock":
        this.#await(node);
        break;
      case "SnippetBlock":
        this.#snippet(node);
        break;
      case "ConstTag":
        this.#constant(node);
        break;
      case "Fragment":
        this.#writer.block(() => this.#parts(node));
        break;
      default:
        for (const name of ["expression", "test", "argument"]) this.#expression(node[name]);
        this.#parts(node);
    }
  }

  #each(node: SvelteNode): void {
    const { expression: list, context, index, key } = node;
    if (!isNode(list)) return;
    const pattern = isNode(context)
      ? { pattern: this.#slice(context), at: context.start ?? 0 }
      : { pattern: "_", at: -1 };
    const indexNames = typeof index === "string" ? [index] : [];
    this.#writer.each(list.start ?? 0, this.#slice(list), pattern, indexNames, () => {
      this.#expression(key);
      this.#parts(node);
    });
  }

  #await(node: SvelteNode): void {
    const { expression, value, error, pending } = node;
    this.#expression(expression);
    this.#visitAll(pending);
    this.#writer.bound(isNode(value) ? [this.#slice(value)] : [], () => this.#visitAll(node["then"]));
    this.#writer.bound(isNode(error) ? [this.#slice(error)] : [], () => this.#visitAll(node["catch"]));
  }

  #snippet(node: SvelteNode): void {
    const { parameters } = node;
    const nodes = Array.isArray(parameters) ? parameters.filter(isNode) : [];
    const patterns = nodes.map((parameter) => this.#slice(parameter));
    this.#writer.bound(patterns, () => this.#parts(node));
  }

  #constant({ declaration, expression }: SvelteNode): void {
    const source = isNode(declaration) ? this.#slice(declaration).replace(/^const\s+/, "") : "";
    if (isNode(declaration) && source !== "")
      this.#writer.constant(declaration.start ?? 0, source.replace(/;$/, ""));
    else if (isNode(expression)) this.#writer.constant(expression.start ?? 0, this.#slice(expression));
  }

  #parts(node: SvelteNode): void {
    for (const name of PARTS) this.#visitAll(node[name]);
  }

  #expression(value: unknown): void {
    if (isNode(value)) this.#writer.expression(value.start ?? 0, this.#slice(value));
  }

  #slice({ start = 0, end = 0 }: SvelteNode): string {
    return this.#text.slice(start, end);
  }
}

function isNode(value: unknown): value is SvelteNode {
  return typeof value === "object" && value !== null && typeof (value as SvelteNode).type === "string";
}
