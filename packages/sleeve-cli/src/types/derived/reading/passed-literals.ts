import type { Checker, Node, Type } from "../../../compiler/typescript.ts";
import { SyntaxKind } from "../../../compiler/typescript.ts";
import { stringLiteral } from "../../../written-text.ts";
import type { CheckedFile } from "./derive-context.ts";

/** Returns the literals of a union that callers write where a value of the union is expected, as source. */
export function literalsPassedAs(union: Type, files: readonly CheckedFile[]): readonly string[] {
  const all = literalsIn(union);
  if (all.size === 0) return [];
  const passedLiterals = new Set<string>();
  for (const { source, checker } of files) {
    const visit = (node: Node): void => {
      const { text } = node as Node & { text?: string };
      const isLiteral =
        node.kind === SyntaxKind.StringLiteral || node.kind === SyntaxKind.NoSubstitutionTemplateLiteral;
      if (isLiteral && text !== undefined && all.has(text) && isExpected(node, checker, all))
        passedLiterals.add(text);
      node.forEachChild(visit);
    };
    source.forEachChild(visit);
  }
  return [...passedLiterals].map((literal) => stringLiteral(literal));
}

/** Whether the compiler expects one of some literals at a node. */
function isExpected(node: Node, checker: Checker, all: ReadonlySet<string>): boolean {
  if (node.parent.kind === SyntaxKind.LiteralType) return false;
  const expected = checker.getContextualType(node as Parameters<Checker["getContextualType"]>[0]);
  const literals = expected ? literalsIn(expected) : new Set<string>();
  return literals.size === all.size && [...literals].every((literal) => all.has(literal));
}

/** Returns the texts of a union that has nothing but texts, `undefined` and `null`. */
function literalsIn(type: Type): ReadonlySet<string> {
  const parts = type.isUnionType() ? type.getTypes() : [type];
  const texts = parts.flatMap((part) => (part.isStringLiteralType() ? [part.value] : []));
  const others = parts.filter((part) => !part.isStringLiteralType());
  const isMissing = (part: Type) => part.isIntrinsicType() && /^(undefined|null)$/.test(part.intrinsicName);
  return others.every(isMissing) ? new Set(texts) : new Set();
}
