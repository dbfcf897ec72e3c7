import {
  type Checker,
  isBinaryExpression,
  isCallExpression,
  isIdentifier,
  isNumericLiteral,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
  TypeFlags,
} from "../compiler/typescript.ts";
import { type MemberCode, visitAll } from "./implementation/wrapper-code.ts";

/** A place where a facade has logic of its own. */
export interface FacadeLogic {
  readonly node: Node;
  readonly what: string;
}

const LOOPS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.ForStatement,
  SyntaxKind.WhileStatement,
  SyntaxKind.DoStatement,
]);

const ARITHMETIC: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.AsteriskToken,
  SyntaxKind.SlashToken,
  SyntaxKind.PercentToken,
  SyntaxKind.AsteriskAsteriskToken,
  SyntaxKind.MinusToken,
  SyntaxKind.PlusToken,
]);

/** Globals with side effects. */
const SIDE_EFFECTS = /^(fetch|XMLHttpRequest|localStorage|sessionStorage|indexedDB|process|document)$/;

/**
 * Returns the logic of a facade's member besides delegating: counting loops, arithmetic on results of
 * subsystems, and side effects.
 */
export function facadeLogicIn(checker: Checker, { body, name }: MemberCode): readonly FacadeLogic[] {
  if (name === "()") return [];
  const logic: FacadeLogic[] = [];
  let delegates = false;
  visitAll(body, (node) => {
    if (isCallExpression(node) && isPropertyAccessExpression(node.expression)) delegates = true;
    if (LOOPS.has(node.kind)) logic.push({ node, what: "a loop" });
    else if (isArithmetic(checker, node)) logic.push({ node, what: `arithmetic, ${textOf(node)}` });
    else if (isCallExpression(node) && hasSideEffects(node.expression))
      logic.push({ node, what: `a call of ${node.expression.getText()}` });
  });
  return delegates ? logic.slice(0, 1) : [];
}

function isArithmetic(checker: Checker, node: Node): boolean {
  if (!isBinaryExpression(node) || !ARITHMETIC.has(node.operatorToken.kind)) return false;
  // Adding or subtracting one is not counted as logic.
  if (
    [node.left, node.right].some(
      (expressionBase) => isNumericLiteral(expressionBase) && expressionBase.text === "1",
    )
  )
    return false;
  const type = checker.getTypeAtLocation(node);
  return type !== undefined && (type.flags & (TypeFlags.NumberLike | TypeFlags.BigIntLike)) !== 0;
}

function hasSideEffects(callee: Node): boolean {
  const root = isPropertyAccessExpression(callee) ? callee.expression : callee;
  return isIdentifier(root) && SIDE_EFFECTS.test(root.text);
}

function textOf(node: Node): string {
  const text = node.getText().replace(/\s+/g, " ");
  return text.length > 40 ? `${text.slice(0, 37)}…` : text;
}
