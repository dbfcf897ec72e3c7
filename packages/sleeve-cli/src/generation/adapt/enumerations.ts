import { type Type, TypeFlags } from "../../compiler/typescript.ts";
import { valueLiteral } from "../../written-text.ts";
import { wordsOf } from "./units.ts";

/** One value of an enumeration, or of a union of texts or numbers. */
interface ListedValue {
  readonly value: string | number;
  /** What it is called: by the enumeration's member, or by itself. */
  readonly name: string;
  readonly isEnumeration: boolean;
}

/**
 * Writes a value of an enumeration or a union of texts or numbers as one of another, whose values are the same or have the same
 * names. Returns undefined if that leaves values out.
 */
export function translatedValue(text: string, from: Type, to: Type): string | undefined {
  const [values, others] = [valuesOf(from), valuesOf(to)];
  if (!values || !others) return undefined;
  const pairs = values.map((value) => [value, sameValue(value, others)] as const);
  const mapped = pairs.flatMap(([own, other]) => (other ? [[own, other] as const] : []));
  const isOneToOne = new Set(mapped.map(([, other]) => other)).size === values.length;
  if (mapped.length < values.length || !isOneToOne) return undefined;
  const isText = values.some(({ value, isEnumeration }) => isEnumeration && typeof value === "string");
  const list = values.map(({ value }) => valueLiteral(value)).join(" | ");
  // Texts of an enumeration are no texts to the compiler.
  const key = isText ? `${text} as string as ${list}` : text;
  const toText = others.some(({ value, isEnumeration }) => isEnumeration && typeof value === "string");
  if (mapped.every(([own, other]) => own.value === other.value)) {
    const same = isText ? `(${key})` : undefined;
    return toText ? `${text} as never` : same;
  }
  const table = mapped.map(([own, other]) => `${keyOf(own)}: ${valueLiteral(other.value)}`).join(", ");
  const translated = `({ ${table} } as const)[${key}]`;
  return toText ? `${translated} as never` : translated;
}

/** A value that is accepted only if it is one of a list. */
export interface ListedConversion {
  readonly text: string;
  /** Whether the value is not in the list, as an expression. */
  readonly isOther: string;
}

/** Writes a text as one of a union of texts that contains some of its values. Returns undefined if it contains none. */
export function valueInList(text: string, from: Type, to: Type): ListedConversion | undefined {
  const [given, wanted] = [withoutMissing(from), withoutMissing(to)];
  if (given.mayBeMissing && !wanted.mayBeMissing) return undefined;
  const others = textsOf(wanted.parts);
  const isAnyText = given.parts.length === 1 && ((given.parts[0]?.flags ?? 0) & TypeFlags.String) !== 0;
  const own = isAnyText ? others : textsOf(given.parts);
  const accepted = others?.filter((other) => own?.includes(other)) ?? [];
  if (accepted.length === 0 || accepted.length > MOST_LISTED) return undefined;
  const list = accepted.map((value) => valueLiteral(value));
  const isOther = `![${list.join(", ")}].includes(${text})`;
  return given.mayBeMissing
    ? { text: `${text} as ${list.join(" | ")} | undefined`, isOther: `${text} !== undefined && ${isOther}` }
    : { text: `${text} as ${list.join(" | ")}`, isOther };
}

function withoutMissing(type: Type): { readonly parts: readonly Type[]; readonly mayBeMissing: boolean } {
  const all = type.isUnionType() ? type.getTypes() : [type];
  const parts = all.filter(({ flags }) => (flags & TypeFlags.Undefined) === 0);
  return { parts, mayBeMissing: parts.length < all.length };
}

const MOST_LISTED = 40;

/** Returns the texts of a union of texts; undefined for any other type. */
function textsOf(parts: readonly Type[]): readonly string[] | undefined {
  const values = valuesIn(parts)?.map(({ value, isEnumeration }) => (isEnumeration ? undefined : value));
  return values?.every((value) => typeof value === "string") ? values : undefined;
}

function keyOf({ value }: ListedValue): string {
  return typeof value === "number" && value < 0 ? `[${value}]` : valueLiteral(value);
}

function sameValue({ value, name }: ListedValue, others: readonly ListedValue[]): ListedValue | undefined {
  const words = wordsOf(name).join();
  return (
    others.find((other) => typeof value === "string" && other.value === value) ??
    others.find((other) => wordsOf(other.name).join() === words)
  );
}

/** Returns the values of a type that lists them; undefined for any other type. */
function valuesOf(type: Type): readonly ListedValue[] | undefined {
  return valuesIn(type.isUnionType() ? type.getTypes() : [type]);
}

function valuesIn(parts: readonly Type[]): readonly ListedValue[] | undefined {
  const values = parts.flatMap((part): ListedValue[] => {
    const { value } = part as { readonly value?: unknown };
    if ((part.flags & LITERAL) === 0 || (typeof value !== "string" && typeof value !== "number")) return [];
    const isEnumeration = (part.flags & TypeFlags.EnumLiteral) !== 0;
    const member = isEnumeration ? part.getSymbol()?.name : undefined;
    return [{ value, name: member ?? String(value), isEnumeration }];
  });
  return parts.length > 1 && values.length === parts.length ? values : undefined;
}

const LITERAL = TypeFlags.StringLiteral | TypeFlags.NumberLiteral;

/** Whether a type lists numbers of errors, of which 0 means that there was none. */
export function isErrorNumber(type: Type): boolean {
  const values = valuesOf(type);
  if (!values?.every(({ value }) => typeof value === "number")) return false;
  const none = values.find(({ value }) => value === 0);
  const name = type.getAliasSymbol()?.name ?? type.getSymbol()?.name ?? "";
  if (none === undefined) return false;
  return NO_ERROR.test(none.name) || ERROR_NUMBER.test(name) || (NONE.test(none.name) && ERROR.test(name));
}

const NO_ERROR = /^_*(?:ok|okay|no_?error|success|succeeded|\w+_ok)$/i;
const ERROR_NUMBER =
  /(?:err|error|errno|(?:status|result|return)_?(?:code|number))$|err(?:or)?_?(?:code|number|no)$/i;
/** A member that only means that there was no error if its type is one of errors: `Fault.None`, but not `Direction.None`. */
const NONE = /^_*none$/i;
const ERROR = /err|fault|fail|problem/i;
