import {
  isBindingElement,
  isCallExpression,
  isClassLikeDeclaration,
  isPropertyAccessExpression,
  isShorthandPropertyAssignment,
  type Node,
  SyntaxKind,
} from "../../compiler/typescript.ts";

/** The expression that a class extends. */
export function baseOf(node: Node): Node | undefined {
  const { heritageClauses = [] } = node as Node & {
    readonly heritageClauses?: readonly {
      readonly token: SyntaxKind;
      readonly types: readonly (Node & { readonly expression: Node })[];
    }[];
  };
  return heritageClauses.find(({ token }) => token === SyntaxKind.ExtendsKeyword)?.types[0]?.expression;
}

/** `impl.convert.bind(impl)`: the function that is bound. */
export function boundFunctionIn(node: Node): Node | undefined {
  if (!isCallExpression(node) || !isPropertyAccessExpression(node.expression)) return undefined;
  return node.expression.name.text === "bind" ? node.expression.expression : undefined;
}

export function hasValue(node: Node): boolean {
  const { initializer, body } = node as Node & { readonly initializer?: Node; readonly body?: Node };
  return (
    initializer !== undefined ||
    body !== undefined ||
    isClassLikeDeclaration(node) ||
    isShorthandPropertyAssignment(node) ||
    isBindingElement(node)
  );
}

export function isNothing(node: Node): boolean {
  return node.kind === SyntaxKind.NullKeyword || node.getText() === "undefined";
}
