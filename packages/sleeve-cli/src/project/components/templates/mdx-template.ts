import { type TemplateCode, type TemplateScope, TemplateWriter } from "./template-code.ts";

/** A node of the compiler's tree. */
export interface MarkdownNode {
  readonly type: string;
  readonly value?: unknown;
  readonly children?: readonly MarkdownNode[];
  readonly attributes?: readonly MarkdownNode[];
  readonly position?: {
    readonly start: { readonly offset: number };
    readonly end: { readonly offset: number };
  };
}

/** A document sees the values of its module as they are. */
export const PLAIN_SCOPE: TemplateScope = {
  conversions: {},
  valueFor: (name) => name,
};

/** Returns the expressions of an MDX document, from the tree of the project's compiler. */
export function mdxTemplateCode(
  text: string,
  isTyped: boolean,
  root: MarkdownNode,
  script: string,
): TemplateCode | undefined {
  const writer = new TemplateWriter(text, isTyped, PLAIN_SCOPE);
  const visit = ({ type, value, children = [], attributes = [], position }: MarkdownNode): void => {
    const start = position?.start.offset ?? 0;
    if (/^mdx(?:Flow|Text)Expression$/.test(type) && typeof value === "string" && !isComment(value))
      writer.expression(start, value);
    for (const attribute of attributes) {
      const { value: nested } = (attribute.value ?? {}) as { readonly value?: unknown };
      if (typeof nested === "string") writer.expression(start, nested);
      else if (attribute.type === "mdxJsxExpressionAttribute" && typeof attribute.value === "string")
        writer.expression(start, attribute.value.replace(/^\s*\.\.\./, ""));
    }
    for (const child of children) visit(child);
  };
  visit(root);
  return writer.build(script);
}

function isComment(source: string): boolean {
  return source.replace(/\/\*[\s\S]*?\*\/|\/\/[^\n]*/g, "").trim() === "";
}
