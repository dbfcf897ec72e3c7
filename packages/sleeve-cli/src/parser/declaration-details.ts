import { type Expression, Visitor } from "oxc-parser";
import { isDeep, parse } from "./parse.ts";

/** A part of a declaration file that is to be replaced. */
export interface Replacement {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/**
 * Returns the parts of a declaration file that do not concern clients, with their replacements: private members,
 * which make two equal classes different types; `protected`, since subclasses are clients; and values of constants,
 * for which their types remain. Returns none for a file that is nested too deeply to be parsed.
 */
export function clientIrrelevantParts(path: string, text: string): readonly Replacement[] {
  if (isDeep(path, text)) return [];
  const parts: Replacement[] = [];
  new Visitor({
    ClassBody({ body }) {
      for (const element of body) {
        if (!("key" in element) || !("accessibility" in element)) continue;
        const { start, end, key, accessibility } = element;
        const isConstructor = "kind" in element && element.kind === "constructor";
        const isPrivate = accessibility === "private" || key.type === "PrivateIdentifier";
        if (isPrivate && !isConstructor) parts.push({ start, end, text: "" });
        else if (accessibility === "protected") {
          const at = text.indexOf("protected", start);
          parts.push({ start: at, end: at + "protected".length, text: "" });
        }
      }
    },
    VariableDeclarator({ id, init }) {
      if (init && id.type === "Identifier" && !id.typeAnnotation)
        parts.push({ start: id.end, end: init.end, text: `: ${typeOf(init)}` });
    },
  }).visit(parse(path, text).program);
  return parts;
}

function typeOf(value: Expression): string {
  if (value.type === "TemplateLiteral") return "string";
  if (value.type === "UnaryExpression") return typeOf(value.argument);
  if (value.type !== "Literal") return "unknown";
  return typeof value.value;
}
