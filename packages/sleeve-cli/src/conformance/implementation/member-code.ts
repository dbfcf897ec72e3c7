import { modifiersOf } from "../../compiler/syntax.ts";
import {
  isArrowFunction,
  isBinaryExpression,
  isConstructorDeclaration,
  isFunctionExpression,
  isGetAccessorDeclaration,
  isMethodDeclaration,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isPropertyDeclaration,
  isSetAccessorDeclaration,
  isShorthandPropertyAssignment,
  ModifierFlags,
  type Node,
  type ParameterDeclaration,
  SyntaxKind,
} from "../../compiler/typescript.ts";
import { type MemberCode, nameText, returnedFrom, stripped, visitOwn } from "./wrapper-code.ts";

/** The code of a function that a member holds. */
export interface FunctionCode {
  readonly node: Node;
  readonly parameters: readonly ParameterDeclaration[];
  readonly body: Node;
  /** Whether its `this` does not depend on how it is called. */
  readonly isBound: boolean;
}

/** Finds the function that an expression evaluates to, if it is known. */
export type FindFunction = (expression: Node) => FunctionCode | undefined;

/** Reads the members of an object literal that are written in it. */
export function literalMembers(literal: Node, findFunction: FindFunction): readonly MemberCode[] {
  const { properties } = literal as Node & { readonly properties: readonly Node[] };
  return properties.flatMap((property) => {
    const name = nameText(property);
    return (name !== undefined && memberCode(name, property, 0, findFunction)) || [];
  });
}

/** Reads the instance members of a class, and the code that runs when it is constructed. */
export function classMembers(
  node: Node,
  findFunction: FindFunction,
): { readonly members: readonly MemberCode[]; readonly making: readonly Node[] } {
  const { members: nodes } = node as Node & { readonly members: readonly Node[] };
  const members: MemberCode[] = [];
  const making: Node[] = [];
  const assigned = new Map<string, Node>();
  for (const node of nodes) {
    if (isConstructorDeclaration(node) && node.body) {
      making.push(node.body);
      for (const [name, value] of assignedIn(node.body)) assigned.set(name, value);
    }
    if (isStatic(node)) continue;
    if (isPropertyDeclaration(node) && node.initializer) making.push(node.initializer);
    const name = nameText(node);
    const code = name === undefined ? undefined : memberCode(name, node, 0, findFunction);
    if (code) members.push(code);
  }
  const memberNames = new Set(members.map(({ name }) => name));
  // `this.ring = this.ring.bind(this)`.
  for (const [index, member] of members.entries())
    if (/\.bind\(this\)$/.test(assigned.get(member.name)?.getText() ?? ""))
      members[index] = { ...member, isBound: true };
  for (const member of nodes) {
    const name = nameText(member);
    const value = name === undefined ? undefined : assigned.get(name);
    if (name === undefined || !value || memberNames.has(name) || !isPropertyDeclaration(member)) continue;
    members.push(valueCode(name, member, value, 0, findFunction));
  }
  return { members, making };
}

/** Reads the static members of a class. */
export function staticMembers(node: Node, findFunction: FindFunction): readonly MemberCode[] {
  const { members } = node as Node & { readonly members: readonly Node[] };
  return members.filter(isStatic).flatMap((member) => {
    const name = nameText(member);
    return (name !== undefined && memberCode(name, member, 0, findFunction)) || [];
  });
}

function isStatic(member: Node): boolean {
  return (modifiersOf(member) & ModifierFlags.Static) !== 0;
}

/** `this.name = value` in a constructor. */
function assignedIn(body: Node): ReadonlyMap<string, Node> {
  const assigned = new Map<string, Node>();
  visitOwn(body, (node) => {
    if (!isBinaryExpression(node) || node.operatorToken.kind !== SyntaxKind.EqualsToken) return;
    const { left: assignee, right } = node;
    if (isPropertyAccessExpression(assignee) && assignee.expression.kind === SyntaxKind.ThisKeyword)
      assigned.set(assignee.name.text, right);
  });
  return assigned;
}

/** Reads one member. With `leading`, its function has that many parameters more than the target sends. */
export function memberCode(
  name: string,
  node: Node,
  leading: number,
  findFunction: FindFunction,
): MemberCode | undefined {
  if (isGetAccessorDeclaration(node)) {
    const returned = node.body ? returnedFrom(node.body) : [];
    const [returnedValue] = returned.length === 1 ? returned : [];
    const functionNode = returnedValue && functionIn(returnedValue, findFunction);
    if (returnedValue && functionNode)
      return { ...valueCode(name, node, returnedValue, leading, findFunction), value: undefined };
  }
  if (isMethodDeclaration(node) || isGetAccessorDeclaration(node) || isSetAccessorDeclaration(node)) {
    // The value of a setter is not an argument that the target sends.
    const parameters = isMethodDeclaration(node) ? node.parameters : undefined;
    const { body } = node;
    return (
      body && { name, node, definition: node, body, value: undefined, parameters, leading, isBound: false }
    );
  }
  const initializer =
    isPropertyDeclaration(node) || isPropertyAssignment(node)
      ? node.initializer
      : isShorthandPropertyAssignment(node)
        ? node.name
        : undefined;
  return initializer && valueCode(name, node, initializer, leading, findFunction);
}

function valueCode(
  name: string,
  node: Node,
  value: Node,
  leading: number,
  findFunction: FindFunction,
): MemberCode {
  const functionNode = functionIn(value, findFunction);
  if (functionNode) {
    const { node: definition, parameters, body, isBound } = functionNode;
    return { name, node, definition, body, value, parameters, leading, isBound };
  }
  return { name, node, definition: node, body: value, value, parameters: undefined, leading, isBound: true };
}

function functionIn(value: Node, findFunction: FindFunction): FunctionCode | undefined {
  const inner = stripped(value);
  if ((isArrowFunction(inner) || isFunctionExpression(inner)) && inner.body)
    return { node: inner, parameters: inner.parameters, body: inner.body, isBound: isArrowFunction(inner) };
  return findFunction(inner);
}
