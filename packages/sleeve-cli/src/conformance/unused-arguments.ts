import {
  type Checker,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isTaggedTemplateExpression,
  type Node,
  SignatureKind,
  SyntaxKind,
} from "../compiler/typescript.ts";
import type { TargetMember } from "./candidates.ts";
import { type MemberCode, visitAll } from "./implementation/wrapper-code.ts";

/**
 * Returns the names of arguments that a target sends and a member's code never uses.
 *
 * A parameter with a leading underscore is ignored on purpose, and so are all arguments of an empty member.
 */
export function ignoredArguments(
  checker: Checker,
  { type }: TargetMember,
  { parameters, body, leading }: MemberCode,
): readonly string[] {
  if (!parameters || !doesSomething(body)) return [];
  const expected = checker.getNonNullableType(type) ?? type;
  const signatures = checker.getSignaturesOfType(expected, SignatureKind.Call);
  const sent =
    signatures.map((signature) => signature.getParameters()).sort((a, b) => b.length - a.length)[0] ?? [];
  const ownParameters = parameters.filter(({ name }) => name.getText() !== "this");
  if (ownParameters.some(({ dotDotDotToken }) => dotDotDotToken)) return [];
  const usedNames = namesIn(body, ownParameters);
  if (usedNames.has("arguments")) return [];
  return sent.flatMap(({ name }, index) => {
    const parameter = ownParameters[index + leading];
    if (!parameter) return [name];
    const { name: pattern } = parameter;
    if (!isIdentifier(pattern) || pattern.text.startsWith("_") || usedNames.has(pattern.text)) return [];
    return [name];
  });
}

/** Whether a member calls or creates anything. If not, it ignores its arguments on purpose. */
function doesSomething(body: Node): boolean {
  let does = false;
  visitAll(body, (node) => {
    const isThrown = isNewExpression(node) && node.parent.kind === SyntaxKind.ThrowStatement;
    const isMade = isCallExpression(node) || isNewExpression(node) || isTaggedTemplateExpression(node);
    if (isMade && !isThrown && !isEmptyPromise(node)) does = true;
  });
  return does;
}

/** `Promise.resolve()` is the result of an empty asynchronous member. */
function isEmptyPromise(node: Node): boolean {
  return isCallExpression(node) && /^Promise\.(resolve|reject)$/.test(node.expression.getText());
}

function namesIn(body: Node, parameters: readonly Node[]): ReadonlySet<string> {
  const names = new Set<string>();
  const note = (node: Node) => {
    if (isIdentifier(node)) names.add(node.text);
  };
  visitAll(body, note);
  // The default value of one parameter may use another.
  for (const parameter of parameters) {
    const { initializer } = parameter as Node & { initializer?: Node };
    if (initializer) visitAll(initializer, note);
  }
  return names;
}
