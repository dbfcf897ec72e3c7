import {
  isCallExpression,
  isIdentifier,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
} from "../../compiler/typescript.ts";

/** Returns the variable that an expression assigns to, or whose members it assigns to. */
export function changedBy(node: Node): Node | undefined {
  let changed = assignedIn(node) ?? steppedIn(node);
  while (changed && isPropertyAccessExpression(changed)) changed = changed.expression;
  return changed;
}

function assignedIn(node: Node): Node | undefined {
  const { operatorToken, left } = node as Node & { operatorToken?: Node; left?: Node };
  const kind = operatorToken?.kind ?? SyntaxKind.Unknown;
  return kind >= SyntaxKind.FirstAssignment && kind <= SyntaxKind.LastAssignment ? left : undefined;
}

function steppedIn(node: Node): Node | undefined {
  const { operator, operand } = node as Node & { operator?: SyntaxKind; operand?: Node };
  const isStep = operator === SyntaxKind.PlusPlusToken || operator === SyntaxKind.MinusMinusToken;
  return isStep ? operand : undefined;
}

/** Whether a node calls `console`. */
export function isConsoleCall(node: Node): boolean {
  if (!isCallExpression(node) || !isPropertyAccessExpression(node.expression)) return false;
  return node.expression.expression.getText() === "console";
}

/** Whether a copied function or class has a `this` of its own. */
export function hasOwnThis({ kind }: Node): boolean {
  return kind !== SyntaxKind.ArrowFunction;
}

/** Whether a child is a name that refers to nothing: of a member, a property or a declaration. */
export function isNameOnly(parent: Node, child: Node): boolean {
  const { name, propertyName, label } = parent as Node & { name?: Node; propertyName?: Node; label?: Node };
  return (
    (isIdentifier(child) || child.kind === SyntaxKind.PrivateIdentifier) &&
    (child === name || child === propertyName || child === label)
  );
}

const PRIMARY: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.Identifier,
  SyntaxKind.StringLiteral,
  SyntaxKind.NoSubstitutionTemplateLiteral,
  SyntaxKind.TemplateExpression,
  SyntaxKind.BigIntLiteral,
  SyntaxKind.RegularExpressionLiteral,
  SyntaxKind.TrueKeyword,
  SyntaxKind.FalseKeyword,
  SyntaxKind.NullKeyword,
  SyntaxKind.ArrayLiteralExpression,
  SyntaxKind.CallExpression,
  SyntaxKind.PropertyAccessExpression,
  SyntaxKind.ElementAccessExpression,
]);

/** Whether a member of an expression can be reached without parentheses. */
export function isPrimary({ kind }: Node): boolean {
  return PRIMARY.has(kind);
}

/** Whether the code of a value can stand in place of a name without parentheses. */
export function canReplace(name: Node, value: Node): boolean {
  const isNumber = value.kind === SyntaxKind.NumericLiteral && !isPropertyAccessExpression(name.parent);
  return isNumber || hasOwnPlace(name.parent, name);
}

/** Whether a child stands where any expression may stand. */
export function hasOwnPlace(parent: Node, child: Node): boolean {
  switch (parent.kind) {
    case SyntaxKind.CallExpression:
    case SyntaxKind.NewExpression:
      return (parent as Node & { expression: Node }).expression !== child;
    case SyntaxKind.ArrayLiteralExpression:
    case SyntaxKind.PropertyAssignment:
    case SyntaxKind.VariableDeclaration:
    case SyntaxKind.ReturnStatement:
    case SyntaxKind.TemplateSpan:
      return true;
    default:
      return false;
  }
}

const FUNCTIONS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.FunctionDeclaration,
  SyntaxKind.FunctionExpression,
  SyntaxKind.ArrowFunction,
  SyntaxKind.MethodDeclaration,
  SyntaxKind.Constructor,
  SyntaxKind.GetAccessor,
  SyntaxKind.SetAccessor,
]);

/** Whether a node is a function of any kind. */
export function isFunctionNode(node: Node): boolean {
  return FUNCTIONS.has(node.kind);
}

/** Returns the name under which a function is declared; `undefined` for none, and for a file. */
export function functionNameOf(container: Node): string | undefined {
  if (!isFunctionNode(container)) return undefined;
  const { name } = container as Node & { name?: Node };
  if (name && isIdentifier(name)) return name.text;
  const { name: variable } = container.parent as Node & { name?: Node };
  const isVariable = container.parent.kind === SyntaxKind.VariableDeclaration;
  return isVariable && variable && isIdentifier(variable) ? variable.text : undefined;
}

/** Returns the name of a property of an object literal; `undefined` for a computed one. */
export function propertyNameOf(property: Node): string | undefined {
  const { name } = property as Node & { name?: Node & { text?: string } };
  return name?.text;
}

/** Globals whose use has no effect. */
export const PURE_GLOBALS: ReadonlySet<string> = new Set(
  "undefined NaN Infinity Array ArrayBuffer BigInt Boolean Buffer Date Error Intl JSON Map Math Number Object Promise RangeError RegExp Set String Symbol SyntaxError TextDecoder TextEncoder TypeError URL URLSearchParams Uint8Array isFinite isNaN parseFloat parseInt structuredClone AbortController".split(
    " ",
  ),
);

/** Syntax that depends on where it stands, and why. */
export const FORBIDDEN: ReadonlyMap<SyntaxKind, string> = new Map([
  [SyntaxKind.SuperKeyword, "it uses `super`"],
  [SyntaxKind.YieldExpression, "it is part of a generator"],
  [SyntaxKind.MetaProperty, "it depends on its file"],
  [SyntaxKind.ImportKeyword, "it imports a module"],
  [SyntaxKind.JsxElement, "it is JSX"],
  [SyntaxKind.JsxSelfClosingElement, "it is JSX"],
]);
