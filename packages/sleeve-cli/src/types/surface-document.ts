import { declaresThis, isOptionalParameter } from "../compiler/parameters.ts";
import type { Node } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "../compiler/typescript.ts";
import type {
  MemberDocument,
  ParameterDocument,
  SignatureDocument,
  SurfaceDocument,
} from "../documents/surface-document.ts";
import { isReadonly } from "./type-text.ts";
import { valueSchemaOf } from "./value-schema.ts";

/**
 * Returns the surface of a type: its public members, in order. Members with symbol keys cannot be represented
 * in JSON.
 */
export function surfaceOf(checker: Checker, name: string, type: Type): SurfaceDocument {
  const properties = checker.getPropertiesOfType(type).filter((symbol) => !isHidden(symbol));
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const members = properties.flatMap((property, index) => {
    const own = types[index];
    return own ? [[property.name, memberOf(checker, property, own, type)] as const] : [];
  });
  return { name, members: Object.fromEntries(members) };
}

/** Private and protected members, and those with symbol keys. */
function isHidden({ name, valueDeclaration }: CompilerSymbol): boolean {
  // The compiler's notation of symbol keys and private names.
  if (/^(__[#@]|#)/.test(name)) return true;
  const declaration = valueDeclaration?.resolve();
  return /^\s*(?:\/\*[\s\S]*?\*\/\s*)?(?:private|protected)\b/.test(declaration?.getText() ?? "");
}

function memberOf(checker: Checker, symbol: CompilerSymbol, type: Type, owner: Type): MemberDocument {
  const doc = checker.getDocumentationCommentOfSymbol(symbol).split("\n")[0]?.trim();
  const isOptional = (symbol.flags & SymbolFlags.Optional) !== 0;
  const bare = isOptional ? (checker.getNonNullableType(type) ?? type) : type;
  const signatures = checker.getSignaturesOfType(bare, SignatureKind.Call);
  const shared = { ...(isOptional && { optional: true as const }), ...(doc && { doc }) };
  if (signatures.length > 0)
    return {
      kind: "method",
      ...shared,
      signatures: signatures.map((signature) => signatureOf(checker, signature, owner)),
    };
  const cannotBeWritten = isReadonly(symbol);
  return {
    kind: "property",
    ...shared,
    ...(cannotBeWritten && { readonly: true as const }),
    value: valueSchemaOf(checker, type),
  };
}

function signatureOf(checker: Checker, signature: Signature, owner: Type): SignatureDocument {
  const symbols = signature.getParameters();
  const parameters = symbols.map((symbol, index): ParameterDocument => {
    const isRest = signature.hasRestParameter && index === symbols.length - 1;
    const type = checker.getParameterType(signature, index);
    const schema = type ? valueSchemaOf(checker, type) : {};
    const optional = isOptionalParameter(symbol);
    return {
      name: symbol.name,
      schema,
      ...(optional && { optional }),
      ...(isRest && { rest: true as const }),
    } as ParameterDocument;
  });
  const result = checker.getReturnTypeOfSignature(signature);
  const isSelf =
    result?.id === owner.id || declaresThis(signature.declaration?.resolve() as Node | undefined);
  return { parameters, result: isSelf ? { self: true } : result ? valueSchemaOf(checker, result) : {} };
}
