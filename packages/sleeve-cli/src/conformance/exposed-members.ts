import { isPublic, labelOf } from "../compiler/symbols.ts";
import { isAbstract } from "../compiler/syntax.ts";
import { type Checker, type Node, SyntaxKind, type Type } from "../compiler/typescript.ts";
import type { Ownership } from "../uses/origins.ts";
import { OriginsInTypes } from "../uses/type-origins.ts";
import type { TargetMember } from "./candidates.ts";
import { visitAll, type WrapperCode } from "./implementation/wrapper-code.ts";

/** A class that a wrapper extends, and its members that clients can access beyond the target. */
export interface InheritedMembers {
  readonly base: string;
  readonly node: Node;
  /** The file that declares it. */
  readonly path: string;
  readonly members: readonly string[];
  /** Whether the wrapper calls it to implement the target, as an adapter calls its adaptee. */
  readonly isAdapted: boolean;
}

/** Returns the exposed members of the class that a wrapper extends. */
export function inheritedMembersOf(
  checker: Checker,
  { classNode, members: code }: WrapperCode,
  target: Type,
  targetMembers: readonly TargetMember[],
  isGeneric: boolean,
): InheritedMembers | undefined {
  const extended = classNode && extendedClass(checker, classNode);
  if (!extended) return undefined;
  const { clause, base, declaration } = extended;
  const node = declaration.resolve();
  // A base class that implements the target, or is meant to be extended, is not an adaptee.
  if ((node && isAbstract(node)) || checker.isTypeAssignableTo(base, target)) return undefined;
  // Its type parameters are not those of the target, so that the compiler cannot compare the two.
  const hasAll = targetMembers.every(({ name }) => checker.getPropertyOfType(base, name));
  if (isGeneric && hasAll) return undefined;
  const targetNames = new Set(targetMembers.map(({ name }) => name));
  const members = checker
    .getPropertiesOfType(base)
    .filter((symbol) => isPublic(symbol) && !targetNames.has(labelOf(symbol)))
    .map(labelOf);
  const names = new Set(members);
  const isAdapted = [...code.values()].some(
    ({ name, body }) => targetNames.has(name) && callsOwn(body, names, classNode),
  );
  return {
    base: base.getSymbol()?.name ?? clause.getText(),
    node: clause,
    path: node?.getSourceFile().fileName ?? declaration.path,
    members,
    isAdapted,
  };
}

/** Returns what a class extends: as it is written, its type, and its declaration. */
function extendedClass(checker: Checker, classNode: Node) {
  const { heritageClauses = [] } = classNode as Node & {
    heritageClauses?: readonly { token: SyntaxKind; types: readonly Node[] }[];
  };
  const clause = heritageClauses.find(({ token }) => token === SyntaxKind.ExtendsKeyword)?.types[0];
  const base = clause && checker.getTypeAtLocation(clause);
  const declaration = base?.getSymbol()?.valueDeclaration;
  return clause && base && declaration ? { clause, base, declaration } : undefined;
}

/** Whether code calls `super.name` or `this.name` for one of the names, or uses `super` otherwise. */
function callsOwn(body: Node, names: ReadonlySet<string>, classNode: Node | undefined): boolean {
  let calls = false;
  visitAll(body, (node) => {
    if (node.kind !== SyntaxKind.PropertyAccessExpression) return;
    const { expression, name } = node as Node & { expression: Node; name: Node & { text: string } };
    const isSuper = expression.kind === SyntaxKind.SuperKeyword;
    const isOwn = expression.kind === SyntaxKind.ThisKeyword && names.has(name.text);
    if (isSuper || (isOwn && classNode !== undefined)) calls = true;
  });
  return calls;
}

/** A public member of a wrapper whose type exposes an outside type. */
export interface ExposedType {
  readonly member: string;
  readonly node: Node | undefined;
  readonly exposes: readonly string[];
}

/**
 * Returns outside types that clients see in a wrapper's members, except those that the target itself exposes.
 */
export function outsideTypesExposed(
  checker: Checker,
  ownership: Ownership,
  wrapper: Type,
  targetMembers: readonly TargetMember[],
): readonly ExposedType[] {
  const origins = new OriginsInTypes(checker, ownership);
  const properties = checker.getPropertiesOfType(wrapper).filter(isPublic);
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const targetTypes = new Map(targetMembers.map(({ name, type }) => [name, type]));
  return properties.flatMap((symbol, index): ExposedType[] => {
    const type = types[index];
    const declaration = symbol.valueDeclaration ?? symbol.declarations[0];
    // Members of an outside base class are reported as inherited.
    if (!type || !declaration || !ownership.isOwn(declaration.path)) return [];
    const member = labelOf(symbol);
    const targetType = targetTypes.get(member);
    const targetOrigins = new Set(targetType ? origins.in(targetType).map(({ name }) => name) : []);
    const shows = [...new Set(origins.in(type).map(({ name }) => name))].filter(
      (name) => !targetOrigins.has(name),
    );
    return shows.length > 0 ? [{ member, node: declaration.resolve(), exposes: shows.sort() }] : [];
  });
}
