import { aliasTarget } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isBinaryExpression,
  isIdentifier,
  isPropertyAssignment,
  isPropertyDeclaration,
  isShorthandPropertyAssignment,
  isVariableDeclaration,
  type Node,
  SyntaxKind,
} from "../../compiler/typescript.ts";
import { hasValue, isNothing } from "./value-syntax.ts";
import { visitAll } from "./wrapper-code.ts";

/** Returns what a name refers to, through imports. */
export function symbolAt(checker: Checker, node: Node): CompilerSymbol | undefined {
  const isShorthand = isShorthandPropertyAssignment(node.parent) && node.parent.name === node;
  const symbol = isShorthand
    ? checker.getShorthandAssignmentValueSymbol(node.parent)
    : checker.getSymbolAtLocation(node);
  return symbol && aliasTarget(checker, symbol);
}

/** Returns the declaration with code, in the project. */
export function declarationWithCode(
  { valueDeclaration, declarations }: CompilerSymbol,
  isOwn: (path: string) => boolean,
): Node | undefined {
  const candidates = [...declarations, ...(valueDeclaration ? [valueDeclaration] : [])].filter(({ path }) =>
    isOwn(path),
  );
  const nodes = candidates.flatMap((handle) => handle.resolve() ?? []);
  return nodes.find(hasValue) ?? nodes[0];
}

/** Returns the values that a variable or property is given, where it is declared and later. */
export function sourcesOf(
  checker: Checker,
  declaration: Node,
  symbol: CompilerSymbol | undefined,
): readonly Node[] {
  const isVariable = isVariableDeclaration(declaration);
  if (!isVariable && !isPropertyDeclaration(declaration) && !isPropertyAssignment(declaration)) return [];
  const { initializer } = declaration;
  const assigned = symbol && isVariable ? assignedTo(checker, declaration, symbol) : [];
  return [...(initializer && !isNothing(initializer) ? [initializer] : []), ...assigned];
}

/** Returns what is assigned to a variable later in its file. */
function assignedTo(checker: Checker, declaration: Node, symbol: CompilerSymbol): readonly Node[] {
  if (/^\s*const\b/.test(declaration.parent.getText())) return [];
  const { name } = declaration as Node & { readonly name: Node };
  const text = name.getText();
  const assignments: Node[] = [];
  visitAll(declaration.getSourceFile(), (node) => {
    if (
      isBinaryExpression(node) &&
      ASSIGNMENTS.has(node.operatorToken.kind) &&
      isIdentifier(node.left) &&
      node.left.text === text &&
      checker.getSymbolAtLocation(node.left)?.id === symbol.id &&
      !isNothing(node.right)
    )
      assignments.push(node.right);
  });
  return assignments;
}

const ASSIGNMENTS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.EqualsToken,
  SyntaxKind.QuestionQuestionEqualsToken,
  SyntaxKind.BarBarEqualsToken,
]);
