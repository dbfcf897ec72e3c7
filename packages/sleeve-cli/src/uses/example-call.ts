import {
  type Checker,
  isArrayLiteralExpression,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isObjectLiteralExpression,
  isPrefixUnaryExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isVariableDeclaration,
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
 * Returns the source after a name in calls with self-contained arguments: `("PE-1")`, and calls of what it
 * returns, `("PE-1").lift(7)`, whether chained or through a constant. Empty if an argument depends on its
 * surroundings.
 */
export function exampleCallsOf(reference: Node, checker: Checker): readonly string[] {
  let callee = reference;
  while (isPropertyAccessExpression(callee.parent) && callee.parent.expression === callee)
    callee = callee.parent;
  const call = selfContainedCall(callee);
  if (!call) return [];
  const { text } = call.getSourceFile();
  const chained = endOfChain(call);
  const created = text.slice(reference.end, call.end);
  const constant = chained === call ? constantOf(call) : undefined;
  const later = constant
    ? callsOfConstant(constant, checker).map((tail) => `${withCall(created)}${tail}`)
    : [];
  return later.length > 0 ? later : [text.slice(reference.end, chained.end)];
}

/** `new Crane` without parentheses is called before its members are reached. */
function withCall(created: string): string {
  return created.endsWith(")") ? created : `${created}()`;
}

/** Returns the call or construction of a callee, if all arguments are self-contained. */
function selfContainedCall(callee: Node): Node | undefined {
  const call = callee.parent;
  if (!(isCallExpression(call) || isNewExpression(call)) || call.expression !== callee) return undefined;
  return (call.arguments ?? []).every(isSelfContained) ? call : undefined;
}

/** Returns the last of the chained calls, each with self-contained arguments. */
function endOfChain(call: Node): Node {
  let last = call;
  for (;;) {
    const access = last.parent;
    if (!isPropertyAccessExpression(access) || access.expression !== last) return last;
    const next = selfContainedCall(access);
    if (!next) return last;
    last = next;
  }
}

/** Returns the name of the constant that a value is assigned to. */
function constantOf(value: Node): Node | undefined {
  const { parent } = value;
  if (!isVariableDeclaration(parent)) return undefined;
  const { name, initializer } = parent as Node & { name: Node; initializer?: Node };
  const isConst = parent.parent.getText().startsWith("const ");
  return initializer === value && isConst && isIdentifier(name) ? name : undefined;
}

/** Returns the source after a constant in calls of its members, one for each member. */
function callsOfConstant(constant: Node, checker: Checker): readonly string[] {
  const source = constant.getSourceFile();
  const mentions: Node[] = [];
  const visit = (node: Node): void => {
    if (isIdentifier(node) && node !== constant && node.text === constant.getText()) mentions.push(node);
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  if (mentions.length === 0) return [];
  const [constantSymbol, ...symbols] = checker.getSymbolAtLocation([constant, ...mentions]);
  const literals = new Map<string, string>();
  mentions.forEach((mention, index) => {
    const access = mention.parent;
    if (symbols[index]?.id !== constantSymbol?.id || !isPropertyAccessExpression(access)) return;
    const call = access.expression === mention ? selfContainedCall(access) : undefined;
    if (call && isCallExpression(call) && !literals.has(access.name.text))
      literals.set(access.name.text, source.text.slice(mention.end, call.end));
  });
  return [...literals.values()];
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
