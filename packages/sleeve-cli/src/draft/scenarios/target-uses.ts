import {
  isCallExpression,
  isIdentifier,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { withoutAssertion } from "./value-flow.ts";

/** An expression that uses the target, and the members that it calls or reads, in order. */
export interface Use {
  readonly node: Node;
  readonly members: readonly string[];
}

/** Returns the uses that start at a node: `a.b().c`, `a.b()`; the longest first. */
export function usesFrom(leaf: Node): readonly Use[] {
  const uses: Use[] = [];
  let use: Use = { node: leaf, members: [] };
  for (;;) {
    const next = longerUse(use, leaf);
    if (!next) return uses;
    use = next;
    // An assertion is no use of its own.
    if (withoutAssertion(use.node) === use.node) uses.unshift(use);
  }
}

/** Returns the use of which another is the start. */
function longerUse({ node, members }: Use, leaf: Node): Use | undefined {
  const { parent } = node;
  if ((parent as Node & { expression?: Node }).expression !== node) return undefined;
  if (isPropertyAccessExpression(parent)) {
    const isCalled = isCallExpression(parent.parent) && parent.parent.expression === parent;
    return { node: isCalled ? parent.parent : parent, members: [...members, parent.name.text] };
  }
  if (isCallExpression(parent) || parent.kind === SyntaxKind.NewExpression)
    return { node: parent, members: members.length === 0 ? [leaf.getText()] : members };
  const isContinued = CONTINUING.has(parent.kind) && members.length > 0;
  return isContinued || withoutAssertion(parent) !== parent ? { node: parent, members } : undefined;
}

const CONTINUING: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.ElementAccessExpression,
  SyntaxKind.AwaitExpression,
]);

export function isPromise(type: Type): boolean {
  return /^Promise(Like)?$/.test(type.getSymbol()?.name ?? "");
}

/** Whether an identifier is an expression, and no name of a member or declaration. */
export function isValue(node: Node): boolean {
  const { name, propertyName } = node.parent as Node & { name?: Node; propertyName?: Node };
  return name !== node && propertyName !== node;
}

/** Returns the outermost expression with the value of a node. */
function outermost(node: Node): Node {
  let at = node;
  while (withoutAssertion(at.parent) !== at.parent || at.parent.kind === SyntaxKind.AwaitExpression)
    at = at.parent;
  return at;
}

export function isDiscarded(node: Node): boolean {
  return outermost(node).parent.kind === SyntaxKind.ExpressionStatement;
}

export interface BoundDeclaration extends Node {
  readonly name: Node;
  readonly type?: Node;
  readonly initializer?: Node;
}

/** Returns the declaration of the variable that a value is assigned to. */
export function boundDeclaration(node: Node): BoundDeclaration | undefined {
  const value = outermost(node);
  const declaration = value.parent as BoundDeclaration;
  const isVariable = declaration.kind === SyntaxKind.VariableDeclaration && declaration.initializer === value;
  return isVariable && isIdentifier(declaration.name) ? declaration : undefined;
}

export function isUntyped({ flags }: Type): boolean {
  return (flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0;
}

const SHOWING = /^(?:console|String|JSON|Number|Boolean|Object|assert|expect|equal)\b/;

/** Whether a caller looks at a value whose type says nothing: prints, compares, asserts or calculates with it. */
export function isShown(node: Node): boolean {
  if (node.parent.kind === SyntaxKind.AsExpression) return true;
  const { parent } = outermost(node);
  if (isCallExpression(parent)) return SHOWING.test(parent.expression.getText());
  return SHOWN_IN.has(parent.kind);
}

const SHOWN_IN: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.TemplateSpan,
  SyntaxKind.BinaryExpression,
  SyntaxKind.PrefixUnaryExpression,
  SyntaxKind.ConditionalExpression,
  SyntaxKind.IfStatement,
]);
