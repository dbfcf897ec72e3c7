import {
  type Checker,
  isArrowFunction,
  isAwaitExpression,
  isIdentifier,
  isParenthesizedExpression,
  type Node,
  type NodeHandle,
  type Signature,
  SyntaxKind,
  TypeFlags,
} from "../../../compiler/typescript.ts";
import type { CallSite } from "./derive-context.ts";

/** A call with the signature that the compiler chose for it. */
export interface ResolvedCall extends CallSite {
  readonly resolved: Signature;
  /** The signature before type arguments are filled in. */
  readonly declared: Signature;
  /** The declaration, as a key. */
  readonly declaration: string;
  readonly args: readonly Node[];
  readonly typeArguments: readonly Node[];
  readonly hasSpread: boolean;
  readonly isDiscarded: boolean;
}

export function resolvedCall(site: CallSite): ResolvedCall | undefined {
  const { call, checker } = site;
  const resolved = checker.getResolvedSignature(call);
  if (!resolved) return undefined;
  const { arguments: args = [], typeArguments = [] } = call as Node & {
    readonly arguments?: readonly Node[];
    readonly typeArguments?: readonly Node[];
  };
  return {
    ...site,
    resolved,
    declared: resolved.getTarget() ?? resolved,
    declaration: keyOf(resolved.declaration),
    args,
    typeArguments,
    hasSpread: args.some(({ kind }) => kind === SyntaxKind.SpreadElement),
    isDiscarded: isDiscarded(call, checker),
  };
}

function keyOf(declaration: NodeHandle | undefined): string {
  return declaration ? `${declaration.path} ${declaration.index}` : "";
}

/** Whether the result of a call is not used: a statement, `void`, or the body of a function that returns nothing. */
function isDiscarded(call: Node, checker: Checker): boolean {
  let node = call;
  while (isAwaitExpression(node.parent) || isParenthesizedExpression(node.parent)) node = node.parent;
  const { parent } = node;
  if (parent.kind === SyntaxKind.ExpressionStatement || parent.kind === SyntaxKind.VoidExpression)
    return true;
  if (!isArrowFunction(parent) || (parent as Node & { body: Node }).body !== node) return false;
  const expected = checker.getContextualType(parent as Parameters<Checker["getContextualType"]>[0]);
  const [signature] = expected ? checker.getSignaturesOfType(expected, 0) : [];
  const returned = signature && checker.getReturnTypeOfSignature(signature);
  return returned !== undefined && (returned.flags & TypeFlags.Void) !== 0;
}

/** Whether some identifier in a part of a declaration has a name. */
export function mentionsIdentifier(node: Node | undefined, name: string): boolean {
  if (!node) return false;
  if (isIdentifier(node) && node.text === name) return true;
  let isMentioned = false;
  node.forEachChild((child) => {
    isMentioned ||= mentionsIdentifier(child, name);
  });
  return isMentioned;
}
