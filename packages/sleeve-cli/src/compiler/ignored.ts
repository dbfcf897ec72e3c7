import { type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isTaggedTemplateExpression,
} from "typescript/unstable/ast/is";
import { type Checker, SignatureKind } from "typescript/unstable/sync";
import type { TargetMember } from "./candidates.ts";
import { type MemberCode, visitAll } from "./wrapper-code.ts";

/**
 * The names of the arguments that a target sends to a member and its code makes nothing of.
 *
 * A parameter that starts with an underscore is ignored on purpose, and so is all that is sent to a member that does
 * nothing at all.
 */
export function ignoredArguments(
  checker: Checker,
  { type }: TargetMember,
  { parameters, body, leading }: MemberCode,
): readonly string[] {
  if (!parameters || !doesSomething(body)) return [];
  const expected = checker.getNonNullableType(type) ?? type;
  const signatures = checker.getSignaturesOfType(expected, SignatureKind.Call);
  const sent = signatures.map((each) => each.getParameters()).sort((a, b) => b.length - a.length)[0] ?? [];
  const own = parameters.filter(({ name }) => name.getText() !== "this");
  if (own.some(({ dotDotDotToken }) => dotDotDotToken)) return [];
  const used = namesIn(body, own);
  if (used.has("arguments")) return [];
  return sent.flatMap(({ name }, index) => {
    const parameter = own[index + leading];
    if (!parameter) return [name];
    const { name: pattern } = parameter;
    if (!isIdentifier(pattern) || pattern.text.startsWith("_") || used.has(pattern.text)) return [];
    return [name];
  });
}

/** Whether a member calls or makes anything; one that does not leaves its arguments alone on purpose. */
function doesSomething(body: Node): boolean {
  let does = false;
  visitAll(body, (node) => {
    const isThrown = isNewExpression(node) && node.parent.kind === SyntaxKind.ThrowStatement;
    const isMade = isCallExpression(node) || isNewExpression(node) || isTaggedTemplateExpression(node);
    if (isMade && !isThrown && !isEmptyPromise(node)) does = true;
  });
  return does;
}

/** `Promise.resolve()` is how a member that does nothing gives its promise. */
function isEmptyPromise(node: Node): boolean {
  return isCallExpression(node) && /^Promise\.(resolve|reject)$/.test(node.expression.getText());
}

function namesIn(body: Node, parameters: readonly Node[]): ReadonlySet<string> {
  const names = new Set<string>();
  const note = (node: Node) => {
    if (isIdentifier(node)) names.add(node.text);
  };
  visitAll(body, note);
  // The default of one parameter may use another.
  for (const each of parameters) {
    const { initializer } = each as Node & { initializer?: Node };
    if (initializer) visitAll(initializer, note);
  }
  return names;
}
