import type { Program } from "../compiler/program.ts";
import {
  type ExportedDeclaration,
  exportedDeclarationOver,
  exportedNamesOf,
  isFunction,
  nameOf,
} from "../compiler/syntax.ts";
import { type Node, type SourceFile, SyntaxKind } from "../compiler/typescript.ts";
import type { Origin, Ownership } from "./origins.ts";
import { OriginsInTypes } from "./type-origins.ts";

/** An exported declaration whose inferred type exposes a package. */
export interface InferredLeak {
  readonly shownBy: ExportedDeclaration;
  readonly origin: Origin;
}

/**
 * Finds exported declarations without annotations whose inferred types expose packages. Annotated ones
 * mention the type, and are found as uses.
 */
export function inferredLeaksIn(
  program: Program,
  file: string,
  ownership: Ownership,
): readonly InferredLeak[] {
  const source = program.sourceFile(file);
  const checker = program.checkerFor(file);
  if (!source || !checker) return [];
  const unannotated = unannotatedIn(source);
  if (unannotated.length === 0) return [];
  const origins = new OriginsInTypes(checker, ownership);
  const types = checker.getTypeAtLocation(unannotated.map(({ node }) => node));
  return unannotated.flatMap(({ shownBy }, index) => {
    const type = types[index];
    return type ? origins.in(type).map((origin) => ({ shownBy, origin })) : [];
  });
}

interface Unannotated {
  readonly node: Node;
  readonly shownBy: ExportedDeclaration;
}

function unannotatedIn(source: SourceFile): readonly Unannotated[] {
  const exported = exportedNamesOf(source);
  const unannotated: Unannotated[] = [];
  const visit = (node: Node): void => {
    if (isInferred(node)) {
      const name = nameOf(node);
      const shownBy = name && exportedDeclarationOver(name, source, exported);
      if (shownBy) unannotated.push({ node: name, shownBy });
    }
    if (node.kind !== SyntaxKind.Block && !isFunction(node)) node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return unannotated;
}

/** Whether the type of a declaration is inferred. */
function isInferred(declaration: Node): boolean {
  const { type, initializer, body } = declaration as Node & { type?: Node; initializer?: Node; body?: Node };
  if (type) return false;
  switch (declaration.kind) {
    case SyntaxKind.FunctionDeclaration:
    case SyntaxKind.MethodDeclaration:
    case SyntaxKind.GetAccessor:
      return body !== undefined;
    case SyntaxKind.VariableDeclaration:
    case SyntaxKind.PropertyDeclaration:
      if (!initializer || LITERALS.has(initializer.kind)) return false;
      return !(isFunction(initializer) && (initializer as Node & { type?: Node }).type);
    default:
      return false;
  }
}

const LITERALS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.StringLiteral,
  SyntaxKind.NumericLiteral,
  SyntaxKind.BigIntLiteral,
  SyntaxKind.TrueKeyword,
  SyntaxKind.FalseKeyword,
  SyntaxKind.NullKeyword,
  SyntaxKind.TemplateExpression,
  SyntaxKind.NoSubstitutionTemplateLiteral,
  SyntaxKind.RegularExpressionLiteral,
]);
