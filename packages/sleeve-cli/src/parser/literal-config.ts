import type { Node } from "oxc-parser";
import { parse } from "./parse.ts";

/** Returns the object literal that a module exports by default, without type assertions. */
export function exportedObject(body: readonly Node[]): Node | undefined {
  for (const statement of body) {
    let object: Node | undefined =
      statement.type === "ExportDefaultDeclaration" ? statement.declaration : undefined;
    while (object && (object.type === "TSSatisfiesExpression" || object.type === "TSAsExpression"))
      object = object.expression;
    if (object?.type === "ObjectExpression") return object;
  }
  return undefined;
}

/**
 * Returns the default export of a config written as a literal, in a module without other statements. Running
 * it would give the same and take longer. Returns `undefined` for any other config.
 */
export function writtenConfig(path: string, text: string): { readonly value: unknown } | undefined {
  const { program, errors } = parse(path, text);
  const isPlain = program.body.every(
    (statement) =>
      (statement.type === "ImportDeclaration" && statement.importKind === "type") ||
      statement.type === "ExportDefaultDeclaration",
  );
  const object = errors.length === 0 && isPlain ? exportedObject(program.body) : undefined;
  try {
    return object && { value: writtenValue(object) };
  } catch (error) {
    if (error instanceof NotWritten) return undefined;
    throw error;
  }
}

/** Thrown for a part that only running the config can evaluate. */
class NotWritten extends Error {}

function writtenValue(node: Node | null): unknown {
  switch (node?.type) {
    case "Literal":
      if (node.value !== null && typeof node.value === "object") break;
      return node.value;
    case "ArrayExpression":
      return node.elements.map(writtenValue);
    case "ObjectExpression":
      return Object.fromEntries(node.properties.map(entryOf));
  }
  throw new NotWritten();
}

function entryOf(property: Node): readonly [string, unknown] {
  if (property.type !== "Property" || property.computed || property.method || property.kind !== "init")
    throw new NotWritten();
  const { key, value } = property;
  const name = key.type === "Identifier" ? key.name : String(writtenValue(key));
  if (name === "__proto__") throw new NotWritten();
  return [name, writtenValue(value)];
}
