import type { Program } from "../compiler/program.ts";
import {
  type Checker,
  isCallExpression,
  isIdentifier,
  isNewExpression,
  isPropertyAssignment,
  isShorthandPropertyAssignment,
  isVariableDeclaration,
  type Node,
  SignatureKind,
  SyntaxKind,
  type Type,
} from "../compiler/typescript.ts";

/** Maximum nesting of types that are searched, and number of names around an error. */
const DEEPEST = 3;
const MOST_NAMES = 40;

/** Where the compiler reports an error. */
export interface ErrorPlace {
  readonly path: string;
  readonly offset: number;
}

/** What an error has to do with, of the declarations in one file. */
export interface Suspects {
  readonly types: ReadonlySet<string>;
  /** Members, as `owner.member`. */
  readonly members: ReadonlySet<string>;
}

/**
 * Returns the types and members in a file that the expression around an error has to do with, by what the
 * compiler knows of its parts.
 */
export function suspectsNear(program: Program, error: ErrorPlace, declaredIn: string): Suspects {
  const types = new Set<string>();
  const members = new Set<string>();
  const source = program.sourceFile(error.path);
  const checker = program.checkerFor(error.path);
  if (!source || !checker) return { types, members };
  const names = identifiersIn(expressionAt(source, error.offset)).slice(0, MOST_NAMES);
  if (names.length === 0) return { types, members };
  const search = new TypeSearch(checker, declaredIn, types);
  for (const type of checker.getTypeAtLocation(names)) if (type) search.within(type, 0);
  for (const symbol of checker.getSymbolAtLocation(names)) {
    const isDeclared = symbol?.declarations.some(({ path }) => path === declaredIn);
    const owner = isDeclared ? symbol?.getParent()?.name : undefined;
    if (symbol && owner !== undefined) members.add(`${owner}.${symbol.name}`);
  }
  return { types, members };
}

/** Returns the types in a file that the type at an error has to do with, such as the constraint it violates. */
export function suspectsInType(program: Program, error: ErrorPlace, declaredIn: string): ReadonlySet<string> {
  const types = new Set<string>();
  const source = program.sourceFile(error.path);
  const checker = program.checkerFor(error.path);
  if (!source || !checker) return types;
  const reference = typeAt(source, error.offset);
  const type = reference && checker.getTypeAtLocation(reference);
  if (type) new TypeSearch(checker, declaredIn, types).within(type, 0);
  return types;
}

/**
 * Returns the members of a target that the object assigned to it does not have, or has with a type that is not
 * assignable. Empty if the error does not lie in the members.
 */
export function misfitsAt(program: Program, error: ErrorPlace): readonly string[] {
  const source = program.sourceFile(error.path);
  const checker = program.checkerFor(error.path);
  if (!source || !checker) return [];
  const assigned = assignmentAt(source, error.offset);
  if (!assigned) return [];
  const target = assigned.isDeclaration
    ? checker.getTypeAtLocation(assigned.name)
    : checker.getContextualType(assigned.value as Parameters<Checker["getContextualType"]>[0]);
  const value = checker.getTypeAtLocation(assigned.value);
  if (!target || !value) return [];
  return checker.getPropertiesOfType(target).flatMap((targetMember) => {
    const valueMember = checker.getPropertyOfType(value, targetMember.name);
    const [expected, actualType] = [targetMember, valueMember].map(
      (symbol) => symbol && checker.getTypeOfSymbol(symbol),
    );
    const fits = expected && actualType && checker.isTypeAssignableTo(actualType, expected);
    return fits ? [] : [targetMember.name];
  });
}

interface Assignment {
  readonly name: Node;
  readonly value: Node;
  readonly isDeclaration: boolean;
}

/** Returns the innermost `name: value` or `const name = value` at an offset. */
function assignmentAt(source: Node, offset: number): Assignment | undefined {
  let innermost: Assignment | undefined;
  const visit = (node: Node): void => {
    if (node.pos > offset || node.end <= offset) return;
    const { name, initializer } = node as Node & { name?: Node; initializer?: Node };
    const isDeclaration = isVariableDeclaration(node);
    if (name && initializer && (isDeclaration || isPropertyAssignment(node)))
      innermost = { name, value: initializer, isDeclaration };
    else if (name && isShorthandPropertyAssignment(node))
      innermost = { name, value: name, isDeclaration: false };
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return innermost;
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

/** Returns the innermost reference to a type at an offset. */
function typeAt(source: Node, offset: number): Node | undefined {
  let innermost: Node | undefined;
  const visit = (node: Node): void => {
    if (node.pos > offset || node.end <= offset) return;
    if (node.kind === SyntaxKind.TypeReference) innermost = node;
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
function identifiersIn(expression: Node): readonly Node[] {
  const identifiers: Node[] = [];
  const visit = (node: Node): void => {
    if (isIdentifier(node)) identifiers.push(node);
    if (node.kind !== SyntaxKind.Block) node.forEachChild(visit);
  };
  visit(expression);
  return identifiers;
}

class TypeSearch {
  readonly #checker: Checker;
  readonly #declaredIn: string;
  readonly #found: Set<string>;
  readonly #seen = new Set<number>();

  constructor(checker: Checker, declaredIn: string, types: Set<string>) {
    this.#checker = checker;
    this.#declaredIn = declaredIn;
    this.#found = types;
  }

  within(type: Type, depth: number): void {
    if (depth > DEEPEST || this.#seen.has(type.id)) return;
    this.#seen.add(type.id);
    for (const symbol of [type.getAliasSymbol(), type.getSymbol()])
      if (symbol?.declarations.some(({ path }) => path === this.#declaredIn)) this.#found.add(symbol.name);
    const constraint = type.isTypeParameter() ? this.#checker.getConstraintOfTypeParameter(type) : undefined;
    const parts = [
      ...(constraint ? [constraint] : []),
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
