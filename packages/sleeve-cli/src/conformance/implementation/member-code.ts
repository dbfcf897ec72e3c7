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
  const constructors = nodes.flatMap((member) => (isConstructorDeclaration(member) && member.body) || []);
  const assigned = new Map(constructors.flatMap((body) => [...assignedIn(body)]));
  const instanceNodes = nodes.filter((member) => !isConstructorDeclaration(member) && !isStatic(member));
  const initializers = instanceNodes.flatMap(
    (member) => (isPropertyDeclaration(member) && member.initializer) || [],
  );
  const members = instanceNodes.flatMap((member) => {
    const name = nameText(member);
    const code = name === undefined ? undefined : memberCode(name, member, 0, findFunction);
    if (!code) return [];
    // `this.ring = this.ring.bind(this)`.
    const isBound = code.isBound || /\.bind\(this\)$/.test(assigned.get(code.name)?.getText() ?? "");
    return [{ ...code, isBound }];
  });
  const memberNames = new Set(members.map(({ name }) => name));
  const assignedMembers = nodes.flatMap((member) => {
    const name = nameText(member);
    const value = name === undefined ? undefined : assigned.get(name);
    if (name === undefined || !value || memberNames.has(name) || !isPropertyDeclaration(member)) return [];
    return [valueCode(name, member, value, 0, findFunction)];
  });
  return { members: [...members, ...assignedMembers], making: [...constructors, ...initializers] };
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
  const returned = isGetAccessorDeclaration(node) ? functionReturnedBy(node, findFunction) : undefined;
  if (returned) return { ...valueCode(name, node, returned, leading, findFunction), value: undefined };
  if (isMethodDeclaration(node) || isGetAccessorDeclaration(node) || isSetAccessorDeclaration(node)) {
    // The value of a setter is not an argument that the target sends.
    const parameters = isMethodDeclaration(node) ? node.parameters : undefined;
    const { body } = node;
    return (
      body && { name, node, definition: node, body, value: undefined, parameters, leading, isBound: false }
    );
  }
  const initializer = initializerOf(node);
  return initializer && valueCode(name, node, initializer, leading, findFunction);
}

/** The value of a getter that returns one function. */
function functionReturnedBy(
  { body }: { readonly body?: Node | undefined },
  findFunction: FindFunction,
): Node | undefined {
  const [value, ...otherValues] = body ? returnedFrom(body) : [];
  return value && otherValues.length === 0 && functionIn(value, findFunction) ? value : undefined;
}

function initializerOf(node: Node): Node | undefined {
  if (isPropertyDeclaration(node) || isPropertyAssignment(node)) return node.initializer;
  return isShorthandPropertyAssignment(node) ? node.name : undefined;
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

/** Returns the members with some names, by name. */
export function membersNamed(
  members: readonly MemberCode[],
  names: ReadonlySet<string>,
): ReadonlyMap<string, MemberCode> {
  return new Map(members.filter(({ name }) => names.has(name)).map((member) => [member.name, member]));
}
