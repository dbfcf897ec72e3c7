import {
  type Checker,
  type Signature,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import type { Settlement } from "./signature-forms.ts";

/** Returns when calls of a signature end, as far as its type says. */
export function settlementOf(checker: Checker, signature: Signature): Settlement {
  const type = checker.getReturnTypeOfSignature(signature);
  if (!type) return "any";
  const parts = type.isUnionType() ? type.getTypes() : [type];
  const settlements = new Set(parts.map((part) => settlementOfPart(checker, part)));
  const [settlement] = settlements;
  return settlements.size === 1 && settlement !== undefined ? settlement : "any";
}

function settlementOfPart(checker: Checker, type: Type): Settlement {
  if ((type.flags & PRIMITIVE) !== 0) return "value";
  if ((type.flags & TypeFlags.Object) === 0) return "any";
  const symbol = type.getSymbol();
  if (symbol?.name === "Promise" && symbol.getParent() === undefined) return "promise";
  // An object with members that no promise and no generator has is neither.
  const isOther = checker
    .getPropertiesOfType(type)
    .some(({ name, flags }) => (flags & SymbolFlags.Optional) === 0 && !OF_PENDING.test(name));
  return isOther ? "value" : "any";
}

const PRIMITIVE =
  TypeFlags.StringLike |
  TypeFlags.NumberLike |
  TypeFlags.BigIntLike |
  TypeFlags.BooleanLike |
  TypeFlags.ESSymbolLike |
  TypeFlags.Undefined |
  TypeFlags.Null;

/** Members that promises and generators have. */
const OF_PENDING = /^(?:then|catch|finally|next|return|throw|constructor|toString|valueOf|__@.*)$/;
