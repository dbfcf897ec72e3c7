import { aliasTarget, modifiersOf } from "../compiler/syntax.ts";
import {
  type Checker,
  isArrowFunction,
  isAsExpression,
  isAwaitExpression,
  isBlock,
  isCallExpression,
  isClassLikeDeclaration,
  isConstructorDeclaration,
  isFunctionDeclaration,
  isFunctionExpression,
  isGetAccessorDeclaration,
  isIdentifier,
  isMethodDeclaration,
  isNewExpression,
  isObjectLiteralExpression,
  isParenthesizedExpression,
  isPropertyAssignment,
  isPropertyDeclaration,
  isReturnStatement,
  isSatisfiesExpression,
  isSetAccessorDeclaration,
  isShorthandPropertyAssignment,
  isVariableDeclaration,
  ModifierFlags,
  type Node,
  type ParameterDeclaration,
  SyntaxKind,
} from "../compiler/typescript.ts";
import type { AdapterMapping, Exported } from "./exported.ts";

/** The code of one member of a wrapper. */
export interface MemberCode {
  readonly name: string;
  readonly node: Node;
  /** The body of the function, or the expression that initializes the member. */
  readonly body: Node;
  /** `undefined` if it is not a function. */
  readonly parameters: readonly ParameterDeclaration[] | undefined;
  /** Number of leading parameters that the target does not have. */
  readonly leading: number;
  /** Whether `this` is lexical, as in an arrow function. */
  readonly isBound: boolean;
}

/** The source of a wrapper, as far as it is written rather than computed. */
export interface WrapperCode {
  /** The whole declaration of the wrapper. */
  readonly declaration: Node;
  /** The class, if it is one. */
  readonly classNode: Node | undefined;
  readonly members: ReadonlyMap<string, MemberCode>;
  /** Code that runs when the wrapper is created: initializers, the constructor, the factory. */
  readonly making: readonly Node[];
  /** The expressions that the wrapper is the value of. */
  readonly values: readonly Node[];
}

/** Reads the code of a wrapper: a class, an object, a factory of either, or an adapter's mapping. */
export function wrapperCodeOf(
  { declaration, checker }: Exported,
  mapping: AdapterMapping | undefined,
): WrapperCode | undefined {
  if (!declaration) return undefined;
  if (mapping) {
    const members = [...mapping.entries].flatMap(([name, node]) => memberCode(name, node, 1) ?? []);
    return code(declaration, { members, values: initializerOf(declaration) });
  }
  const found = new Reader(checker).read(declaration, 0);
  return code(declaration, found);
}

interface Read {
  readonly classNode?: Node | undefined;
  readonly members?: readonly MemberCode[];
  readonly making?: readonly Node[];
  readonly values?: readonly Node[];
}

function code(declaration: Node, { classNode, members = [], making = [], values = [] }: Read): WrapperCode {
  const byName = new Map(members.map((member) => [member.name, member]));
  return { declaration, classNode, members: byName, making, values };
}

const FARTHEST = 6;

class Reader {
  readonly #checker: Checker;

  constructor(checker: Checker) {
    this.#checker = checker;
  }

  read(node: Node, steps: number): Read {
    if (steps > FARTHEST) return {};
    if (isClassLikeDeclaration(node)) return readClass(node);
    if (isVariableDeclaration(node)) return node.initializer ? this.#value(node.initializer, steps + 1) : {};
    if (isFunctionDeclaration(node) && node.body) return this.#factory(node, node.body, steps);
    return {};
  }

  #value(node: Node, steps: number): Read {
    const inner = stripped(node);
    const own = { values: [node] };
    if (isObjectLiteralExpression(inner))
      return { ...own, members: membersOfLiteral(inner), making: [inner] };
    if ((isArrowFunction(inner) || isFunctionExpression(inner)) && inner.body) {
      return this.#factory(inner, inner.body, steps);
    }
    if (isNewExpression(inner)) return { ...own, ...this.#named(inner.expression, steps), making: [inner] };
    if (isClassLikeDeclaration(inner)) return readClass(inner);
    // An argument of another function is the wrapper as far as it is written here.
    if (isCallExpression(inner)) return { ...own, making: [inner] };
    if (isIdentifier(inner)) return { ...own, ...this.#named(inner, steps) };
    return own;
  }

  /** A function may itself be the wrapper, or create one; both readings are kept. */
  #factory(
    node: Node & { readonly parameters: readonly ParameterDeclaration[] },
    body: Node,
    steps: number,
  ): Read {
    const self: MemberCode = {
      name: "()",
      node,
      body,
      parameters: node.parameters,
      leading: 0,
      isBound: isArrowFunction(node),
    };
    const made = returnedFrom(body).map((node) => this.#value(node, steps + 1));
    return {
      members: [self, ...made.flatMap(({ members = [] }) => members)],
      making: [body, ...made.flatMap(({ making = [] }) => making.filter((node) => !isInside(node, body)))],
      values: made.flatMap(({ values = [] }) => values),
      classNode: made.find(({ classNode }) => classNode)?.classNode,
    };
  }

  #named(node: Node, steps: number): Read {
    const symbol = this.#checker.getSymbolAtLocation(node);
    const target = symbol && aliasTarget(this.#checker, symbol);
    const declaration = target?.valueDeclaration?.resolve();
    return declaration ? this.read(declaration, steps + 1) : {};
  }
}

function readClass(node: Node): Read {
  const { members: nodes } = node as Node & { readonly members: readonly Node[] };
  const members: MemberCode[] = [];
  const making: Node[] = [];
  for (const node of nodes) {
    if (isConstructorDeclaration(node) && node.body) making.push(node.body);
    if ((modifiersOf(node) & ModifierFlags.Static) !== 0) continue;
    if (isPropertyDeclaration(node) && node.initializer) making.push(node.initializer);
    const name = nameText(node);
    const found = name === undefined ? undefined : memberCode(name, node, 0);
    if (found) members.push(found);
  }
  return { classNode: node, members, making };
}

/** Whether a wrapper's class has a static member of this name. */
export function isStaticMember({ classNode }: WrapperCode, name: string): boolean {
  const { members = [] } = (classNode ?? {}) as { members?: readonly Node[] };
  return members.some(
    (member) => (modifiersOf(member) & ModifierFlags.Static) !== 0 && nameText(member) === name,
  );
}

/** Whether a wrapper is created by a function named `facade`, or is a class named as one. */
export function madeByFacade(code: WrapperCode | undefined): boolean {
  if (!code) return false;
  const { name } = (code.classNode ?? {}) as { name?: Node & { text?: string } };
  if (name?.text?.endsWith("Facade")) return true;
  return code.values.some((value) => {
    const call = stripped(value);
    return isCallExpression(call) && call.expression.getText() === "facade";
  });
}

function membersOfLiteral(literal: Node): readonly MemberCode[] {
  const { properties } = literal as Node & { readonly properties: readonly Node[] };
  return properties.flatMap((property) => {
    const name = nameText(property);
    return (name !== undefined && memberCode(name, property, 0)) || [];
  });
}

/** Returns the name of a member as findings write it: `ring`, `[Symbol.dispose]`. */
function nameText(node: Node): string | undefined {
  const { name } = node as Node & { name?: Node & { text?: string } };
  return name?.text ?? name?.getText();
}

function memberCode(name: string, node: Node, leading: number): MemberCode | undefined {
  if (isMethodDeclaration(node) || isGetAccessorDeclaration(node) || isSetAccessorDeclaration(node)) {
    // The value of a setter is not an argument that the target sends.
    const parameters = isMethodDeclaration(node) ? node.parameters : undefined;
    return node.body && { name, node, body: node.body, parameters, leading, isBound: false };
  }
  const initializer =
    isPropertyDeclaration(node) || isPropertyAssignment(node)
      ? node.initializer
      : isShorthandPropertyAssignment(node)
        ? node.name
        : undefined;
  if (!initializer) return undefined;
  const inner = stripped(initializer);
  if ((isArrowFunction(inner) || isFunctionExpression(inner)) && inner.body) {
    const { parameters, body } = inner;
    return { name, node, body, parameters, leading, isBound: isArrowFunction(inner) };
  }
  return { name, node, body: initializer, parameters: undefined, leading, isBound: true };
}

function initializerOf(node: Node): readonly Node[] {
  return isVariableDeclaration(node) && node.initializer ? [node.initializer] : [];
}

/** Returns an expression without assertions and parentheses. */
export function stripped(node: Node): Node {
  let inner = node;
  while (
    isParenthesizedExpression(inner) ||
    isAsExpression(inner) ||
    isSatisfiesExpression(inner) ||
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
  const found: Node[] = [];
  visitOwn(body, (node) => {
    if (isReturnStatement(node) && node.expression) found.push(node.expression);
  });
  return found;
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

function isFunctionLike(node: Node): boolean {
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

function isInside(node: Node, outer: Node): boolean {
  return node.pos >= outer.pos && node.end <= outer.end && node.getSourceFile() === outer.getSourceFile();
}
