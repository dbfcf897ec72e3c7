import { type Type, TypeFlags } from "../../compiler/typescript.ts";
import { stringLiteral } from "../../written-text.ts";

/**
 * Returns code for a value of a type, for a parameter whose value no caller writes out: a number, a boolean, a literal or a
 * date. A text may be an address or a date in a format of its own, so there is none for texts, nor for objects.
 */
export function sampleValue(type: Type): string | undefined {
  if (type.isStringLiteralType()) return stringLiteral(type.value);
  if (type.isUnionType()) {
    const samples = type.getTypes().map(sampleValue);
    return samples.find((sample) => sample !== undefined);
  }
  if ((type.flags & TypeFlags.BooleanLike) !== 0) return "true";
  if ((type.flags & TypeFlags.NumberLiteral) !== 0) return undefined;
  if ((type.flags & TypeFlags.NumberLike) !== 0) return "3";
  return type.getSymbol()?.name === "Date" ? 'new Date("2031-05-06T06:00:00Z")' : undefined;
}
