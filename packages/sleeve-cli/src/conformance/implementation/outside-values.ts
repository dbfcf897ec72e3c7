import { aliasTarget } from "../../compiler/syntax.ts";
import {
  type Checker,
  isCallExpression,
  isElementAccessExpression,
  isIdentifier,
  isNewExpression,
  isPropertyAccessExpression,
  isShorthandPropertyAssignment,
  type Node,
  SyntaxKind,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { type MemberCode, returnedFrom, stripped } from "./wrapper-code.ts";

/** Whether an expression names something that is declared outside the project: `parse`, `outside.parse`. */
export function isOutsideValue(checker: Checker, isOwn: (path: string) => boolean, node: Node): boolean {
  const inner = stripped(node);
  if (inner !== node) return false;
  const name = isPropertyAccessExpression(inner) ? inner.name : inner;
  if (!isIdentifier(name)) return false;
  const isShorthand = isShorthandPropertyAssignment(name.parent) && name.parent.name === name;
  const symbol = isShorthand
    ? checker.getShorthandAssignmentValueSymbol(name.parent)
    : checker.getSymbolAtLocation(name);
  const declarations = symbol ? aliasTarget(checker, symbol).declarations : [];
  if (declarations.length === 0) return isOfUntypedModule(checker, inner);
  return declarations.every(({ path }) => !isOwn(path)) || isOfUntypedModule(checker, inner);
}

/** Whether a member is a factory of an outside class and no more: `createQueue: (limit) => new Queue(limit)`. */
export function isOutsideFactory(
  checker: Checker,
  isOwn: (path: string) => boolean,
  { parameters, body }: MemberCode,
): boolean {
  const [returned, ...others] = parameters ? returnedFrom(body) : [];
  if (!returned || others.length > 0 || !isNewExpression(returned)) return false;
  const argumentTexts = (returned.arguments ?? []).map((argument) =>
    argument.getText().replace(/^\.{3}/, ""),
  );
  const names = (parameters ?? []).map(({ name }) => name.getText());
  return argumentTexts.join() === names.join() && isOutsideValue(checker, isOwn, returned.expression);
}

/** Whether a member holds or returns something of a module without types. */
export function comesFromUntypedModule(checker: Checker, { value, body, parameters }: MemberCode): boolean {
  const values = value ? [value] : [];
  const sources = parameters ? returnedFrom(body) : values;
  return sources.length > 0 && sources.every((source) => isOfUntypedModule(checker, source));
}

/** Whether the first name in an expression is imported, and of type `any`. */
export function isOfUntypedModule(checker: Checker, node: Node): boolean {
  let root = stripped(node);
  while (
    isPropertyAccessExpression(root) ||
    isElementAccessExpression(root) ||
    isCallExpression(root) ||
    isNewExpression(root)
  )
    root = stripped(root.expression);
  if (!isIdentifier(root)) return false;
  const isShorthand = isShorthandPropertyAssignment(root.parent) && root.parent.name === root;
  const symbol = isShorthand
    ? checker.getShorthandAssignmentValueSymbol(root.parent)
    : checker.getSymbolAtLocation(root);
  const isImported = symbol?.declarations.some((declaration) => {
    const kind = declaration.resolve()?.kind;
    return kind !== undefined && IMPORTS.has(kind);
  });
  const type = checker.getTypeAtLocation(root);
  return isImported === true && type !== undefined && (type.flags & TypeFlags.Any) !== 0;
}

const IMPORTS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.ImportSpecifier,
  SyntaxKind.ImportClause,
  SyntaxKind.NamespaceImport,
  SyntaxKind.ImportEqualsDeclaration,
]);
