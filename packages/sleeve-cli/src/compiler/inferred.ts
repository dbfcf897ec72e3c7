import { type Node, type SourceFile, SyntaxKind } from "typescript/unstable/ast";
import { type Checker, SignatureKind, type Type, TypeFlags } from "typescript/unstable/sync";
import { isInternal, type Origin, Origins, type Ownership } from "./origins.ts";
import type { Program } from "./program.ts";
import {
  type ExportedDeclaration,
  exportedDeclarationOver,
  exportedNamesOf,
  isFunction,
  nameOf,
} from "./syntax.ts";

/** An exported declaration whose inferred type shows something of a package of interest. */
export interface InferredLeak {
  readonly shownBy: ExportedDeclaration;
  readonly origin: Origin;
}

/**
 * Finds the exported declarations of a file that are not annotated, and whose types, as the compiler infers them,
 * show types of a package of interest. Annotated ones mention the type, and are found as uses of it.
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
  const walker = new TypeWalker(checker, Origins.for(checker, ownership));
  const types = checker.getTypeAtLocation(unannotated.map(({ node }) => node));
  return unannotated.flatMap(({ shownBy }, index) => {
    const type = types[index];
    return type ? walker.originsIn(type).map((origin) => ({ shownBy, origin })) : [];
  });
}

interface Unannotated {
  readonly node: Node;
  readonly shownBy: ExportedDeclaration;
}

function unannotatedIn(source: SourceFile): readonly Unannotated[] {
  const exported = exportedNamesOf(source);
  const found: Unannotated[] = [];
  const visit = (node: Node): void => {
    if (isInferred(node)) {
      const name = nameOf(node);
      const shownBy = name && exportedDeclarationOver(name, source, exported);
      if (shownBy) found.push({ node: name, shownBy });
    }
    if (node.kind !== SyntaxKind.Block && !isFunction(node)) node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return found;
}

/** Whether what a declaration shows to its clients is for the compiler to infer. */
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

/** How deep into a type a leak is looked for: through promises, collections and callbacks of what is returned. */
const DEEPEST = 4;

/** Looks through types for what packages of interest declare. */
class TypeWalker {
  readonly #checker: Checker;
  readonly #origins: Origins;
  readonly #found = new Map<number, readonly Origin[]>();

  constructor(checker: Checker, origins: Origins) {
    this.#checker = checker;
    this.#origins = origins;
  }

  originsIn(type: Type, depth = 0): readonly Origin[] {
    if (depth > DEEPEST || (type.flags & (TypeFlags.Object | TypeFlags.UnionOrIntersection)) === 0) return [];
    const known = this.#found.get(type.id);
    if (known) return known;
    // A type that refers to itself adds nothing the second time.
    this.#found.set(type.id, []);
    const found = distinctOrigins([
      ...this.#own(type),
      ...this.#parts(type).flatMap((part) => this.originsIn(part, depth + 1)),
    ]);
    this.#found.set(type.id, found);
    return found;
  }

  #own(type: Type): readonly Origin[] {
    return [type.getAliasSymbol(), type.getSymbol()].flatMap((symbol) =>
      symbol && !isInternal(symbol) ? (this.#origins.of(symbol) ?? []) : [],
    );
  }

  #parts(type: Type): readonly Type[] {
    if (type.isUnionType() || type.isIntersectionType()) return type.getTypes();
    if (type.isTypeReference()) return this.#checker.getTypeArguments(type);
    if (type.isClassOrInterface()) return [];
    return [SignatureKind.Call, SignatureKind.Construct]
      .flatMap((kind) =>
        this.#checker.getSignaturesOfType(type, kind).flatMap((signature) => {
          const parameters = signature.getParameters();
          const types = parameters.length > 0 ? this.#checker.getTypeOfSymbol(parameters) : [];
          return [...types, this.#checker.getReturnTypeOfSignature(signature)].flatMap((each) => each ?? []);
        }),
      )
      .concat(this.#propertyTypes(type));
  }

  #propertyTypes(type: Type): readonly Type[] {
    const properties = this.#checker.getPropertiesOfType(type);
    return properties.length > 0
      ? this.#checker.getTypeOfSymbol(properties).flatMap((each) => each ?? [])
      : [];
  }
}

function distinctOrigins(origins: readonly Origin[]): readonly Origin[] {
  const byKey = new Map(
    origins.map((origin) => [`${JSON.stringify(origin.from)} ${origin.owner} ${origin.name}`, origin]),
  );
  return [...byKey.values()];
}
