import { type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "typescript/unstable/sync";
import type { Candidate } from "./comparison.ts";
import type { AdapterMapping } from "./exported.ts";

/** A member that a target asks for. The call of a callable target counts as one. */
export interface TargetMember {
  readonly name: string;
  readonly type: Type;
  readonly symbol: CompilerSymbol | undefined;
}

/** Something found in the place of a target's member, and where. */
export interface Located {
  readonly node: Node | undefined;
  /** `undefined` where the node names something that there is not. */
  readonly candidate: Candidate | undefined;
  /** What is named, and what there is to name, where there is no candidate. */
  readonly named?: { readonly name: string; readonly known: readonly string[] };
}

/** What the call of a callable target is called. */
const CALL = "()";

export function targetMembersOf(checker: Checker, target: Type): readonly TargetMember[] {
  const isCallable = checker.getSignaturesOfType(target, SignatureKind.Call).length > 0;
  const call: TargetMember[] = isCallable ? [{ name: CALL, type: target, symbol: undefined }] : [];
  const properties = checker.getPropertiesOfType(target);
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const members = properties.flatMap((symbol, index): TargetMember[] => {
    const type = types[index];
    return type ? [{ name: labelOf(symbol), type, symbol }] : [];
  });
  return [...call, ...members];
}

/** A member's name as it is written; the compiler calls the one under `Symbol.dispose` `__@dispose@22`. */
function labelOf({ name }: CompilerSymbol): string {
  return name.replace(/^__@(\w+)@\d+$/, "[Symbol.$1]");
}

function propertyOf(checker: Checker, type: Type, label: string): CompilerSymbol | undefined {
  if (!label.startsWith("[")) return checker.getPropertyOfType(type, label);
  return checker.getPropertiesOfType(type).find((each) => labelOf(each) === label);
}

export function isOptionalMember({ symbol }: TargetMember): boolean {
  return symbol !== undefined && (symbol.flags & SymbolFlags.Optional) !== 0;
}

/** What a wrapper has under the name of a target's member. */
export function memberCandidate(
  checker: Checker,
  wrapper: Type,
  { name }: TargetMember,
): Located | undefined {
  if (name === CALL)
    return {
      node: undefined,
      candidate: { type: wrapper, symbol: undefined, leading: 0, isReadonly: false },
    };
  const symbol = propertyOf(checker, wrapper, name);
  const type = symbol && checker.getTypeOfSymbol(symbol);
  if (!symbol || !type) return undefined;
  const node = (symbol.valueDeclaration ?? symbol.declarations[0])?.resolve();
  return { node, candidate: { type, symbol, leading: 0, isReadonly: false } };
}

/** What an adapter's mapping says of a target's member. */
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
  const known = checker.getPropertiesOfType(adaptee).map((each) => each.name);
  return { node, candidate: undefined, named: { name, known } };
}

/** `{ get, set }`: the property's type is what `get` gives back. */
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
