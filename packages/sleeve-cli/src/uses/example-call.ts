import {
  isArrayLiteralExpression,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isObjectLiteralExpression,
  isPrefixUnaryExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  type Node,
  SyntaxKind,
} from "../compiler/typescript.ts";

const LITERALS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.StringLiteral,
  SyntaxKind.NoSubstitutionTemplateLiteral,
  SyntaxKind.NumericLiteral,
  SyntaxKind.BigIntLiteral,
  SyntaxKind.RegularExpressionLiteral,
  SyntaxKind.TrueKeyword,
  SyntaxKind.FalseKeyword,
  SyntaxKind.NullKeyword,
]);

/**
 * Returns the source after a name in a call with self-contained arguments: `("PE-1")`, `.pinUp({ heading:
 * "Arrivals" })`. Returns `undefined` if an argument depends on its surroundings.
 */
export function exampleCallOf(reference: Node): string | undefined {
  let callee = reference;
  while (isPropertyAccessExpression(callee.parent) && callee.parent.expression === callee)
    callee = callee.parent;
  const call = callee.parent;
  if (!(isCallExpression(call) || isNewExpression(call)) || call.expression !== callee) return undefined;
  if (!(call.arguments ?? []).every(isSelfContained)) return undefined;
  const source = call.getSourceFile();
  return source.text.slice(reference.end, call.end);
}

function isSelfContained(node: Node): boolean {
  if (LITERALS.has(node.kind)) return true;
  if (isIdentifier(node)) return node.text === "undefined";
  if (isPrefixUnaryExpression(node)) return isSelfContained(node.operand);
  if (isArrayLiteralExpression(node)) return node.elements.every(isSelfContained);
  if (isObjectLiteralExpression(node))
    return node.properties.every(
      (property) => isPropertyAssignment(property) && isSelfContained(property.initializer),
    );
  if (!isNewExpression(node)) return false;
  const { expression } = node;
  return (
    isIdentifier(expression) && expression.text === "Date" && (node.arguments ?? []).every(isSelfContained)
  );
}
