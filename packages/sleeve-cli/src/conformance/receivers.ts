import type { Program } from "../compiler/program.ts";
import {
  type Checker,
  type CompilerSymbol,
  isArrayLiteralExpression,
  isArrowFunction,
  isBindingElement,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isReturnStatement,
  isVariableDeclaration,
  type Node,
  SignatureKind,
  SyntaxKind,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { TargetMember } from "./candidates.ts";
import { type MemberCode, visitOwn } from "./implementation/wrapper-code.ts";

/** Whether a member's code uses `this`, which is missing when it is called without a receiver. */
export function usesThis({ body, isBound }: MemberCode): boolean {
  if (isBound) return false;
  let uses = body.kind === SyntaxKind.ThisKeyword;
  visitOwn(body, (node) => {
    if (node.kind === SyntaxKind.ThisKeyword || node.kind === SyntaxKind.SuperKeyword) uses = true;
  });
  // An arrow function has the `this` of its enclosing member.
  visitArrows(body, (node) => {
    if (node.kind === SyntaxKind.ThisKeyword) uses = true;
  });
  return uses;
}

function visitArrows(node: Node, visit: (node: Node) => void): void {
  node.forEachChild((child: Node) => {
    visit(child);
    const hasOwnThis =
      child.kind === SyntaxKind.FunctionExpression ||
      child.kind === SyntaxKind.FunctionDeclaration ||
      child.kind === SyntaxKind.ClassExpression ||
      child.kind === SyntaxKind.ClassDeclaration;
    if (!hasOwnThis) visitArrows(child, visit);
  });
}

/** Whether the target declares that a member is called without a receiver: `this: void`. */
export function isDeclaredAlone(checker: Checker, { type }: TargetMember): boolean {
  return checker.getSignaturesOfType(type, SignatureKind.Call).some((signature) => {
    const receiver = signature.getThisParameter();
    const declared = receiver && checker.getTypeOfSymbol(receiver);
    return declared !== undefined && (declared.flags & TypeFlags.Void) !== 0;
  });
}

/** Whether the target declares a member as a property that holds a function, rather than as a method. */
export function isFunctionProperty(checker: Checker, { type, symbol }: TargetMember): boolean {
  if (checker.getSignaturesOfType(type, SignatureKind.Call).length === 0) return false;
  const declarations = (symbol?.declarations ?? []).flatMap((declaration) => declaration.resolve() ?? []);
  return (
    declarations.length > 0 &&
    declarations.every(
      (node) =>
        (node.kind === SyntaxKind.PropertySignature || node.kind === SyntaxKind.PropertyDeclaration) &&
        (node as Node & { readonly type?: Node }).type?.kind === SyntaxKind.FunctionType,
    )
  );
}

/** A place of a name that may be an extracted member. */
export interface Mention {
  readonly path: string;
  readonly offset: number;
}

/** Returns the first mention that extracts a member of a target. */
export function takenOff(
  program: Program,
  { symbol, name }: TargetMember,
  mentions: readonly Mention[],
): Mention | undefined {
  const declarationKeys = new Set(symbol?.declarations.map(({ path, index }) => `${path} ${index}`));
  if (declarationKeys.size === 0) return undefined;
  return mentions.find(({ path, offset }) => {
    const source = program.sourceFile(path);
    const checker = program.checkerFor(path);
    const node = source && nodeAt(source, offset);
    if (!node || !checker || !isIdentifier(node) || node.text !== name) return false;
    const memberSymbol = isTaken(node)
      ? checker.getSymbolAtLocation(node)
      : destructured(checker, node, source);
    return (memberSymbol?.declarations ?? []).some((declaration) =>
      declarationKeys.has(`${declaration.path} ${declaration.index}`),
    );
  });
}

/** `call(bell.ring)`, `const ring = bell.ring`, `{ ring: bell.ring }`, `return bell.ring`, `[bell.ring]`. */
function isTaken(name: Node): boolean {
  const access = name.parent;
  if (!isPropertyAccessExpression(access) || access.name !== name) return false;
  const { parent } = access;
  if (isCallExpression(parent) || isNewExpression(parent)) return parent.expression !== access;
  return (
    isVariableDeclaration(parent) ||
    isPropertyAssignment(parent) ||
    isReturnStatement(parent) ||
    isArrayLiteralExpression(parent) ||
    (isArrowFunction(parent) && parent.body === access)
  );
}

/** `const { ring } = bell; ring()`: the member of what is taken apart. */
function destructured(checker: Checker, name: Node, source: Node): CompilerSymbol | undefined {
  const element = name.parent;
  if (!isBindingElement(element) || (element.propertyName ?? element.name) !== name) return undefined;
  // A member that is bound before use is not extracted.
  if (!isCalledAlone(source, (element.name ?? name).getText())) return undefined;
  const pattern = element.parent;
  const { initializer } = pattern.parent as Node & { initializer?: Node };
  const type = checker.getTypeAtLocation(initializer ?? pattern);
  return type && checker.getPropertyOfType(type, (name as Node & { text: string }).text);
}

function isCalledAlone(source: Node, local: string): boolean {
  let isCalled = false;
  const visit = (node: Node): void => {
    if (isCallExpression(node) && isIdentifier(node.expression) && node.expression.text === local)
      isCalled = true;
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return isCalled;
}

function nodeAt(source: Node, offset: number): Node | undefined {
  let classNode: Node | undefined;
  const visit = (node: Node): void => {
    if (offset < node.pos || offset >= node.end) return;
    classNode = node;
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return classNode;
}
