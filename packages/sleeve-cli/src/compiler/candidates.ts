import { ModifierFlags, type Node, SyntaxKind } from "typescript/unstable/ast";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "typescript/unstable/sync";
import type { AdapterMapping } from "./exported.ts";
import { declaresThis } from "./parameters.ts";
import { modifiersOf } from "./syntax.ts";

/** A member that a target asks for. The call of a callable target counts as one. */
export interface TargetMember {
  readonly name: string;
  readonly type: Type;
  readonly symbol: CompilerSymbol | undefined;
  /** Whether it is the target itself that is called, or constructed. */
  readonly call: "call" | "new" | undefined;
  readonly signatureKind: SignatureKind;
}

/** What stands in the place of a target's member: a member of an object, or an entry of a mapping. */
export interface Candidate {
  readonly type: Type;
  readonly symbol: CompilerSymbol | undefined;
  /** How many of its first parameters the target does not know of, as the adaptee in a mapping's function. */
  readonly leading: number;
  /** Whether it cannot be written, beyond what its symbol tells. */
  readonly isReadonly: boolean;
}

/** Something found in the place of a target's member, and where. */
export interface Located {
  readonly node: Node | undefined;
  /** `undefined` where the node names something that there is not. */
  readonly candidate: Candidate | undefined;
  /** What is named, and what there is to name, where there is no candidate. */
  readonly named?: { readonly name: string; readonly known: readonly string[] };
}

/** What the call, and the construction, of a target that has them are called. */
const CALLS = [
  { name: "()", call: "call", signatureKind: SignatureKind.Call },
  { name: "new ()", call: "new", signatureKind: SignatureKind.Construct },
] as const;

export function targetMembersOf(checker: Checker, target: Type): readonly TargetMember[] {
  const calls = CALLS.filter(
    ({ signatureKind }) => checker.getSignaturesOfType(target, signatureKind).length > 0,
  ).map((each): TargetMember => ({ ...each, type: target, symbol: undefined }));
  const properties = checker
    .getPropertiesOfType(target)
    .filter(({ name, flags }) => !(name === "prototype" && (flags & SymbolFlags.Prototype) !== 0));
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const members = properties.flatMap((symbol, index): TargetMember[] => {
    const type = types[index];
    return type && !isHidden(symbol)
      ? [{ name: labelOf(symbol), type, symbol, call: undefined, signatureKind: SignatureKind.Call }]
      : [];
  });
  return [...calls, ...members];
}

/** Whether clients are kept from a member of a class. */
function isHidden(symbol: CompilerSymbol): boolean {
  const declaration = symbol.valueDeclaration?.resolve();
  if (symbol.name.startsWith("#")) return true;
  return (
    declaration !== undefined &&
    (modifiersOf(declaration) & (ModifierFlags.Private | ModifierFlags.Protected)) !== 0
  );
}

/** A member's name as it is written; the compiler calls the one under `Symbol.dispose` `__@dispose@22`. */
export function labelOf({ name }: CompilerSymbol): string {
  return name.replace(/^__@(\w+)@\d+$/, "[Symbol.$1]");
}

function propertyOf(checker: Checker, type: Type, label: string): CompilerSymbol | undefined {
  if (!label.startsWith("[")) return checker.getPropertyOfType(type, label);
  return checker.getPropertiesOfType(type).find((each) => labelOf(each) === label);
}

export function isOptionalMember({ symbol }: TargetMember): boolean {
  return symbol !== undefined && (symbol.flags & SymbolFlags.Optional) !== 0;
}

/** Whether a member gives back, or holds, the object that it is a member of. */
export function givesItself({ symbol }: TargetMember): boolean {
  return symbol?.declarations.some((each) => declaresThis(each.resolve())) === true;
}

/** What a wrapper has under the name of a target's member. */
export function memberCandidate(
  checker: Checker,
  wrapper: Type,
  { name, call }: TargetMember,
): Located | undefined {
  if (call)
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
