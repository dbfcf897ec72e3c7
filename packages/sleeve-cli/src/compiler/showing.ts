import { ModifierFlags, type Node, SyntaxKind } from "typescript/unstable/ast";
import type { Checker, Symbol as CompilerSymbol, Type } from "typescript/unstable/sync";
import { labelOf, type TargetMember } from "./candidates.ts";
import type { Ownership } from "./origins.ts";
import { isAbstract, modifiersOf } from "./syntax.ts";
import { OriginsInTypes } from "./type-origins.ts";
import { visitAll, type WrapperCode } from "./wrapper-code.ts";

/** A class that a wrapper extends, and what of it clients of the wrapper can reach beside the target. */
export interface InheritedMembers {
  readonly base: string;
  readonly node: Node;
  /** The file that declares it. */
  readonly path: string;
  readonly members: readonly string[];
  /** Whether the wrapper calls it where it serves the target, as an adapter calls its adaptee. */
  readonly isAdapted: boolean;
}

/** What shows through of the class that a wrapper extends. */
export function inheritedMembersOf(
  checker: Checker,
  { classNode, members: code }: WrapperCode,
  target: Type,
  targetMembers: readonly TargetMember[],
): InheritedMembers | undefined {
  const { heritageClauses = [] } = (classNode ?? {}) as {
    heritageClauses?: readonly { token: SyntaxKind; types: readonly (Node & { expression: Node })[] }[];
  };
  const clause = heritageClauses.find(({ token }) => token === SyntaxKind.ExtendsKeyword)?.types[0];
  const base = clause && checker.getTypeAtLocation(clause);
  const declaration = base?.getSymbol()?.valueDeclaration;
  if (!clause || !base || !declaration) return undefined;
  const node = declaration.resolve();
  // A base that serves the target, or is made to be extended, is no adaptee.
  if ((node && isAbstract(node)) || checker.isTypeAssignableTo(base, target)) return undefined;
  const wanted = new Set(targetMembers.map(({ name }) => name));
  const members = checker
    .getPropertiesOfType(base)
    .filter((each) => isPublic(each) && !wanted.has(labelOf(each)))
    .map(labelOf);
  const names = new Set(members);
  const isAdapted = [...code.values()].some(
    ({ name, body }) => wanted.has(name) && callsOwn(body, names, classNode),
  );
  return {
    base: base.getSymbol()?.name ?? clause.getText(),
    node: clause,
    path: node?.getSourceFile().fileName ?? declaration.path,
    members,
    isAdapted,
  };
}

/** Whether code calls `super.name` or `this.name` for one of the names, or anything else of `super`. */
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

/** A public member of a wrapper whose type shows what an outside package declares. */
export interface ShownType {
  readonly member: string;
  readonly node: Node | undefined;
  readonly shows: readonly string[];
}

/** The outside types that clients of a wrapper see in its members, beyond those that the target shows itself. */
export function outsideTypesShown(
  checker: Checker,
  ownership: Ownership,
  wrapper: Type,
  targetMembers: readonly TargetMember[],
): readonly ShownType[] {
  const origins = new OriginsInTypes(checker, ownership);
  const properties = checker.getPropertiesOfType(wrapper).filter(isPublic);
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const promised = new Map(targetMembers.map(({ name, type }) => [name, type]));
  return properties.flatMap((symbol, index): ShownType[] => {
    const type = types[index];
    const declaration = symbol.valueDeclaration ?? symbol.declarations[0];
    // What an outside class gives its heirs is told as inherited.
    if (!type || !declaration || !ownership.isOwn(declaration.path)) return [];
    const member = labelOf(symbol);
    const wanted = promised.get(member);
    const known = new Set(wanted ? origins.in(wanted).map(({ name }) => name) : []);
    const shows = [...new Set(origins.in(type).map(({ name }) => name))].filter((name) => !known.has(name));
    return shows.length > 0 ? [{ member, node: declaration.resolve(), shows: shows.sort() }] : [];
  });
}

export function isPublic(symbol: CompilerSymbol): boolean {
  const node = symbol.valueDeclaration?.resolve();
  if (symbol.name.startsWith("#") || symbol.name.includes("@#")) return false;
  return !node || (modifiersOf(node) & (ModifierFlags.Private | ModifierFlags.Protected)) === 0;
}

/** The names of the members that clients can reach. */
export function publicNames(checker: Checker, type: Type): readonly string[] {
  return checker.getPropertiesOfType(type).filter(isPublic).map(labelOf);
}
