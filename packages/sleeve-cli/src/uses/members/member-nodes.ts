import {
  type Checker,
  isArrowFunction,
  isAwaitExpression,
  isBindingElement,
  isCallExpression,
  isFunctionExpression,
  isHeritageClause,
  isIdentifier,
  isNewExpression,
  isObjectLiteralExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isReturnStatement,
  isVariableDeclaration,
  type Node,
  type SourceFile,
  SyntaxKind,
} from "../../compiler/typescript.ts";
import { isElementName, type UsedName } from "../uses.ts";
import type { MemberFilter } from "./used-members.ts";

export type FunctionNode = Node & {
  readonly parameters: readonly { readonly type?: Parameters<Checker["getTypeFromTypeNode"]>[0] }[];
};

export interface PropertyNode extends Node {
  readonly name?: Node & { readonly text?: string };
}

export function propertiesOf(literal: Node): readonly PropertyNode[] {
  return (literal as Node & { properties: readonly PropertyNode[] }).properties;
}

export function membersNamedIn(
  source: SourceFile,
  { mayName }: MemberFilter,
  /** Offsets of statements that do not count. */
  skipped: ReadonlySet<number>,
): {
  readonly names: readonly UsedName[];
  readonly literals: readonly Node[];
  /** Values that are given to a place with a type of its own. */
  readonly passed: readonly Node[];
  /** Functions that are passed on, with parameters that have types. */
  readonly callbacks: readonly FunctionNode[];
  /** Types that classes implement. */
  readonly heritage: readonly Node[];
} {
  const names: UsedName[] = [];
  const literals: Node[] = [];
  const passedNodes: Node[] = [];
  const callbacks: FunctionNode[] = [];
  const heritage: Node[] = [];
  const visit = (node: Node): void => {
    if (isCallExpression(node) || isNewExpression(node))
      for (const value of node.arguments ?? []) if (isReference(value)) passedNodes.push(value);
    const assigned = assignedValueOf(node);
    if (assigned) passedNodes.push(assigned);
    if (isHeritageClause(node) && node.token === SyntaxKind.ImplementsKeyword) heritage.push(...node.types);
    if (isTypedCallback(node)) callbacks.push(node as FunctionNode);
    if (isObjectLiteralExpression(node)) literals.push(node);
    else if (isMemberName(node) && mayName((node as UsedName).text)) names.push(node as UsedName);
    node.forEachChild(visit);
  };
  source.forEachChild((statement) => {
    if (!skipped.has(statement.getStart(source))) visit(statement);
  });
  return { names, literals, passed: passedNodes, callbacks, heritage };
}

function isReference(node: Node): boolean {
  return isIdentifier(node) || isPropertyAccessExpression(node);
}

/** Returns the value of a variable with a type of its own, or of a `return`. */
function assignedValueOf(node: Node): Node | undefined {
  const { type, initializer, expression } = node as Node & {
    readonly type?: Node;
    readonly initializer?: Node;
    readonly expression?: Node;
  };
  const returned = isReturnStatement(node) ? expression : undefined;
  const value = isVariableDeclaration(node) ? type && initializer : returned;
  const isCall = value && (isCallExpression(value) || isAwaitExpression(value) || isNewExpression(value));
  return value && (isCall || isReference(value)) ? value : undefined;
}

/** Whether a function is an argument or a property, and declares types of parameters. */
function isTypedCallback(node: Node): boolean {
  if (!isArrowFunction(node) && !isFunctionExpression(node)) return false;
  const isPassed =
    isCallExpression(node.parent) || isNewExpression(node.parent) || isPropertyAssignment(node.parent);
  return isPassed && (node as unknown as FunctionNode).parameters.some(({ type }) => type !== undefined);
}

function isMemberName(node: Node): boolean {
  if (isElementName(node)) return true;
  if (!isIdentifier(node)) return false;
  const { parent } = node;
  if (isPropertyAccessExpression(parent)) return parent.name === node;
  if (isBindingElement(parent)) {
    const { propertyName, name, dotDotDotToken } = parent as Node & {
      propertyName?: Node;
      name?: Node;
      dotDotDotToken?: Node;
    };
    return (propertyName ?? (dotDotDotToken ? undefined : name)) === node;
  }
  // `{ level } = reading`, without a declaration.
  return parent.kind === SyntaxKind.ShorthandPropertyAssignment && isAssignedTo(parent.parent);
}

function isAssignedTo(literal: Node): boolean {
  const { left, operatorToken } = literal.parent as Node & { left?: Node; operatorToken?: Node };
  return left === literal && operatorToken?.kind === SyntaxKind.EqualsToken;
}
