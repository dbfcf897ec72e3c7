import type { Program } from "../compiler/program.ts";
import {
  type Checker,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isVariableDeclaration,
  type Node,
  SignatureKind,
  SyntaxKind,
  type Type,
} from "../compiler/typescript.ts";

/** Maximum nesting of types that are searched, and number of names around an error. */
const DEEPEST = 3;
const MOST_NAMES = 40;

/**
 * Returns the names of the types in a file that the expression around an error has to do with, found by what the
 * compiler knows of its parts.
 */
export function typesNear(
  program: Program,
  error: { readonly path: string; readonly offset: number },
  declaredIn: string,
): ReadonlySet<string> {
  const found = new Set<string>();
  const source = program.sourceFile(error.path);
  const checker = program.checkerFor(error.path);
  if (!source || !checker) return found;
  const names = identifiersIn(expressionAt(source, error.offset)).slice(0, MOST_NAMES);
  const types = names.length > 0 ? checker.getTypeAtLocation(names) : [];
  const search = new TypeSearch(checker, declaredIn, found);
  for (const type of types) if (type) search.within(type, 0);
  return found;
}

/** Returns the innermost call, construction or declaration at an offset. */
function expressionAt(source: Node, offset: number): Node {
  let innermost = source;
  const visit = (node: Node): void => {
    if (node.pos > offset || node.end <= offset) return;
    if (isWhole(node)) innermost = node;
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return innermost;
}

function isWhole(node: Node): boolean {
  if (isCallExpression(node) || isNewExpression(node) || isVariableDeclaration(node)) return true;
  return node.kind === SyntaxKind.ExpressionStatement || node.kind === SyntaxKind.ReturnStatement;
}

/** Returns the identifiers of an expression, without the bodies of its functions. */
function identifiersIn(whole: Node): readonly Node[] {
  const identifiers: Node[] = [];
  const visit = (node: Node): void => {
    if (isIdentifier(node)) identifiers.push(node);
    if (node.kind !== SyntaxKind.Block) node.forEachChild(visit);
  };
  visit(whole);
  return identifiers;
}

class TypeSearch {
  readonly #checker: Checker;
  readonly #declaredIn: string;
  readonly #found: Set<string>;
  readonly #seen = new Set<number>();

  constructor(checker: Checker, declaredIn: string, found: Set<string>) {
    this.#checker = checker;
    this.#declaredIn = declaredIn;
    this.#found = found;
  }

  within(type: Type, depth: number): void {
    if (depth > DEEPEST || this.#seen.has(type.id)) return;
    this.#seen.add(type.id);
    for (const symbol of [type.getAliasSymbol(), type.getSymbol()])
      if (symbol?.declarations.some(({ path }) => path === this.#declaredIn)) this.#found.add(symbol.name);
    const parts = [
      ...(type.isUnionType() || type.isIntersectionType() ? type.getTypes() : []),
      ...(type.isTypeReference() ? this.#checker.getTypeArguments(type) : []),
      ...(type.getAliasTypeArguments?.() ?? []),
      ...this.#checker
        .getSignaturesOfType(type, SignatureKind.Call)
        .flatMap((signature) => [
          this.#checker.getReturnTypeOfSignature(signature),
          ...signature.getParameters().map((parameter) => this.#checker.getTypeOfSymbol(parameter)),
        ]),
    ];
    for (const part of parts) if (part) this.within(part, depth + 1);
  }
}
