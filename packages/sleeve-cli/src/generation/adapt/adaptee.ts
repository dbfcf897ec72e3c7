import { isPublic, labelOf } from "../../compiler/symbols.ts";
import { aliasTarget } from "../../compiler/syntax.ts";
import {
  type Checker,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { isReadonly, keyText } from "../../types/writing/type-text.ts";

/** A parameter with its type. */
export interface TypedParameter {
  readonly name: string;
  readonly type: Type;
  readonly isOptional: boolean;
  readonly isRest: boolean;
}

/** A way to call a member. */
export interface TypedSignature {
  readonly parameters: readonly TypedParameter[];
  readonly result: Type;
}

/** A member, as it is compared with those of another type. */
export interface TypedMember {
  readonly name: string;
  readonly key: string;
  readonly type: Type;
  readonly isReadonly: boolean;
  readonly isOptional: boolean;
  readonly isMethod: boolean;
  readonly signatures: readonly TypedSignature[];
}

/** Reads the public members of a type with names. */
export function typedMembersOf(checker: Checker, type: Type): readonly TypedMember[] {
  const properties = checker
    .getPropertiesOfType(type)
    .filter((property) => isPublic(property) && (property.flags & SymbolFlags.Prototype) === 0)
    .filter((property) => !keyText(property).startsWith("["));
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  return properties.flatMap((property, index) => {
    const memberType = types[index];
    if (!memberType) return [];
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const called = isOptional ? (checker.getNonNullableType(memberType) ?? memberType) : memberType;
    const signatures = checker.getSignaturesOfType(called, SignatureKind.Call);
    const flags = property.flags | aliasTarget(checker, property).flags;
    return {
      name: labelOf(property),
      key: keyText(property),
      type: memberType,
      isReadonly: isReadonly(property),
      isOptional,
      isMethod: signatures.length > 0 && (flags & (SymbolFlags.Method | SymbolFlags.Function)) !== 0,
      signatures: signatures.map((signature) => typedSignatureOf(checker, signature)),
    };
  });
}

export function typedSignatureOf(checker: Checker, signature: Signature): TypedSignature {
  const symbols = signature.getParameters();
  const types = symbols.length > 0 ? checker.getTypeOfSymbol(symbols) : [];
  return {
    parameters: symbols.flatMap((symbol, index) => {
      const type = types[index];
      const isRest = signature.hasRestParameter && index === symbols.length - 1;
      const isOptional = isOptionalParameter(symbol.valueDeclaration?.resolve()) || isRest;
      return type ? [{ name: symbol.name, type, isRest, isOptional }] : [];
    }),
    result: checker.getReturnTypeOfSignature(signature) ?? checker.getAnyType(),
  };
}

function isOptionalParameter(node: unknown): boolean {
  const { questionToken, initializer } = (node ?? {}) as { questionToken?: unknown; initializer?: unknown };
  return questionToken !== undefined || initializer !== undefined;
}

/** Whether a type depends on type parameters. */
export function isGenericType({ flags }: Type): boolean {
  return (
    (flags &
      (TypeFlags.TypeParameter | TypeFlags.IndexedAccess | TypeFlags.Conditional | TypeFlags.Index)) !==
    0
  );
}

/** Whether a type is `any`, `unknown` or a type parameter, which says nothing about values. */
export function isOpenType(type: Type): boolean {
  return (type.flags & (TypeFlags.Any | TypeFlags.Unknown | TypeFlags.TypeParameter)) !== 0;
}

/** Returns the type that a promise resolves to; `undefined` for a type that is no promise. */
export function promisedType(checker: Checker, type: Type): Type | undefined {
  const parts = (type.isUnionType() ? type.getTypes() : [type]).filter(
    ({ flags }) => (flags & NULLISH) === 0,
  );
  const [part] = parts;
  if (parts.length !== 1 || !part?.isTypeReference()) return undefined;
  const name = part.getSymbol()?.name;
  return name === "Promise" || name === "PromiseLike" ? checker.getTypeArguments(part)[0] : undefined;
}

export const NULLISH = TypeFlags.Null | TypeFlags.Undefined | TypeFlags.Void;
