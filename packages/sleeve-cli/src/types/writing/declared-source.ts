import { aliasTarget } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isIdentifier,
  isImportTypeNode,
  isQualifiedName,
  isTypePredicateNode,
  isTypeQueryNode,
  type Node,
  SymbolFlags,
  SyntaxKind,
  type Type,
} from "../compiler/typescript.ts";
import { Uncopiable } from "./type-names.ts";

/**
 * Returns the source of a declared type, parameter or type parameter, with each type name replaced by the
 * result of `nameOf`. Calls `read` for each access to a member of a type.
 *
 * @throws {Uncopiable} for a `typeof` query, or if `nameOf` throws it
 */
export function declaredWords(
  checker: Checker,
  node: Node,
  read: (owner: Type, index: Type) => void,
  nameOf: (symbol: CompilerSymbol) => string,
): string {
  const source = node.getSourceFile();
  const start = node.getStart(source);
  const replaced: { readonly start: number; readonly end: number; readonly text: string }[] = [];
  const replace = (name: Node, whole: Node, end: number): void => {
    const symbol = checker.getSymbolAtLocation(name);
    const target = symbol && aliasTarget(checker, symbol);
    if (!target || checker.isUnknownSymbol(target))
      throw new Uncopiable(`${name.getText(source)} cannot be resolved`);
    if ((target.flags & SymbolFlags.TypeParameter) !== 0) return;
    replaced.push({ start: whole.getStart(source), end, text: nameOf(target) });
  };
  const visit = (node: Node): void => {
    if (isTypeQueryNode(node)) throw new Uncopiable("it is the type of a value");
    if (isImportTypeNode(node)) {
      const { qualifier, typeArguments = [] } = node as Node & {
        qualifier?: Node;
        typeArguments?: readonly Node[];
      };
      if (!qualifier) throw new Uncopiable("it is the type of a module");
      replace(isQualifiedName(qualifier) ? qualifier.right : qualifier, node, qualifier.end);
      typeArguments.forEach(visit);
      return;
    }
    if (isQualifiedName(node)) {
      replace(node.right, node, node.end);
      return;
    }
    if (isIdentifier(node)) {
      if (namesType(node)) replace(node, node, node.end);
      return;
    }
    if (node.kind === SyntaxKind.IndexedAccessType) {
      const { objectType, indexType } = node as Node & { objectType: Node; indexType: Node };
      const [owner, index] = [objectType, indexType].map((part) =>
        checker.getTypeFromTypeNode(part as never),
      );
      if (owner && index) read(owner, index);
    }
    node.forEachChild(visit);
  };
  visit(node);
  const text = source.text.slice(start, node.end);
  const parts: string[] = [];
  let at = start;
  for (const { start: from, end, text: name } of replaced.sort((left, right) => left.start - right.start)) {
    parts.push(source.text.slice(at, from), name);
    at = end;
  }
  const words = replaced.length > 0 ? `${parts.join("")}${source.text.slice(at, node.end)}` : text;
  return words.replace(COMMENT, (_, text: string | undefined) => text ?? " ").trim();
}

/** Text in quotes, which stays, and comments and line ends, which become a space. */
const COMMENT =
  /("(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|`(?:[^`\\]|\\[\s\S])*`)|\s*(?:\/\*[\s\S]*?\*\/|\/\/[^\n]*|\n)\s*/g;

/** Whether an identifier names a type, rather than a member, parameter or tuple element. */
function namesType(node: Node): boolean {
  const { parent } = node;
  if (isTypePredicateNode(parent)) return (parent as Node & { type?: Node }).type === node;
  return parent.kind === SyntaxKind.TypeReference || parent.kind === SyntaxKind.ExpressionWithTypeArguments;
}
