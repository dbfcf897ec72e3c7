import type { Program } from "../compiler/program.ts";
import {
  aliasTarget,
  type ExportedDeclaration,
  exportedDeclarationOver,
  exportedNamesOf,
  isIdentifier,
} from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isHeritageClause,
  isInterfaceDeclaration,
  isShorthandPropertyAssignment,
  type Node,
  type SourceFile,
  SyntaxKind,
} from "../compiler/typescript.ts";
import type { UseKind } from "../documents/survey-document.ts";
import { memberOfField } from "./constructor-fields.ts";
import { jsxElementsIn } from "./jsx-elements.ts";
import { type Origin, Origins, type Ownership } from "./origins.ts";

/** One use of something that a package of interest declares. */
export interface Use extends Origin {
  readonly offset: number;
  readonly kind: UseKind;
  /** For a call, if requested: the resolved signature, and the types of its arguments. */
  readonly call: UsedSignature | undefined;
  /** The exported declaration whose signature contains it. */
  readonly shownBy: ExportedDeclaration | undefined;
}

export interface UsedSignature {
  /** `(load: Load) => this`, type arguments filled in. */
  readonly signature: string;
  /** `(number, { tons: number })`. */
  readonly sends: string;
}

/** What to look for, and where. */
export interface UseQuery {
  /** Whether to resolve the signatures of calls, which costs one request each. */
  readonly withSignatures?: boolean | undefined;
  readonly ownership: Ownership;
  /** Offsets of candidate names, in order. May contain too many. */
  readonly offsets: readonly number[];
}

/**
 * Finds the uses of packages of interest in one file, including uses through instances and re-exports. The
 * compiler resolves each candidate name to its declaration.
 */
export function usesIn(program: Program, file: string, query: UseQuery): readonly Use[] {
  const source = program.sourceFile(file);
  const checker = program.checkerFor(file);
  if (!source || !checker) return [];
  const candidates = candidatesIn(source, query);
  if (candidates.length === 0) return [];
  const symbols = symbolsOf(candidates, checker).map((symbol, index) => {
    const { parent } = candidates[index] as UsedName;
    // `{ weigh }` names a member and uses a value.
    return isShorthandPropertyAssignment(parent) ? checker.getShorthandAssignmentValueSymbol(parent) : symbol;
  });
  const origins = Origins.for(checker, query.ownership);
  const exported = exportedNamesOf(source);
  const signatureOf = (node: Node) => (query.withSignatures ? usedSignature(node, checker) : undefined);
  const uses: Use[] = [];
  const inherited: { readonly node: UsedName; readonly receiver: Node; readonly name: string }[] = [];
  candidates.forEach((node, index) => {
    const symbol = symbols[index];
    if (!symbol) return;
    const origin = origins.of(symbol);
    if (origin) uses.push(useOf(node, source, exported, origin, signatureOf));
    else if (origins.isForeign(symbol)) {
      const receiver = receiverOf(node);
      if (receiver) inherited.push({ node, receiver, name: symbol.name });
    }
  });
  for (const { node, symbol } of jsxFactoriesIn(program, source, checker)) {
    const origin = origins.of(symbol);
    if (!origin) continue;
    const offset = node.getStart(source);
    uses.push({ ...origin, offset, kind: "call", call: undefined, shownBy: undefined });
  }
  // A member inherited from another package is declared there, so the receiver decides.
  const types =
    inherited.length > 0 ? checker.getTypeAtLocation(inherited.map(({ receiver }) => receiver)) : [];
  inherited.forEach(({ node, name }, index) => {
    const symbol = types[index]?.getSymbol();
    const origin = symbol && origins.of(symbol);
    if (origin)
      uses.push(useOf(node, source, exported, { ...origin, name, owner: origin.name }, signatureOf));
  });
  return uses.sort((left, right) => left.offset - right.offset);
}

/** Returns the elements of a file with the imported factories that they call, although they do not name them. */
function jsxFactoriesIn(
  program: Program,
  source: SourceFile,
  checker: Checker,
): readonly { readonly node: Node; readonly symbol: CompilerSymbol }[] {
  const elements = jsxElementsIn(program, source);
  if (elements.length === 0) return [];
  const imported = new Map<string, CompilerSymbol>();
  const visit = (node: Node): void => {
    if (!isIdentifier(node)) node.forEachChild(visit);
    else if (elements.some(({ path }) => path[0] === node.text)) {
      const symbol = checker.getSymbolAtLocation(node);
      if (symbol && !imported.has(node.text)) imported.set(node.text, symbol);
    }
  };
  for (const statement of source.statements)
    if (statement.kind === SyntaxKind.ImportDeclaration) statement.forEachChild(visit);
  return elements.flatMap(({ node, path: [local = "", member] }) => {
    const symbol = imported.get(local);
    const target = symbol && member !== undefined ? aliasTarget(checker, symbol) : undefined;
    const factory = target && member !== undefined ? memberOfValue(checker, target, member) : symbol;
    return factory ? [{ node, symbol: factory }] : [];
  });
}

/** Returns a member of a namespace or of a value: `createElement` of `React`. */
function memberOfValue(checker: Checker, symbol: CompilerSymbol, member: string): CompilerSymbol | undefined {
  const exported = checker.getExportsOfModule(symbol).find(({ name }) => name === member);
  const type = exported ? undefined : checker.getTypeOfSymbol(symbol);
  return exported ?? (type && checker.getPropertyOfType(type, member));
}

/** A name in use: an identifier, or the string in `crane["lift"]`. */
export type UsedName = Node & { readonly text: string };

/** Returns the names at, or just behind, the offsets. Subtrees without any are not fetched. */
function candidatesIn(source: SourceFile, { offsets }: UseQuery): readonly UsedName[] {
  const candidates: UsedName[] = [];
  const visit = (node: Node): void => {
    if (!isAnyWithin(offsets, node.pos, node.end)) return;
    if (node.kind === SyntaxKind.ImportDeclaration || node.kind === SyntaxKind.ExportDeclaration) return;
    if (isUsedName(node)) candidates.push(node);
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return candidates;
}

/** Whether any of the ordered offsets lies in a range. */
function isAnyWithin(offsets: readonly number[], start: number, end: number): boolean {
  let low = 0;
  let high = offsets.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((offsets[middle] as number) < start) low = middle + 1;
    else high = middle;
  }
  const offset = offsets[low];
  return offset !== undefined && offset < end;
}

/** Returns the symbol of each identifier. In `const { high } = turn` it is the member, not the constant. */
export function symbolsOf(
  nodes: readonly UsedName[],
  checker: Checker,
): readonly (CompilerSymbol | undefined)[] {
  const symbols = checker
    .getSymbolAtLocation(nodes)
    .map((symbol, index) => symbol ?? memberOfField(nodes[index] as UsedName, checker));
  const destructured = nodes.flatMap((node, index) => (isShorthandBinding(node) ? [{ node, index }] : []));
  if (destructured.length === 0) return symbols;
  const patterns = checker.getTypeAtLocation(destructured.map(({ node }) => node.parent.parent));
  const members = new Map(
    destructured.map(({ node, index }, at) => {
      const type = patterns[at];
      return [index, type && checker.getPropertyOfType(type, node.text)];
    }),
  );
  return symbols.map((symbol, index) => (members.has(index) ? members.get(index) : symbol));
}

function isShorthandBinding({ parent }: Node): boolean {
  return parent.kind === SyntaxKind.BindingElement && !("propertyName" in parent && parent.propertyName);
}

/** `exports.weigh`, `module.exports.weigh`. */
function isOwnExports(access: Node): boolean {
  const { expression } = access as Node & {
    expression?: Node & { text?: string; expression?: { text?: string }; name?: { text?: string } };
  };
  if (expression?.kind === SyntaxKind.Identifier) return expression.text === "exports";
  return expression?.expression?.text === "module" && expression.name?.text === "exports";
}

/** Whether a node uses a name rather than declaring it. */
function isUsedName(node: Node): node is UsedName {
  if (isElementName(node)) return true;
  if (!isIdentifier(node)) return false;
  const { parent } = node;
  // An element counts as used at its opening tag.
  if (parent.kind === SyntaxKind.JsxClosingElement) return false;
  if (!("name" in parent) || parent.name !== node) return true;
  // The exports of a CommonJS script are its own, whatever they refer to.
  if (parent.kind === SyntaxKind.PropertyAccessExpression && isOwnExports(parent)) return false;
  // The name of a property access is a use, and so is a binding without a property name.
  return (
    parent.kind === SyntaxKind.PropertyAccessExpression ||
    parent.kind === SyntaxKind.ShorthandPropertyAssignment ||
    isShorthandBinding(node)
  );
}

export function isElementName(node: Node): boolean {
  const isText =
    node.kind === SyntaxKind.StringLiteral || node.kind === SyntaxKind.NoSubstitutionTemplateLiteral;
  const { kind, argumentExpression } = node.parent as Node & { argumentExpression?: Node };
  return isText && kind === SyntaxKind.ElementAccessExpression && argumentExpression === node;
}

function useOf(
  node: UsedName,
  source: SourceFile,
  exported: ReadonlySet<string>,
  origin: Origin,
  signatureOf: (node: Node) => UsedSignature | undefined,
): Use {
  const kind = kindOf(node);
  const offset = node.getStart(source);
  const call = kind === "call" || kind === "new" ? signatureOf(node) : undefined;
  const shownBy =
    kind === "type" || kind === "extend" ? exportedDeclarationOver(node, source, exported) : undefined;
  return { ...origin, offset, kind, call, shownBy };
}

/** Returns the resolved signature of a call. */
function usedSignature(name: Node, checker: Checker): UsedSignature | undefined {
  const callee: Node = isNameOfAccess(name) ? name.parent : name;
  const call = callee.parent as Node & { arguments?: readonly Node[] };
  const signature = checker.getResolvedSignature(call);
  const result = signature && checker.getReturnTypeOfSignature(signature);
  if (!signature || !result) return undefined;
  const parameters = signature.getParameters().map((parameter, index) => {
    const type = checker.getParameterType(signature, index);
    return `${parameter.name}: ${type ? checker.typeToString(type) : "unknown"}`;
  });
  const { arguments: argumentNodes = [] } = call;
  const types = argumentNodes.length > 0 ? checker.getTypeAtLocation(argumentNodes) : [];
  const sends = types.map((type) => {
    const widened = type && (checker.getBaseTypeOfLiteralType(type) ?? type);
    return widened ? checker.typeToString(widened) : "unknown";
  });
  return {
    signature: `(${parameters.join(", ")}) => ${checker.typeToString(result)}`,
    sends: `(${sends.join(", ")})`,
  };
}

/** Returns how a name is used. */
export function kindOf(node: Node): UseKind {
  const isMemberName = isNameOfAccess(node);
  const usedNode: Node = isMemberName ? node.parent : node;
  const { parent } = usedNode;
  const isCallee = "expression" in parent && parent.expression === usedNode;
  switch (parent.kind) {
    case SyntaxKind.CallExpression:
      return isCallee ? "call" : "read";
    case SyntaxKind.NewExpression:
      return isCallee ? "new" : "read";
    case SyntaxKind.ExpressionWithTypeArguments:
      return isOfClass(parent) ? "extend" : "type";
    case SyntaxKind.BinaryExpression:
      return binaryUse(parent, usedNode);
    default:
      return USE_WITHIN.get(parent.kind) ?? "read";
  }
}

/** How a name is used that is within a node of one of these kinds. */
const USE_WITHIN: ReadonlyMap<SyntaxKind, UseKind> = new Map([
  [SyntaxKind.TaggedTemplateExpression, "call"],
  [SyntaxKind.JsxOpeningElement, "call"],
  [SyntaxKind.JsxSelfClosingElement, "call"],
  [SyntaxKind.TypeReference, "type"],
  [SyntaxKind.QualifiedName, "type"],
  [SyntaxKind.ImportType, "type"],
  [SyntaxKind.TypeQuery, "type"],
  [SyntaxKind.TypePredicate, "type"],
]);

/** Whether a class extends the name, rather than implementing it as an interface. */
function isOfClass(heritage: Node): boolean {
  const clause = heritage.parent;
  return (
    isHeritageClause(clause) &&
    clause.token === SyntaxKind.ExtendsKeyword &&
    !isInterfaceDeclaration(clause.parent)
  );
}

function binaryUse(parent: Node, usedNode: Node): UseKind {
  const { left, operatorToken, right } = parent as Node & { left: Node; operatorToken: Node; right: Node };
  if (operatorToken.kind === SyntaxKind.InstanceOfKeyword && right === usedNode) return "instanceof";
  const isAssignment =
    operatorToken.kind >= SyntaxKind.FirstAssignment && operatorToken.kind <= SyntaxKind.LastAssignment;
  return isAssignment && left === usedNode ? "write" : "read";
}

function isNameOfAccess(node: Node): boolean {
  const { parent } = node;
  if (isElementName(node)) return true;
  return (
    parent.kind === SyntaxKind.PropertyAccessExpression && (parent as Node & { name: Node }).name === node
  );
}

function receiverOf(node: UsedName): Node | undefined {
  return isNameOfAccess(node) ? (node.parent as Node & { expression: Node }).expression : undefined;
}
