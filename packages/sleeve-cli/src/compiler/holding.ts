import { type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  isBinaryExpression,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isPropertyAccessExpression,
  isPropertyDeclaration,
  isVariableDeclaration,
} from "typescript/unstable/ast/is";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  SignatureKind,
  type Type,
} from "typescript/unstable/sync";
import { labelOf } from "./candidates.ts";
import { awaited } from "./exported.ts";
import { stripped, visitAll, visitOwn, type WrapperCode } from "./wrapper-code.ts";

/** Something that a wrapper makes for itself, that has to be closed. */
export interface Holding {
  readonly node: Node;
  readonly type: string;
  /** The member that closes it. */
  readonly closing: string;
}

/** The names by which things are closed, the trade over. */
const CLOSING =
  /^(close|shutdown|shutDown|dispose|destroy|disconnect|terminate|quit|end|release|\[Symbol\.(asyncD|d)ispose\])$/;

const OPENING = /^(open|connect|create|start|listen)/;

export function isClosing(name: string): boolean {
  return CLOSING.test(name);
}

/**
 * What a wrapper makes when it is made, keeps, and cannot be asked to close: neither is there a member of a closing
 * name, nor one that calls what closes it.
 */
export function unclosedHoldings(checker: Checker, wrapper: Type, code: WrapperCode): readonly Holding[] {
  const closes = checker.getPropertiesOfType(wrapper).some((symbol) => isClosing(labelOf(symbol)));
  if (closes) return [];
  const found: Holding[] = [];
  for (const root of code.making) {
    const look = (node: Node): void => {
      if (!isNewExpression(node) && !isCallExpression(node)) return;
      if (!isKept(node, code)) return;
      const holding = holdingOf(checker, node);
      if (holding && !isClosedSomewhere(code, holding.closing)) found.push({ ...holding, node });
    };
    look(root);
    visitOwn(root, look);
  }
  return found;
}

function holdingOf(checker: Checker, node: Node): Omit<Holding, "node"> | undefined {
  const { expression } = node as Node & { expression: Node };
  if (isCallExpression(node)) {
    const name = isPropertyAccessExpression(expression) ? expression.name.text : expression.getText();
    if (!OPENING.test(name)) return undefined;
  }
  const type = checker.getTypeAtLocation(node);
  const made = type && (awaited(checker, type) ?? type);
  if (!made) return undefined;
  const closing = checker
    .getPropertiesOfType(made)
    .find((symbol) => isClosing(labelOf(symbol)) && isCalled(checker, symbol));
  return closing && { type: checker.typeToString(made), closing: labelOf(closing) };
}

function isCalled(checker: Checker, symbol: CompilerSymbol): boolean {
  const type = checker.getTypeOfSymbol(symbol);
  return type !== undefined && checker.getSignaturesOfType(type, SignatureKind.Call).length > 0;
}

/** Whether what is made stays with the wrapper: in a field, in a constant that members use, or given to what it is made by. */
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
  // What is made in the wrapper's own expression, and handed to what makes the wrapper.
  const isArgument = isCallExpression(parent) || isNewExpression(parent);
  return isArgument && code.values.some((value) => stripped(value) === parent);
}

function isClosedSomewhere({ members }: WrapperCode, closing: string): boolean {
  return [...members.values()].some(({ name, body }) => name !== "()" && mentions(body, closing));
}

function mentions(body: Node, text: string): boolean {
  let found = false;
  visitAll(body, (node) => {
    if (isIdentifier(node) && node.text === text) found = true;
  });
  return found;
}
