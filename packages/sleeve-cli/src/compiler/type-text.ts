import { ModifierFlags } from "typescript/unstable/ast";
import {
  type Checker,
  type Symbol as CompilerSymbol,
  type NodeHandle,
  ObjectFlags,
  type Signature,
  SymbolFlags,
  type Type,
} from "typescript/unstable/sync";
import { labelOf } from "./candidates.ts";
import { isOptionalParameter } from "./parameters.ts";
import { modifiersOf } from "./syntax.ts";

/** The parameters that callers send something for, and those that have to be sent. */
export function sentParameters(signature: Signature, most: number | undefined): readonly CompilerSymbol[] {
  const symbols = signature.getParameters();
  if (most === undefined) return symbols;
  return symbols.filter((symbol, index) => {
    const isRest = signature.hasRestParameter && index === symbols.length - 1;
    return index < most || !(isRest || isOptionalParameter(symbol));
  });
}

export function isSame(left: NodeHandle, right: NodeHandle | undefined): boolean {
  return left.path === right?.path && left.index === right.index;
}

/** Whether a type is what its symbol declares, and not the type of the value of that name. */
export function isOfDeclared(type: Type): boolean {
  const { objectFlags = 0 } = type as { objectFlags?: number };
  return (objectFlags & (ObjectFlags.ClassOrInterface | ObjectFlags.Reference)) !== 0;
}

/** What the compiler notes on a symbol that `Readonly<…>` or `as const` made; it does not publish the name. */
const CHECKED_READONLY = 1 << 3;

/** Whether a member cannot be written, by its declaration or by the type that it is mapped by. */
export function isReadonly({ flags, checkFlags, declarations }: CompilerSymbol): boolean {
  if ((checkFlags & CHECKED_READONLY) !== 0) return true;
  if ((flags & SymbolFlags.Accessor) !== 0) return (flags & SymbolFlags.SetAccessor) === 0;
  return declarations.some((each) => {
    const node = each.resolve();
    return node !== undefined && (modifiersOf(node) & ModifierFlags.Readonly) !== 0;
  });
}

/** So long a comment may be, in characters; one sentence is taken whatever its length. */
const LONGEST_DOC = 160;

/** The first paragraph of what is documented, as many of its sentences as a short comment holds. */
export function docOf(checker: Checker, symbol: CompilerSymbol): string | undefined {
  const [paragraph = ""] = checker.getDocumentationCommentOfSymbol(symbol).split(/\n\s*\n/);
  const doc = paragraph.replace(/\s+/g, " ").replaceAll("*/", "*\\/").trim();
  const [first = "", ...others] = doc.split(/(?<=[.!?]) (?=\p{Lu})/u);
  let short = first;
  for (const each of others) {
    if (short.length + each.length >= LONGEST_DOC) break;
    short += ` ${each}`;
  }
  return short === "" ? undefined : short;
}

export function keyText(symbol: CompilerSymbol): string {
  const label = labelOf(symbol);
  return label.startsWith("[") ? label : propertyKey(label);
}

/** A name as a key of an object. */
export function propertyKey(name: string): string {
  return /^[\p{ID_Start}$_][\p{ID_Continue}$]*$/u.test(name) ? name : JSON.stringify(name);
}

/** A type as the operand of another. */
export function asOperand(text: string): string {
  return isCompound(text) ? `(${text})` : text;
}

/** Whether an operator stands in a type outside of all brackets. */
function isCompound(text: string): boolean {
  if (/^(keyof|readonly|new|abstract|asserts) /.test(text)) return true;
  let depth = 0;
  for (const [token] of text.matchAll(/"(?:[^"\\]|\\.)*"|`[^`]*`|=>|[[({<\])}>]| [|&] | is /g)) {
    if (/^[[({<]$/.test(token)) depth++;
    else if (/^[\])}>]$/.test(token)) depth--;
    else if (depth === 0 && /^(=>| )/.test(token)) return true;
  }
  return false;
}
