import { parseSync, Visitor } from "oxc-parser";

/** Maximum number of mutants of one file. */
const MOST = 12;

/**
 * Returns copies of a file in each of which one option is misspelt: a key of an object literal among the
 * arguments of a call.
 */
export function mutantsOf(text: string): readonly string[] {
  const keys: { readonly start: number; readonly end: number }[] = [];
  const literals: { readonly start: number; readonly end: number }[] = [];
  new Visitor({
    CallExpression: ({ arguments: given }) => literals.push(...given),
    NewExpression: ({ arguments: given }) => literals.push(...given),
    ObjectExpression: (literal) => {
      // Only literals that are arguments, not those inside callbacks or data.
      if (!literals.some(({ start, end }) => start === literal.start && end === literal.end)) return;
      for (const property of literal.properties)
        if (property.type === "Property" && !property.computed && !property.shorthand)
          if (property.key.type === "Identifier") keys.push(property.key);
    },
  }).visit(parseSync("main.ts", text).program);
  return keys.slice(0, MOST).map(({ end }) => `${text.slice(0, end)}Misspelt${text.slice(end)}`);
}
