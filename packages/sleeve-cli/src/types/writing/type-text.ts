import { isOptionalParameter } from "../../compiler/parameters.ts";
import { labelOf } from "../../compiler/symbols.ts";
import { modifiersOf } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  type ElementFlags,
  ModifierFlags,
  type Node,
  type NodeHandle,
  ObjectFlags,
  type Signature,
  SymbolFlags,
  type TupleType,
  type Type,
  type TypeReference,
} from "../../compiler/typescript.ts";
import { stringLiteral, writtenText } from "../../written-text.ts";
import { Uncopiable } from "./type-names.ts";

/** Returns the number of parameters that callers send, and of those they must send. */
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

/** Whether a type is the one its symbol declares, rather than the type of a value of that name. */
export function isOfDeclared(type: Type): boolean {
  const { objectFlags = 0 } = type as { objectFlags?: number };
  return (objectFlags & (ObjectFlags.ClassOrInterface | ObjectFlags.Reference)) !== 0;
}

/**
 * The compiler's flag for symbols made read-only by `Readonly<…>` or `as const`; the name is not published.
 */
const CHECKED_READONLY = 1 << 3;

/** Whether a member is read-only, by its declaration or by a mapped type. */
export function isReadonly({ flags, checkFlags, declarations }: CompilerSymbol): boolean {
  if ((checkFlags & CHECKED_READONLY) !== 0) return true;
  if ((flags & SymbolFlags.Accessor) !== 0) return (flags & SymbolFlags.SetAccessor) === 0;
  return declarations.some((declaration) => {
    const node = declaration.resolve();
    return node !== undefined && (modifiersOf(node) & ModifierFlags.Readonly) !== 0;
  });
}

/** Maximum length of a comment in characters. */
const LONGEST_DOC = 160;

/**
 * Returns the first sentences of the documentation comment of a declaration, as many as fit a short comment. Of
 * a function with overloads, it is the comment of the only one that is called.
 */
export function docOf(
  checker: Checker,
  symbol: CompilerSymbol,
  called?: readonly Signature[],
): string | undefined {
  const [onlyCall, ...others] = called ?? [];
  const isOverload = symbol.declarations.length > 1 && onlyCall?.declaration && others.length === 0;
  const text = isOverload
    ? commentOf(onlyCall.declaration.resolve())
    : checker.getDocumentationCommentOfSymbol(symbol);
  return shortDoc(text);
}

/** Returns the text of the comment before a declaration, without its tags. */
function commentOf(declaration: Node | undefined): string {
  const source = declaration?.getSourceFile();
  if (!declaration || !source) return "";
  const [, comment = ""] =
    /\/\*\*((?:(?!\*\/)[\s\S])*)\*\/[^/]*$/.exec(
      source.text.slice(declaration.pos, declaration.getStart(source)),
    ) ?? [];
  const [text = ""] = comment.replace(/^[ \t]*\*[ \t]?/gm, "").split(/^\s*@\w/m);
  return text.trim();
}

/** Keeps whole sentences of the first paragraph. Headings, lists and links describe something else. */
function shortDoc(text: string): string | undefined {
  const [paragraph = ""] = text.trim().split(/\n\s*\n/);
  if (/^\s*(#|[-*] |```|<|https?:|\|)/.test(paragraph)) return undefined;
  const plain = paragraph
    .replace(/\{@link(?:code|plain)?\s+([^}|\s]+)(?:[|\s]+([^}]*))?\}/g, (_, name, label) => label || name)
    .replace(/\[([^\]]*)\]\([^)]*\)/g, "$1")
    .replace(/\s+/g, " ")
    .trim();
  const [firstSentence = "", ...others] = writtenText(plain, "block comment").split(/(?<=[.!?]) (?=\p{Lu})/u);
  if (firstSentence === "" || /https?:\/\//.test(firstSentence)) return undefined;
  let short = firstSentence;
  for (const sentence of others) {
    if (short.length + sentence.length >= LONGEST_DOC) break;
    short += ` ${sentence}`;
  }
  return short;
}

/** Whether the source of types mentions a name, other than as the name of a member or parameter. */
export function mentionsName(text: string, name: string): boolean {
  const escaped = name.replaceAll("$", "\\$");
  const isName = `${escaped}(?![\\w$]|\\??:|\\()`;
  // At the start of a line, a name with type parameters may be a type or a method; it counts as a type.
  return new RegExp(`(?<![\\w$]|(?<!\\.\\.)\\.|^readonly )${isName}`, "m").test(text);
}

/** Returns `tide-sums`, `tide_sums` and `TIDE sums` as `tideSums`; camel case stays unchanged. */
export function camelCase(text: string): string {
  const words = text.split(/[^\p{ID_Continue}$]+|_+/u).filter((word) => word !== "");
  const [firstWord = "", ...otherWords] = words;
  const joined = [
    words.length > 1 ? firstWord.toLowerCase() : `${firstWord.charAt(0).toLowerCase()}${firstWord.slice(1)}`,
    ...otherWords.map((word) => `${word.charAt(0).toUpperCase()}${word.slice(1)}`),
  ].join("");
  return joined.replace(/^\d/, "n$&");
}

/** Returns a value name as a type name: `TideSums`. */
export function asTypeName(name: string): string {
  return `${name.charAt(0).toUpperCase()}${name.slice(1)}`;
}

export function keyText(symbol: CompilerSymbol): string {
  const label = labelOf(symbol);
  return label.startsWith("[") ? label : propertyKey(label);
}

/** Returns a name as an object key. */
export function propertyKey(name: string): string {
  return isIdentifierName(name) ? name : stringLiteral(name);
}

/** Returns an entry of a record whose keys come from a project, and may be names that all objects have. */
export function entryOf<Value>(record: Readonly<Record<string, Value>>, key: string): Value | undefined {
  return Object.hasOwn(record, key) ? record[key] : undefined;
}

/** Whether a name can stand in source as it is. */
export function isIdentifierName(name: string): boolean {
  return /^[\p{ID_Start}$_][\p{ID_Continue}$\u200c\u200d]*$/u.test(name);
}

/** Returns an export's name in an import or export statement, in quotes if it is not an identifier. */
export function printedName(name: string): string {
  return isIdentifierName(name) ? name : stringLiteral(name);
}

/** Returns a type as the operand of an operator. */
export function asOperand(text: string): string {
  return isCompound(text) ? `(${text})` : text;
}

/** Whether a type has an operator outside brackets. */
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

/**
 * Returns the source of the type of an enumeration's member.
 *
 * @throws {Uncopiable} if its name is no identifier, but any text in quotes
 */
export function enumMember(owner: string, { name }: CompilerSymbol): string {
  if (!isIdentifierName(name))
    throw new Uncopiable("it is a member of an enumeration whose name is no identifier");
  return `${owner}.${name}`;
}

/** Returns the elements of a tuple. */
export function tupleElementsOf(
  checker: Checker,
  type: TypeReference,
): {
  readonly types: readonly Type[];
  readonly elementFlags: readonly ElementFlags[];
  readonly isReadonly: boolean;
} {
  const { elementFlags, readonly: isReadonly = false } = type.getTarget() as Partial<TupleType>;
  const typeArguments = checker.getTypeArguments(type);
  const types = elementFlags ? typeArguments.slice(0, elementFlags.length) : typeArguments;
  return { types, elementFlags: elementFlags ?? [], isReadonly };
}
