import { type TemplateCode, type TemplateScope, TemplateWriter } from "./template-code.ts";

/** A node of the compiler's tree, of which the versions have different kinds. */
export interface VueNode {
  readonly type?: number;
  readonly tag?: string;
  readonly children?: readonly VueNode[];
  readonly props?: readonly VueDirective[];
  readonly content?: unknown;
  readonly loc?: VuePlace;
}

interface VueDirective {
  readonly type?: number;
  readonly name?: string;
  readonly exp?: VueExpression;
}

interface VueExpression {
  readonly content?: string;
  readonly loc?: VuePlace;
}

interface VuePlace {
  readonly start: { readonly offset: number };
}

/** The compiler's number of a directive among the properties of an element. */
const DIRECTIVE = 7;

/** A template sees the value of a reactive reference. */
const SCOPE: TemplateScope = {
  conversions: {
    $plain:
      "T extends { readonly value: infer V } ? Exclude<keyof T, 'value' | 'effect' | symbol> extends never ? V : T : T",
  },
  valueFor: (name) => `$plain(${name})`,
};

/** Returns the expressions of a Vue template, from the tree of the project's compiler. */
export function vueTemplateCode(
  text: string,
  isTyped: boolean,
  root: VueNode,
  script: string,
): TemplateCode | undefined {
  const writer = new TemplateWriter(text, isTyped, SCOPE);
  const visit = (node: VueNode): void => {
    const directives = (node.props ?? []).filter(({ type }) => type === DIRECTIVE);
    const loop = directives.find(({ name }) => name === "for")?.exp;
    const slots = directives.filter(({ name, exp }) => name === "slot" && exp?.content).map(({ exp }) => exp);
    const inside = () => {
      for (const { name, exp } of directives)
        if (exp?.content && name !== "for" && name !== "slot")
          writer.expression(exp.loc?.start.offset ?? 0, exp.content);
      const interpolated = node.content as VueExpression | string | undefined;
      if (typeof interpolated === "object" && interpolated?.content)
        writer.expression(interpolated.loc?.start.offset ?? 0, interpolated.content);
      for (const child of node.children ?? []) visit(child);
    };
    const withSlots = () =>
      slots.length === 0
        ? inside()
        : writer.bound(
            slots.map((slot) => slot?.content ?? ""),
            inside,
          );
    const [, items, list] = /^\s*([\s\S]*?)\s+(?:in|of)\s+([\s\S]*)$/.exec(loop?.content ?? "") ?? [];
    if (items === undefined || list === undefined) {
      withSlots();
      return;
    }
    const [item = "_", ...others] = patternsIn(items.replace(/^\(|\)$/g, ""));
    const at = loop?.loc?.start.offset ?? 0;
    writer.each(at, list.trim(), { pattern: item, at }, others, withSlots);
  };
  visit(root);
  return writer.build(script);
}

/** `{ name, load }` and `index` of `{ name, load }, index`. */
function patternsIn(list: string): readonly string[] {
  const patterns: string[] = [];
  let depth = 0;
  let from = 0;
  for (let at = 0; at <= list.length; at++) {
    const character = list[at];
    if (character === "{" || character === "[") depth++;
    else if (character === "}" || character === "]") depth--;
    else if (at === list.length || (character === "," && depth === 0)) {
      const pattern = list.slice(from, at).trim();
      if (pattern !== "") patterns.push(pattern);
      from = at + 1;
    }
  }
  return patterns;
}
