import { type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  isIdentifier,
  isImportTypeNode,
  isQualifiedName,
  isTypePredicateNode,
  isTypeQueryNode,
} from "typescript/unstable/ast/is";
import { type Checker, type Symbol as CompilerSymbol, SymbolFlags } from "typescript/unstable/sync";
import { aliasTarget } from "./syntax.ts";
import { Uncopiable } from "./type-names.ts";

/**
 * The source of a type, a parameter or a type parameter as it is declared, with every name in it that means a type
 * replaced by what `nameOf` gives for it.
 *
 * @throws {Uncopiable} where it asks for the type of a value, or `nameOf` does
 */
export function declaredWords(
  checker: Checker,
  node: Node,
  nameOf: (symbol: CompilerSymbol) => string,
): string {
  const source = node.getSourceFile();
  const start = node.getStart(source);
  const replaced: { readonly start: number; readonly end: number; readonly text: string }[] = [];
  const replace = (name: Node, whole: Node, end: number): void => {
    const symbol = checker.getSymbolAtLocation(name);
    const target = symbol && aliasTarget(checker, symbol);
    if (!target || checker.isUnknownSymbol(target))
      throw new Uncopiable(`${name.getText(source)} is not to be found`);
    if ((target.flags & SymbolFlags.TypeParameter) !== 0) return;
    replaced.push({ start: whole.getStart(source), end, text: nameOf(target) });
  };
  const visit = (each: Node): void => {
    if (isTypeQueryNode(each)) throw new Uncopiable("it is the type of a value");
    if (isImportTypeNode(each)) {
      const { qualifier, typeArguments = [] } = each as Node & {
        qualifier?: Node;
        typeArguments?: readonly Node[];
      };
      if (!qualifier) throw new Uncopiable("it is the type of a module");
      replace(isQualifiedName(qualifier) ? qualifier.right : qualifier, each, qualifier.end);
      typeArguments.forEach(visit);
      return;
    }
    if (isQualifiedName(each)) {
      replace(each.right, each, each.end);
      return;
    }
    if (isIdentifier(each)) {
      if (namesType(each)) replace(each, each, each.end);
      return;
    }
    each.forEachChild(visit);
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
  return words
    .replace(/\/\*[\s\S]*?\*\/|\/\/[^\n]*/g, "")
    .replace(/\s*\n\s*/g, " ")
    .trim();
}

/** Whether an identifier stands for a type, and does not name a member, a parameter or an element of a tuple. */
function namesType(node: Node): boolean {
  const { parent } = node;
  if (isTypePredicateNode(parent)) return (parent as Node & { type?: Node }).type === node;
  return parent.kind === SyntaxKind.TypeReference || parent.kind === SyntaxKind.ExpressionWithTypeArguments;
}
