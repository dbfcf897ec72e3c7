import { RELEASE_NAMES } from "sleeve";
import { labelOf } from "../compiler/symbols.ts";
import {
  type Checker,
  type CompilerSymbol,
  isBinaryExpression,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isPropertyAccessExpression,
  isPropertyDeclaration,
  isVariableDeclaration,
  type Node,
  SignatureKind,
  SyntaxKind,
  type Type,
} from "../compiler/typescript.ts";

import { awaited } from "./exported.ts";
import { stripped, visitAll, visitOwn, type WrapperCode } from "./implementation/wrapper-code.ts";

/** A resource that a wrapper creates and that must be closed. */
export interface OwnedResource {
  readonly node: Node;
  readonly type: string;
  /** The member that closes it. */
  readonly closing: string;
}

const OPENING = /^(open|connect|create|start|listen)/;

function isClosing(name: string): boolean {
  return RELEASE_NAMES.includes(name) || /^\[Symbol\.(asyncD|d)ispose\]$/.test(name);
}

/**
 * Returns resources that a wrapper creates, keeps, and offers no way to close: no member has a closing name
 * or calls the closing member.
 */
export function unclosedResources(
  checker: Checker,
  wrapper: Type,
  code: WrapperCode,
): readonly OwnedResource[] {
  const closes = checker.getPropertiesOfType(wrapper).some((symbol) => isClosing(labelOf(symbol)));
  if (closes) return [];
  const resources: OwnedResource[] = [];
  for (const root of code.making) {
    const look = (node: Node): void => {
      if (!isNewExpression(node) && !isCallExpression(node)) return;
      if (!isKept(node, code)) return;
      const resource = resourceOf(checker, node);
      if (resource && !isClosedSomewhere(code, resource.closing)) resources.push({ ...resource, node });
    };
    look(root);
    visitOwn(root, look);
  }
  return resources;
}

function resourceOf(checker: Checker, node: Node): Omit<OwnedResource, "node"> | undefined {
  const { expression } = node as Node & { expression: Node };
  if (isCallExpression(node)) {
    const name = isPropertyAccessExpression(expression) ? expression.name.text : expression.getText();
    if (!OPENING.test(name)) return undefined;
  }
  const type = checker.getTypeAtLocation(node);
  const createdType = type && (awaited(checker, type) ?? type);
  if (!createdType) return undefined;
  const closing = checker
    .getPropertiesOfType(createdType)
    .find((symbol) => isClosing(labelOf(symbol)) && isCalled(checker, symbol));
  return closing && { type: checker.typeToString(createdType), closing: labelOf(closing) };
}

function isCalled(checker: Checker, symbol: CompilerSymbol): boolean {
  const type = checker.getTypeOfSymbol(symbol);
  return type !== undefined && checker.getSignaturesOfType(type, SignatureKind.Call).length > 0;
}

/**
 * Whether a created value stays in the wrapper: in a field, in a constant that members use, or passed to what
 * creates the wrapper.
 */
function isKept(node: Node, code: WrapperCode): boolean {
  let outer = node;
  while (outer.parent && stripped(outer.parent) === stripped(node) && outer.parent.kind !== SyntaxKind.Block)
    outer = outer.parent;
  const { parent } = outer;
  if (isPropertyDeclaration(parent)) return parent.initializer === outer;
  if (isBinaryExpression(parent))
    return (
      parent.operatorToken.kind === SyntaxKind.EqualsToken &&
      isPropertyAccessExpression(parent.left) &&
      parent.left.expression.kind === SyntaxKind.ThisKeyword
    );
  if (isVariableDeclaration(parent) && isIdentifier(parent.name)) {
    const { text } = parent.name;
    return [...code.members.values()].some(({ name, body }) => name !== "()" && mentions(body, text));
  }
  // Whether a value is created in the wrapper's own expression and passed to its creator.
  const isArgument = isCallExpression(parent) || isNewExpression(parent);
  return isArgument && code.values.some((value) => stripped(value) === parent);
}

function isClosedSomewhere({ members }: WrapperCode, closing: string): boolean {
  return [...members.values()].some(({ name, body }) => name !== "()" && mentions(body, closing));
}

function mentions(body: Node, text: string): boolean {
  let isReleased = false;
  visitAll(body, (node) => {
    if (isIdentifier(node) && node.text === text) isReleased = true;
  });
  return isReleased;
}
