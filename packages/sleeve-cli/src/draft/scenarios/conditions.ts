import { isIdentifier, type Node, SyntaxKind } from "../../compiler/typescript.ts";

/** A condition, and whether it holds. */
export interface KnownCondition {
  readonly node: Node;
  readonly holds: boolean;
}

/** Returns the conditions that are known where a node stands, the innermost first. */
export function conditionsOver(node: Node, container: Node | undefined): readonly KnownCondition[] {
  const conditions: KnownCondition[] = [];
  for (let at = node; at.parent && at !== container; at = at.parent)
    conditions.push(...branchConditions(at), ...conditionsBefore(at));
  return conditions;
}

/** Returns the condition of the branch that a node is. */
function branchConditions(branch: Node): readonly KnownCondition[] {
  const {
    kind,
    expression,
    thenStatement,
    elseStatement,
    condition,
    whenTrue,
    whenFalse,
    left,
    right,
    operatorToken,
  } = branch.parent as Node & {
    expression?: Node;
    thenStatement?: Node;
    elseStatement?: Node;
    condition?: Node;
    whenTrue?: Node;
    whenFalse?: Node;
    left?: Node;
    right?: Node;
    operatorToken?: Node;
  };
  if (kind === SyntaxKind.IfStatement && expression && branch !== expression)
    return [{ node: expression, holds: branch === thenStatement && branch !== elseStatement }];
  if (condition && branch !== condition)
    return branch === whenTrue || branch === whenFalse
      ? [{ node: condition, holds: branch === whenTrue }]
      : [];
  const isAnd = operatorToken?.kind === SyntaxKind.AmpersandAmpersandToken;
  const isOr = operatorToken?.kind === SyntaxKind.BarBarToken;
  return left && branch === right && (isAnd || isOr) ? [{ node: left, holds: isAnd }] : [];
}

/** Returns the conditions of statements before a node that leave the block: after `if (!isRefusal(error)) throw error;`. */
function conditionsBefore(statement: Node): readonly KnownCondition[] {
  const { statements = [] } = statement.parent as Node & { statements?: readonly Node[] };
  return statements
    .slice(0, Math.max(0, statements.indexOf(statement)))
    .flatMap((earlier) => {
      const { expression, thenStatement, elseStatement } = earlier as Node & {
        expression?: Node;
        thenStatement?: Node;
        elseStatement?: Node;
      };
      if (earlier.kind !== SyntaxKind.IfStatement || !expression || !thenStatement || elseStatement)
        return [];
      return leaves(thenStatement) ? [{ node: expression, holds: false }] : [];
    })
    .reverse();
}

const LEAVING: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.ReturnStatement,
  SyntaxKind.ThrowStatement,
  SyntaxKind.ContinueStatement,
  SyntaxKind.BreakStatement,
]);

function leaves(statement: Node): boolean {
  const { statements } = statement as Node & { statements?: readonly Node[] };
  const last = statements ? statements.at(-1) : statement;
  return last !== undefined && LEAVING.has(last.kind);
}

/** Whether a part of a node is an identifier of a name. */
export function mentions(node: Node, name: string): boolean {
  if (isIdentifier(node)) return node.text === name;
  let isMentioned = false;
  node.forEachChild((child) => {
    isMentioned ||= mentions(child, name);
  });
  return isMentioned;
}
