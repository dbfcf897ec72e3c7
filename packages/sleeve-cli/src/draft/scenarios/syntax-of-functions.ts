import { isIdentifier, type Node, SyntaxKind } from "../../compiler/typescript.ts";

const FUNCTIONS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.FunctionDeclaration,
  SyntaxKind.FunctionExpression,
  SyntaxKind.ArrowFunction,
  SyntaxKind.MethodDeclaration,
  SyntaxKind.Constructor,
  SyntaxKind.GetAccessor,
  SyntaxKind.SetAccessor,
]);

/** Whether a node is a function of any kind. */
export function isFunctionNode(node: Node): boolean {
  return FUNCTIONS.has(node.kind);
}

/** Returns the name under which a function is declared; `undefined` for none, and for a file. */
export function functionNameOf(container: Node): string | undefined {
  if (!isFunctionNode(container)) return undefined;
  const { name } = container as Node & { name?: Node };
  if (name && isIdentifier(name)) return name.text;
  const { name: variable } = container.parent as Node & { name?: Node };
  const isVariable = container.parent.kind === SyntaxKind.VariableDeclaration;
  return isVariable && variable && isIdentifier(variable) ? variable.text : undefined;
}

/** Returns the name of a property of an object literal; `undefined` for a computed one. */
export function propertyNameOf(property: Node): string | undefined {
  const { name } = property as Node & { name?: Node & { text?: string } };
  return name?.text;
}
