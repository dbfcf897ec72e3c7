import { type Type, TypeFlags } from "../../compiler/typescript.ts";
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
  const list = values.map(({ value }) => JSON.stringify(value)).join(" | ");
  // Texts of an enumeration are no texts to the compiler.
  const key = isText ? `${text} as string as ${list}` : text;
  const toText = others.some(({ value, isEnumeration }) => isEnumeration && typeof value === "string");
  if (mapped.every(([own, other]) => own.value === other.value))
    return toText ? `${text} as never` : isText ? `(${key})` : undefined;
  const table = mapped.map(([own, other]) => `${keyOf(own)}: ${JSON.stringify(other.value)}`).join(", ");
  const translated = `({ ${table} } as const)[${key}]`;
  return toText ? `${translated} as never` : translated;
}

function keyOf({ value }: ListedValue): string {
  return typeof value === "number" && value < 0 ? `[${value}]` : JSON.stringify(value);
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
  const parts = type.isUnionType() ? type.getTypes() : [type];
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
  return none !== undefined && (NO_ERROR.test(none.name) || CODE.test(name));
}

const NO_ERROR = /^_*(?:ok|okay|none|no_?error|success|succeeded|done|\w+_ok)$/i;
const CODE = /(?:err|error|status|result|return)_?(?:code|number|no)?$/i;
