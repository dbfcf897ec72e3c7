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
  const visit = (node: AstroNode): void => {
    const { type, children = [], attributes = [], position } = node;
    const start = offsetOf(position?.start?.offset ?? 0);
    for (const attribute of attributes) {
      const code = attributeCode(attribute);
      if (code !== "") writer.expression(start, code);
    }
    if (type === "expression") expression(start, children);
    else for (const child of children) visit(child);
  };
  const expression = (start: number, children: readonly AstroNode[]): void => {
    const code = children.map((child) => (isText(child) ? (child.value ?? "") : "null"));
    const [opening = "", ...followingCode] = code;
    // Elements inside an expression have their own expressions.
    const visitElements = () => {
      for (const child of children) if (!isText(child)) visit(child);
    };
    const [, list, item] = LIST_OF_ELEMENTS.exec(opening) ?? [];
    if (children.every(isText)) writer.expression(start, code.join(""));
    else if (list !== undefined)
      writer.each(start, list, { pattern: item || "_", at: start }, [], visitElements);
    else {
      if (code.join("").replace(/[\s&|?:()]|\bnull\b/g, "") !== "")
        writer.generated(start, opening, followingCode.join(""));
      visitElements();
    }
  };
  visit(root);
  return writer.build(script);
}

/** `{items.map((item) => `, before an element. */
const LIST_OF_ELEMENTS =
  /^\s*([\w$.]+)\.(?:map|flatMap)\(\s*\(?\s*([^)=]*?)\s*\)?\s*=>\s*[({]?\s*(?:return\b)?\s*$/;

function isText({ type }: AstroNode): boolean {
  return type === "text";
}

/** The expression of an attribute; empty if it has none. */
function attributeCode({ type, kind, value = "" }: AstroNode): string {
  return type === "attribute" && kind !== "quoted" && kind !== "empty" ? value : "";
}
