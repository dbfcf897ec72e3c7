import { PLAIN_SCOPE } from "./mdx-template.ts";
import { type TemplateCode, TemplateWriter } from "./template-code.ts";

/** A node of the compiler's tree. */
export interface AstroNode {
  readonly type: string;
  readonly name?: string;
  readonly value?: string;
  readonly kind?: string;
  readonly children?: readonly AstroNode[];
  readonly attributes?: readonly AstroNode[];
  readonly position?: { readonly start?: { readonly offset: number } };
}

/** Returns the expressions of an Astro template, from the tree of the project's compiler. */
export function astroTemplateCode(
  text: string,
  root: AstroNode,
  offsetOf: (byte: number) => number,
  script: string,
): TemplateCode | undefined {
  const writer = new TemplateWriter(text, true, PLAIN_SCOPE);
  const visit = ({ type, children = [], attributes = [], position }: AstroNode): void => {
    const start = offsetOf(position?.start?.offset ?? 0);
    for (const { kind, value, type: attributeType } of attributes)
      if (attributeType === "attribute" && kind !== "quoted" && kind !== "empty" && value)
        writer.expression(start, value);
    if (type !== "expression") {
      for (const child of children) visit(child);
      return;
    }
    // Elements inside an expression have their own expressions.
    const isWhole = children.every((child) => child.type === "text");
    const code = children.map((child) => (child.type === "text" ? (child.value ?? "") : "null"));
    const items =
      /^\s*([\w$.]+)\.(?:map|flatMap)\(\s*\(?\s*([^)=]*?)\s*\)?\s*=>\s*[({]?\s*(?:return\b)?\s*$/.exec(
        code[0] ?? "",
      );
    const inside = () => {
      for (const child of children) if (child.type !== "text") visit(child);
    };
    if (isWhole) writer.expression(start, code.join(""));
    else if (items?.[1] !== undefined)
      writer.each(start, items[1], { pattern: items[2] || "_", at: start }, [], inside);
    else {
      const [opening = "", ...otherCode] = code;
      const source = code.join("");
      if (source.replace(/[\s&|?:()]|\bnull\b/g, "") !== "")
        writer.generated(start, opening, otherCode.join(""));
      inside();
    }
  };
  visit(root);
  return writer.build(script);
}
