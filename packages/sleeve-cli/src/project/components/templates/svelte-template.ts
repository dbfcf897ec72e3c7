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
  const writer = new TemplateWriter(text, isTyped, SCOPE);
  const slice = ({ start = 0, end = 0 }: SvelteNode) => text.slice(start, end);
  const expression = (value: unknown): void => {
    if (isNode(value)) writer.expression(value.start ?? 0, slice(value));
  };
  const parts = (node: SvelteNode, names: readonly string[] = PARTS): void => {
    for (const name of names) visitAll(node[name]);
  };
  const visitAll = (value: unknown): void => {
    for (const item of Array.isArray(value) ? value : [value]) if (isNode(item)) visit(item);
  };
  const visit = (node: SvelteNode): void => {
    switch (node.type) {
      case "EachBlock": {
        const { expression: list, context, index, key } = node;
        if (!isNode(list)) return;
        const pattern = isNode(context)
          ? { pattern: slice(context), at: context.start ?? 0 }
          : { pattern: "_", at: -1 };
        const others = typeof index === "string" ? [index] : [];
        writer.each(list.start ?? 0, slice(list), pattern, others, () => {
          expression(key);
          parts(node);
        });
        return;
      }
      case "AwaitBlock": {
        expression(node["expression"]);
        const { value, error } = node;
        visitAll(node["pending"]);
        writer.bound(isNode(value) ? [slice(value)] : [], () => visitAll(node["then"]));
        writer.bound(isNode(error) ? [slice(error)] : [], () => visitAll(node["catch"]));
        return;
      }
      case "SnippetBlock": {
        const { parameters } = node;
        const patterns = Array.isArray(parameters) ? parameters.filter(isNode).map(slice) : [];
        writer.bound(patterns, () => parts(node));
        return;
      }
      case "ConstTag": {
        const { declaration, expression: assigned } = node;
        const source = isNode(declaration) ? slice(declaration).replace(/^const\s+/, "") : "";
        if (source !== "") writer.constant((declaration as SvelteNode).start ?? 0, source.replace(/;$/, ""));
        else if (isNode(assigned)) writer.constant(assigned.start ?? 0, slice(assigned));
        return;
      }
      case "Fragment":
        writer.block(() => parts(node));
        return;
      default:
        for (const name of ["expression", "test", "argument"]) expression(node[name]);
        parts(node);
    }
  };
  visitAll(root["fragment"] ?? root["html"]);
  return writer.build(script);
}

function isNode(value: unknown): value is SvelteNode {
  return typeof value === "object" && value !== null && typeof (value as SvelteNode).type === "string";
}
