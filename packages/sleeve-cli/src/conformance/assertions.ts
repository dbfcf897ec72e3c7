import {
  type Checker,
  isAsExpression,
  isCallExpression,
  isElementAccessExpression,
  isIdentifier,
  isNewExpression,
  isNonNullExpression,
  isParenthesizedExpression,
  isPropertyAccessExpression,
  isTypeAssertion,
  type Node,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { MemberCode, WrapperCode } from "./implementation/wrapper-code.ts";
import { returnedFrom, stripped, visitAll } from "./implementation/wrapper-code.ts";

/** A place where the code asserts a type. */
export interface Assertion {
  readonly node: Node;
  /** The member it is in; `undefined` for the wrapper as a whole. */
  readonly member: string | undefined;
  readonly kind: "as" | "!";
  readonly from: string;
  readonly to: string;
}

/** Returns the assertions in a wrapper that force a type on a value not known to have it. */
export function assertionsIn(checker: Checker, { members, values }: WrapperCode): readonly Assertion[] {
  const assertions: Assertion[] = [];
  const visited = new Set<Node>();
  const look = (root: Node, member: string | undefined, isDeep: boolean): void => {
    const at = (node: Node): void => {
      const assertion = assertedIn(checker, node, root);
      if (!assertion || visited.has(node)) return;
      for (
        let candidate: Node = node;
        isAssertion(candidate) || isParenthesizedExpression(candidate);
        candidate = candidate.expression
      )
        visited.add(candidate);
      assertions.push({ ...assertion, node, member });
    };
    if (isDeep) visitAll(root, at);
    else for (let node = root; node !== stripped(node); node = (node as Wrapped).expression) at(node);
  };
  for (const value of values) look(value, undefined, false);
  for (const { name, body, value } of members.values()) {
    if (value) look(value, name, false);
    if (name !== "()") look(body, name, true);
  }
  const self = members.get("()");
  if (self && values.length === 0) look(self.body, "()", true);
  return assertions;
}

/** Returns the members that are asserted as a whole, whether or not the compiler could confirm it. */
export function membersAsserted({ members }: WrapperCode): readonly string[] {
  return [...members.values()].flatMap(({ name, node }) => {
    let { initializer: value } = node as { initializer?: Node };
    // A script asserts a type in parentheses.
    while (value && isParenthesizedExpression(value)) value = value.expression;
    return value && isAssertion(value) ? [name] : [];
  });
}

type Wrapped = Node & { readonly expression: Node };

function isAssertion(node: Node): node is Wrapped {
  return isAsExpression(node) || isTypeAssertion(node) || isNonNullExpression(node);
}

function assertedIn(
  checker: Checker,
  node: Node,
  root: Node,
): Pick<Assertion, "kind" | "from" | "to"> | undefined {
  if (!isAssertion(node)) return undefined;
  const { expression } = node;
  const [from, to] = checker.getTypeAtLocation([expression, node]);
  if (!from || !to) return undefined;
  const [fromText, toText] = [from, to].map((type) => checker.typeToString(type)) as [string, string];
  if (isNonNullExpression(node)) {
    if (from.id === to.id || isCheckedBefore(expression, root)) return undefined;
    return { kind: "!", from: fromText, to: toText };
  }
  if (isConstAssertion(node) || isCaughtError(expression) || isIndex(node)) return undefined;
  if (onlyFeedsArgument(checker, node, to)) return undefined;
  if (!isForced(checker, from, to)) return undefined;
  return { kind: "as", from: fromText, to: toText };
}

/** Whether the compiler would reject the assignment, or knows nothing about either type. */
function isForced(checker: Checker, from: Type, to: Type): boolean {
  if ((to.flags & TypeFlags.Any) !== 0) return true;
  if ((to.flags & TypeFlags.Unknown) !== 0) return false;
  return (from.flags & TypeFlags.Any) !== 0 || !checker.isTypeAssignableTo(from, to);
}

function isConstAssertion(node: Node): boolean {
  const { type } = node as Node & { type?: Node };
  return type?.getText() === "const";
}

/** `ship[key as keyof Ship]` is the usual way to look up a name that is known only as a string. */
function isIndex(node: Node): boolean {
  return isElementAccessExpression(node.parent) && node.parent.argumentExpression === node;
}

/**
 * Whether an asserted value is only an argument of a call whose result does not contain it, as in
 * `known.includes(key as "a")`. A function that the member was given by its client is no such call.
 */
function onlyFeedsArgument(checker: Checker, node: Node, to: Type): boolean {
  let argument = node;
  while (isParenthesizedExpression(argument.parent)) argument = argument.parent;
  const call = argument.parent;
  if (!isCallExpression(call) && !isNewExpression(call)) return false;
  if (call.expression === argument || isParameterOf(checker, call.expression)) return false;
  if ((to.flags & TypeFlags.Any) !== 0 && !isCallExpression(call)) return true;
  const result = checker.getTypeAtLocation(call);
  return result !== undefined && !contains(checker, result, to, 0);
}

/** Whether a function that is called is a parameter, such as a callback of the client. */
function isParameterOf(checker: Checker, callee: Node): boolean {
  const declaration = checker.getSymbolAtLocation(callee)?.valueDeclaration?.resolve();
  return declaration?.kind === SyntaxKind.Parameter;
}

/** Whether a type is another one, or has it as a part. */
function contains(checker: Checker, type: Type, part: Type, depth: number): boolean {
  if (type.id === part.id || (type.flags & TypeFlags.Any) !== 0) return true;
  if (depth > 2) return false;
  if (type.isUnionType() || type.isIntersectionType())
    return type.getTypes().some((inner) => contains(checker, inner, part, depth + 1));
  if (!type.isTypeReference()) return false;
  return checker.getTypeArguments(type).some((inner) => contains(checker, inner, part, depth + 1));
}

/** A caught value is `unknown` by definition, so it can only be asserted. */
function isCaughtError(expression: Node): boolean {
  const root = stripped(expression);
  if (!isIdentifier(root)) return false;
  for (let node: Node | undefined = root.parent; node; node = node.parent) {
    if (node.kind !== SyntaxKind.CatchClause) continue;
    const { variableDeclaration } = node as Node & { variableDeclaration?: { name: Node } };
    if (variableDeclaration?.name.getText() === root.text) return true;
  }
  return false;
}

/** `map.get(key)!` after `map.has(key)` in the same function. */
function isCheckedBefore(expression: Node, root: Node): boolean {
  const call = stripped(expression);
  if (!isCallExpression(call) || !isPropertyAccessExpression(call.expression)) return false;
  if (call.expression.name.text !== "get") return false;
  const question = `${call.expression.expression.getText()}.has(${call.arguments.map((argument) => argument.getText()).join(", ")})`;
  return root.getText().includes(question);
}

/** A member whose declared result was never checked, because the compiler sees `any`. */
export function untypedReturn(checker: Checker, { body, definition }: MemberCode): Node | undefined {
  const { type } = definition as Node & { type?: Node };
  if (!type || type.kind === SyntaxKind.VoidKeyword) return undefined;
  return returnedFrom(body).find((node) => {
    // An assertion is reported by itself.
    if (node !== stripped(node) && isAssertion(node)) return false;
    const assertedType = checker.getTypeAtLocation(node);
    return (
      assertedType !== undefined && (assertedType.flags & TypeFlags.Any) !== 0 && !assertedType.isErrorType()
    );
  });
}

/** A comment that suppresses compiler errors. */
export interface Suppression {
  readonly path: string;
  readonly offset: number;
}

/** Returns the comments that suppress compiler errors in or above the declarations of a wrapper. */
export function suppressionsIn({ declarations }: WrapperCode): readonly Suppression[] {
  const suppressions = new Map<string, Suppression>();
  for (const declaration of declarations) {
    const { pos, end } = statementOf(declaration);
    const { text, fileName: path } = declaration.getSourceFile();
    for (const { index, 0: comment } of text.matchAll(SUPPRESSION))
      if ((index >= pos && index < end) || comment.endsWith("nocheck"))
        suppressions.set(`${path} ${index}`, { path, offset: index });
  }
  return [...suppressions.values()];
}

const SUPPRESSION = /(?:\/\/|\/\*)\s*@ts-(?:ignore|expect-error|nocheck)\b/g;

/** Returns the statement or member that a declaration is in; comments above it belong to it. */
function statementOf(declaration: Node): Node {
  let node = declaration;
  while (node.parent && !ENCLOSING.has(node.parent.kind)) node = node.parent;
  return node.parent ? node : declaration;
}

const ENCLOSING: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.SourceFile,
  SyntaxKind.Block,
  SyntaxKind.ModuleBlock,
  SyntaxKind.ClassDeclaration,
  SyntaxKind.ClassExpression,
  SyntaxKind.ObjectLiteralExpression,
]);
