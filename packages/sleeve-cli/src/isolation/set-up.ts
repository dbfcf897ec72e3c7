import {
  isCallExpression,
  isIdentifier,
  isImportDeclaration,
  isPropertyAccessExpression,
  isPropertyAssignment,
  type Node,
  type SourceFile,
  SyntaxKind,
} from "../compiler/typescript.ts";
import { isRequireCall } from "../uses/file-names.ts";
import type { ImportedInFile, Reference } from "../uses/imported-names.ts";

/** A statement that sets an outside module up: `clock.extend(tides);`. */
export interface SetUp {
  readonly start: number;
  readonly end: number;
  /** Its source, in pieces: text, and references to exports. */
  readonly pieces: readonly (string | Reference)[];
  /** Equal for equal statements, whatever the local names are. */
  readonly key: string;
}

/**
 * Returns the statements at the start of a module that set an outside module up: they call a function such as `use` or
 * `configure` with values of the module and literals only, and ignore the result. No other statement has run before
 * them, so an adapter can run them.
 */
export function setUpsIn({ references }: ImportedInFile): readonly SetUp[] {
  const [firstReference] = references;
  const source = firstReference?.node.getSourceFile();
  if (!source) return [];
  const byStart = new Map(references.map((reference) => [reference.start, reference]));
  const setUps: SetUp[] = [];
  for (const statement of source.statements) {
    if (isImportDeclaration(statement) || isDirective(statement) || isRequireStatement(statement)) continue;
    const setUp = setUpOf(statement, source, byStart);
    if (!setUp) break;
    setUps.push(setUp);
  }
  return setUps;
}

/** Whether a node is inside one of some statements. */
export function isWithinSetUp(setUps: readonly SetUp[], offset: number): boolean {
  return setUps.some(({ start, end }) => offset >= start && offset < end);
}

/** `"use strict";` */
function isDirective(statement: Node): boolean {
  const { expression } = statement as Node & { expression?: Node };
  return expression?.kind === SyntaxKind.StringLiteral;
}

/** `const crane = require("crane");`, of any module. */
function isRequireStatement(statement: Node): boolean {
  const { declarationList } = statement as Node & {
    declarationList?: { readonly declarations: readonly (Node & { initializer?: Node })[] };
  };
  return (
    declarationList?.declarations.every(
      ({ initializer }) =>
        initializer !== undefined && isCallExpression(initializer) && isRequireCall(initializer),
    ) === true
  );
}

function setUpOf(
  statement: Node,
  source: SourceFile,
  byStart: ReadonlyMap<number, Reference>,
): SetUp | undefined {
  const { expression } = statement as Node & { expression?: Node };
  if (statement.kind !== SyntaxKind.ExpressionStatement || !expression) return undefined;
  const references: Reference[] = [];
  if (!isCallExpression(expression) || !SET_UP.test(calledName(expression.expression))) return undefined;
  if (!isOutside(expression, source, byStart, references)) return undefined;
  const start = statement.getStart(source);
  const pieces: (string | Reference)[] = [];
  let from = start;
  for (const reference of references.sort((left, right) => left.start - right.start)) {
    pieces.push(source.text.slice(from, reference.start), reference);
    from = reference.end;
  }
  pieces.push(source.text.slice(from, expression.end));
  return { start, end: statement.end, pieces, key: keyOf(pieces) };
}

/** Verbs of functions that set a module up, rather than use it. */
const SET_UP =
  /^(?:use|extend|plugin|install|register|config|configure|set|setUp|setup|locale|defaults|init|enable|disable)(?![a-z])/;

function calledName(callee: Node): string {
  if (isPropertyAccessExpression(callee)) return callee.name.text;
  return isIdentifier(callee) ? callee.text : "";
}

function keyOf(pieces: SetUp["pieces"]): string {
  return pieces
    .map((piece) =>
      typeof piece === "string" ? piece.replace(/\s|;$/g, "") : `<${piece.site.specifier} ${piece.export}>`,
    )
    .join("");
}

/** Whether an expression consists of outside values and literals; collects the references. */
function isOutside(
  node: Node,
  source: SourceFile,
  byStart: ReadonlyMap<number, Reference>,
  references: Reference[],
): boolean {
  const within = (inner: Node) => isOutside(inner, source, byStart, references);
  const reference = byStart.get(node.getStart(source));
  if (reference && reference.end === node.end && reference.export !== "*") {
    references.push(reference);
    return true;
  }
  if (LITERALS.has(node.kind)) return true;
  if (isPropertyAccessExpression(node)) return within(node.expression);
  if (isCallExpression(node)) return within(node.expression) && node.arguments.every(within);
  if (isPropertyAssignment(node)) {
    const { name, initializer } = node as Node & { name: Node; initializer: Node };
    return (isIdentifier(name) || LITERALS.has(name.kind)) && within(initializer);
  }
  if (!CONTAINERS.has(node.kind)) return false;
  let isAll = true;
  node.forEachChild((child) => {
    isAll &&= within(child);
  });
  return isAll;
}

const LITERALS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.StringLiteral,
  SyntaxKind.NoSubstitutionTemplateLiteral,
  SyntaxKind.NumericLiteral,
  SyntaxKind.TrueKeyword,
  SyntaxKind.FalseKeyword,
  SyntaxKind.NullKeyword,
]);

const CONTAINERS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.ObjectLiteralExpression,
  SyntaxKind.ArrayLiteralExpression,
]);
