import { modifiersOf } from "../../compiler/syntax.ts";
import {
  isArrowFunction,
  isAsExpression,
  isAwaitExpression,
  isBlock,
  isClassLikeDeclaration,
  isFunctionDeclaration,
  isFunctionExpression,
  isGetAccessorDeclaration,
  isMethodDeclaration,
  isParenthesizedExpression,
  isReturnStatement,
  isSatisfiesExpression,
  isSetAccessorDeclaration,
  isTypeAssertion,
  ModifierFlags,
  type Node,
  type ParameterDeclaration,
  SyntaxKind,
} from "../../compiler/typescript.ts";

/** The code of one member of a wrapper. */
export interface MemberCode {
  readonly name: string;
  readonly node: Node;
  /** The body of the function, or the expression that initializes the member. */
  readonly body: Node;
  /** The expression that evaluates to the function, if it is not written as a method. */
  readonly value: Node | undefined;
  /** The function; for other members, the declaration. */
  readonly definition: Node;
  /** `undefined` if it is not a function. */
  readonly parameters: readonly ParameterDeclaration[] | undefined;
  /** Number of leading parameters that the target does not have. */
  readonly leading: number;
  /** Whether `this` is lexical, as in an arrow function. */
  readonly isBound: boolean;
}

/** The source of a wrapper, as far as it is written rather than computed. */
export interface WrapperCode {
  /** The declarations that it consists of: of the export, its class and base classes, its factory. */
  readonly declarations: readonly Node[];
  /** The class, if it is one. */
  readonly classNode: Node | undefined;
  readonly members: ReadonlyMap<string, MemberCode>;
  /** Code that runs when the wrapper is created: initializers, the constructor, the factory. */
  readonly making: readonly Node[];
  /** The expressions that the wrapper is the value of. */
  readonly values: readonly Node[];
}

/** Whether a wrapper's class has a static member of this name. */
export function isStaticMember({ classNode }: WrapperCode, name: string): boolean {
  const { members = [] } = (classNode ?? {}) as { members?: readonly Node[] };
  return members.some(
    (member) => (modifiersOf(member) & ModifierFlags.Static) !== 0 && nameText(member) === name,
  );
}

/** Returns the name of a member as findings write it: `ring`, `[Symbol.dispose]`. */
export function nameText(node: Node): string | undefined {
  const { name } = node as Node & { name?: Node & { text?: string; expression?: Node & { text?: string } } };
  if (name?.kind !== SyntaxKind.ComputedPropertyName) return name?.text ?? name?.getText();
  const { expression } = name;
  if (expression?.kind === SyntaxKind.StringLiteral) return expression.text;
  return `[Symbol.${expression?.getText().split(".").at(-1)}]`;
}

/** Returns an expression without assertions and parentheses. */
export function stripped(node: Node): Node {
  let inner = node;
  while (
    isParenthesizedExpression(inner) ||
    isAsExpression(inner) ||
    isSatisfiesExpression(inner) ||
    isTypeAssertion(inner) ||
    isAwaitExpression(inner) ||
    inner.kind === SyntaxKind.NonNullExpression
  ) {
    inner = (inner as Node & { expression: Node }).expression;
  }
  return inner;
}

/** Returns the expressions that a function returns, excluding nested functions. */
export function returnedFrom(body: Node): readonly Node[] {
  if (!isBlock(body)) return [body];
  const returnedNodes: Node[] = [];
  visitOwn(body, (node) => {
    if (isReturnStatement(node) && node.expression) returnedNodes.push(node.expression);
  });
  return returnedNodes;
}

/** Visits the code of a function, excluding nested functions and classes. */
export function visitOwn(node: Node, visit: (node: Node) => void): void {
  node.forEachChild((child: Node) => {
    visit(child);
    if (!isFunctionLike(child)) visitOwn(child, visit);
  });
}

/** Visits everything in a node, including nested functions. */
export function visitAll(node: Node, visit: (node: Node) => void): void {
  visit(node);
  node.forEachChild((child: Node) => visitAll(child, visit));
}

export function isFunctionLike(node: Node): boolean {
  return (
    isArrowFunction(node) ||
    isFunctionExpression(node) ||
    isFunctionDeclaration(node) ||
    isMethodDeclaration(node) ||
    isClassLikeDeclaration(node) ||
    isGetAccessorDeclaration(node) ||
    isSetAccessorDeclaration(node)
  );
}
