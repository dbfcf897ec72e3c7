import { type Node, parseSync } from "oxc-parser";

/** The object literal that a module exports by default, whatever is said of its type. */
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
 * What a config exports by default, where that stands in it as it is: an object of literals, in a module that does nothing
 * else. To run it would tell the same, and take longer. `undefined` of any other.
 */
export function writtenConfig(path: string, text: string): { readonly value: unknown } | undefined {
  const { program, errors } = parseSync(path, text);
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

/** Only running the config can tell a part of it. */
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
