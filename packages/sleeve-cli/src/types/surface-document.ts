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
import { type SchemaLimits, valueSchemaOf } from "./value-schema.ts";
import { isReadonly } from "./writing/type-text.ts";

/** What a surface describes. */
export interface SurfaceScope {
  /** Whether a declaring file belongs to an outside module; objects of its types are named, not described. */
  readonly isOutside: (path: string) => boolean;
  /** Whether a member is described. Default: all members are. */
  readonly has?: ((member: CompilerSymbol) => boolean) | undefined;
}

/**
 * Returns the surface of a type: its public members, in order. Members with symbol keys cannot be represented
 * in JSON. The description of a member is shortened until it takes at most 2 kB.
 */
export function surfaceOf(checker: Checker, name: string, type: Type, scope: SurfaceScope): SurfaceDocument {
  const { has = () => true } = scope;
  const properties = checker.getPropertiesOfType(type).filter((symbol) => !isHidden(symbol) && has(symbol));
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const members = properties.flatMap((property, index) => {
    const propertyType = types[index];
    return propertyType
      ? [[property.name, shortMemberOf(checker, property, propertyType, type, scope)] as const]
      : [];
  });
  return { name, members: Object.fromEntries(members) };
}

/** Writes a surface as JSON, each member on one line. */
export function surfaceText({ name, members }: SurfaceDocument): string {
  const lines = Object.entries(members).map(
    ([member, description]) => `    ${JSON.stringify(member)}: ${JSON.stringify(description)}`,
  );
  const list = lines.length === 0 ? "{}" : `{\n${lines.join(",\n")}\n  }`;
  return `{\n  "name": ${JSON.stringify(name)},\n  "members": ${list}\n}\n`;
}

/** Size of the description of a member in a file, in characters. */
const LONGEST_MEMBER = 1900;

/** Depths and numbers of parts to try, the most complete description first. */
const LIMITS = [
  { depth: 6, parts: 400 },
  { depth: 3, parts: 60 },
  { depth: 2, parts: 20 },
  { depth: 1, parts: 8 },
  { depth: 0, parts: 1 },
] as const;

function shortMemberOf(
  checker: Checker,
  symbol: CompilerSymbol,
  type: Type,
  owner: Type,
  { isOutside }: SurfaceScope,
): MemberDocument {
  let shortest: MemberDocument | undefined;
  for (const limits of LIMITS) {
    const member = memberOf(checker, symbol, type, owner, { ...limits, isOutside });
    if (sizeOf(member) <= LONGEST_MEMBER) return member;
    shortest = member;
  }
  // Many overloads: their arguments are learned when the contract runs.
  const { signatures: _, ...withoutSignatures } = shortest as MemberDocument;
  return withoutSignatures;
}

function sizeOf(member: MemberDocument): number {
  return JSON.stringify(member).length;
}

/** Private and protected members, and those with symbol keys. */
function isHidden({ name, valueDeclaration }: CompilerSymbol): boolean {
  // The compiler's notation of symbol keys and private names.
  if (/^(__[#@]|#)/.test(name)) return true;
  const declaration = valueDeclaration?.resolve();
  return /^\s*(?:\/\*[\s\S]*?\*\/\s*)?(?:private|protected)\b/.test(declaration?.getText() ?? "");
}

function memberOf(
  checker: Checker,
  symbol: CompilerSymbol,
  type: Type,
  owner: Type,
  limits: SchemaLimits,
): MemberDocument {
  const doc = checker.getDocumentationCommentOfSymbol(symbol).split("\n")[0]?.trim();
  const isOptional = (symbol.flags & SymbolFlags.Optional) !== 0;
  const bare = isOptional ? (checker.getNonNullableType(type) ?? type) : type;
  const signatures = checker.getSignaturesOfType(bare, SignatureKind.Call);
  const shared = { ...(isOptional && { optional: true as const }), ...(doc && { doc }) };
  if (signatures.length > 0)
    return {
      kind: "method",
      ...shared,
      signatures: signatures.map((signature) => signatureOf(checker, signature, owner, limits)),
    };
  const cannotBeWritten = isReadonly(symbol);
  return {
    kind: "property",
    ...shared,
    ...(cannotBeWritten && { readonly: true as const }),
    value: valueSchemaOf(checker, type, limits),
  };
}

function signatureOf(
  checker: Checker,
  signature: Signature,
  owner: Type,
  limits: SchemaLimits,
): SignatureDocument {
  const symbols = signature.getParameters();
  const parameters = symbols.map((symbol, index): ParameterDocument => {
    const isRest = signature.hasRestParameter && index === symbols.length - 1;
    const type = checker.getParameterType(signature, index);
    const schema = type ? valueSchemaOf(checker, type, limits) : {};
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
  const described = result ? valueSchemaOf(checker, result, limits) : {};
  return {
    parameters,
    result: isSelf ? { self: true } : described,
  };
}
