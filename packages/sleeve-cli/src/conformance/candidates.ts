import { declaresThis } from "../compiler/parameters.ts";
import { isPublic, labelOf } from "../compiler/symbols.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Node,
  SignatureKind,
  SymbolFlags,
  SyntaxKind,
  type Type,
} from "../compiler/typescript.ts";
import type { AdapterMapping } from "./exported.ts";
import type { MemberOwner } from "./implementation/found-value.ts";

/** A member required by a target. The call of a callable target counts as one. */
export interface TargetMember {
  readonly name: string;
  readonly type: Type;
  readonly symbol: CompilerSymbol | undefined;
  /** Whether the target itself is called or constructed. */
  readonly call: "call" | "new" | undefined;
  readonly signatureKind: SignatureKind;
}

/** What implements a target's member: a member of an object, or an entry of a mapping. */
export interface Candidate {
  readonly type: Type;
  readonly symbol: CompilerSymbol | undefined;
  /**
   * Number of leading parameters that the target does not have, such as the adaptee of a mapping's function.
   */
  readonly leading: number;
  /** Whether it is read-only for a reason other than its symbol. */
  readonly isReadonly: boolean;
}

/** The candidate found for a target's member, and its place. */
export interface Located {
  readonly node: Node | undefined;
  /** `undefined` if the node names a member that does not exist. */
  readonly candidate: Candidate | undefined;
  /** The requested name and the existing ones, if there is no candidate. */
  readonly named?: { readonly name: string; readonly known: readonly string[] };
}

/** Names of the call and construct signatures of a target. */
const CALLS = [
  { name: "()", call: "call", signatureKind: SignatureKind.Call },
  { name: "new ()", call: "new", signatureKind: SignatureKind.Construct },
] as const;

export function targetMembersOf(checker: Checker, target: Type): readonly TargetMember[] {
  const calls = CALLS.filter(
    ({ signatureKind }) => checker.getSignaturesOfType(target, signatureKind).length > 0,
  ).map((item): TargetMember => ({ ...item, type: target, symbol: undefined }));
  const properties = checker
    .getPropertiesOfType(target)
    .filter(({ name, flags }) => !(name === "prototype" && (flags & SymbolFlags.Prototype) !== 0));
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const members = properties.flatMap((symbol, index): TargetMember[] => {
    const type = types[index];
    return type && isPublic(symbol)
      ? [{ name: labelOf(symbol), type, symbol, call: undefined, signatureKind: SignatureKind.Call }]
      : [];
  });
  return [...calls, ...members];
}

function propertyOf(checker: Checker, type: Type, label: string): CompilerSymbol | undefined {
  if (!label.startsWith("[")) return checker.getPropertyOfType(type, label);
  return checker.getPropertiesOfType(type).find((symbol) => labelOf(symbol) === label);
}

export function isOptionalMember({ symbol }: TargetMember): boolean {
  return symbol !== undefined && (symbol.flags & SymbolFlags.Optional) !== 0;
}

/** Whether a member returns, or holds, the object that it belongs to. */
export function givesItself({ symbol }: TargetMember): boolean {
  return symbol?.declarations.some((declaration) => declaresThis(declaration.resolve())) === true;
}

/** Returns what an implementation has under the name of a target's member: in the first type that has it. */
export function memberCandidate(
  checker: Checker,
  owners: readonly MemberOwner[],
  { name, call, signatureKind }: TargetMember,
): Located | undefined {
  if (call) {
    const called = owners.find(
      ({ type }) => checker.getSignaturesOfType(type, signatureKind).length > 0,
    )?.type;
    const type = called ?? owners[0]?.type;
    return type && { node: undefined, candidate: { type, symbol: undefined, leading: 0, isReadonly: false } };
  }
  for (const { type: owner, names } of owners) {
    const symbol = names && !names.has(name) ? undefined : propertyOf(checker, owner, name);
    const type = symbol && checker.getTypeOfSymbol(symbol);
    if (!symbol || !type) continue;
    const node = (symbol.valueDeclaration ?? symbol.declarations[0])?.resolve();
    return { node, candidate: { type, symbol, leading: 0, isReadonly: false } };
  }
  return undefined;
}

/** Returns what an adapter's mapping has for a target's member. */
export function mappingCandidate(
  checker: Checker,
  { entries, adaptee }: AdapterMapping,
  { name }: TargetMember,
): Located | undefined {
  const node = entries.get(name);
  if (!node) return undefined;
  const { initializer } = node as Node & { initializer?: Node & { text?: string } };
  if (initializer?.kind === SyntaxKind.StringLiteral)
    return byName(checker, adaptee, node, initializer.text ?? "");
  if (initializer?.kind === SyntaxKind.ObjectLiteralExpression)
    return byAccessors(checker, node, initializer);
  const type = checker.getTypeAtLocation(initializer ?? node);
  return { node, candidate: type && { type, symbol: undefined, leading: 1, isReadonly: false } };
}

function byName(checker: Checker, adaptee: Type, node: Node, name: string): Located {
  const symbol = checker.getPropertyOfType(adaptee, name);
  const type = symbol && checker.getTypeOfSymbol(symbol);
  if (symbol && type) return { node, candidate: { type, symbol, leading: 0, isReadonly: false } };
  const adapteeNames = checker.getPropertiesOfType(adaptee).map((symbol) => symbol.name);
  return { node, candidate: undefined, named: { name, known: adapteeNames } };
}

/** `{ get, set }`: the property has the type that `get` returns. */
function byAccessors(checker: Checker, node: Node, literal: Node): Located {
  const type = checker.getTypeAtLocation(literal);
  const [get, set] = ["get", "set"].map((name) => type && checker.getPropertyOfType(type, name));
  const getter = get && checker.getTypeOfSymbol(get);
  const [signature] = getter ? checker.getSignaturesOfType(getter, SignatureKind.Call) : [];
  const value = signature && checker.getReturnTypeOfSignature(signature);
  return {
    node,
    candidate: value && { type: value, symbol: undefined, leading: 0, isReadonly: set === undefined },
  };
}
