import { type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  isBinaryExpression,
  isCallExpression,
  isIdentifier,
  isNumericLiteral,
  isPropertyAccessExpression,
} from "typescript/unstable/ast/is";
import { type Checker, TypeFlags } from "typescript/unstable/sync";
import { type MemberCode, visitAll } from "./wrapper-code.ts";

/** A place where a facade does the work itself. */
export interface OwnWork {
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

/** What the world is reached by without any subsystem. */
const WORLD = /^(fetch|XMLHttpRequest|localStorage|sessionStorage|indexedDB|process|document)$/;

/**
 * The work that a facade's member does itself beside delegating it: loops that count, arithmetic on the subsystems'
 * numbers, reaching the world around its subsystems.
 */
export function ownWorkIn(checker: Checker, { body, name }: MemberCode): readonly OwnWork[] {
  if (name === "()") return [];
  const found: OwnWork[] = [];
  let delegates = false;
  visitAll(body, (node) => {
    if (isCallExpression(node) && isPropertyAccessExpression(node.expression)) delegates = true;
    if (LOOPS.has(node.kind)) found.push({ node, what: "a loop" });
    else if (isArithmetic(checker, node)) found.push({ node, what: `arithmetic, ${textOf(node)}` });
    else if (isCallExpression(node) && isWorld(node.expression))
      found.push({ node, what: `a call of ${node.expression.getText()}` });
  });
  return delegates ? found.slice(0, 1) : [];
}

function isArithmetic(checker: Checker, node: Node): boolean {
  if (!isBinaryExpression(node) || !ARITHMETIC.has(node.operatorToken.kind)) return false;
  // The last one, and the next one, are no work to speak of.
  if ([node.left, node.right].some((each) => isNumericLiteral(each) && each.text === "1")) return false;
  const type = checker.getTypeAtLocation(node);
  return type !== undefined && (type.flags & (TypeFlags.NumberLike | TypeFlags.BigIntLike)) !== 0;
}

function isWorld(callee: Node): boolean {
  const root = isPropertyAccessExpression(callee) ? callee.expression : callee;
  return isIdentifier(root) && WORLD.test(root.text);
}

function textOf(node: Node): string {
  const text = node.getText().replace(/\s+/g, " ");
  return text.length > 40 ? `${text.slice(0, 37)}…` : text;
}
