import { isOptionalParameter } from "../compiler/parameters.ts";
import type { Program } from "../compiler/program.ts";
import { isPublic, labelOf } from "../compiler/symbols.ts";
import { aliasTarget } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "../compiler/typescript.ts";
import type {
  OutsideExport,
  OutsideMember,
  OutsideSignature,
  OutsideSurface,
} from "../documents/outside-surface-document.ts";

import { isReadonly } from "./writing/type-text.ts";

/** The exports and members to include. */
export interface SurfaceQuery {
  readonly isExportWanted: (name: string, symbol: CompilerSymbol) => boolean;
  readonly isMemberWanted: (owner: string, member: string, symbol: CompilerSymbol) => boolean;
}

/** Reads the exports of the module that an import resolves to; `undefined` if it does not resolve. */
export function outsideSurfaceOf(
  program: Program,
  file: string,
  offset: number,
  query: SurfaceQuery,
): OutsideSurface | undefined {
  const checker = program.checkerFor(file);
  const module = checker?.getSymbolAtPosition(file, offset + 1);
  if (!checker || !module || checker.isUnknownSymbol(module)) return undefined;
  const symbols = checker.getExportsOfModule(module);
  const described = symbols.map((candidate) => {
    const symbol = aliasTarget(checker, candidate);
    const isWanted = query.isExportWanted(candidate.name, symbol);
    return { name: candidate.name, symbol, isWanted, ...membersOf(checker, candidate.name, symbol, query) };
  });
  // A member that is inherited belongs to the export that declares it, if there is one.
  const declared = new Set(described.flatMap(({ own }) => own));
  const exports = described.flatMap(({ name, symbol, isWanted, members, names, own, inherited }) => {
    const isNeeded = own.length > 0 || inherited.some((key) => !declared.has(key));
    if (!isWanted && !isNeeded) return [];
    return [[name, { ...describe(checker, symbol, kindOf(symbol)), members, names }] as const];
  });
  return {
    names: symbols.map(({ name }) => name).sort(),
    exports: Object.fromEntries(exports.sort(([left], [right]) => (left < right ? -1 : 1))),
  };
}

function membersOf(
  checker: Checker,
  owner: string,
  symbol: CompilerSymbol,
  query: SurfaceQuery,
): Pick<OutsideExport, "members" | "names"> & {
  /** Keys of the declarations of the wanted members that the export declares, and that it inherits. */
  readonly own: readonly string[];
  readonly inherited: readonly string[];
} {
  const isType = (symbol.flags & (SymbolFlags.Class | SymbolFlags.Interface | SymbolFlags.TypeAlias)) !== 0;
  const types = [
    ...(isType ? [checker.getDeclaredTypeOfSymbol(symbol)] : []),
    ...((symbol.flags & SymbolFlags.Value) !== 0 ? [checker.getTypeOfSymbol(symbol)] : []),
  ];
  const members: Record<string, OutsideMember> = {};
  const names = new Set<string>();
  const ownNames: string[] = [];
  const inherited: string[] = [];
  for (const type of types) {
    if (!type || type.isUnionType()) continue;
    for (const member of checker.getPropertiesOfType(type).filter(isPublic)) {
      if ((member.flags & SymbolFlags.Prototype) !== 0) continue;
      const name = labelOf(member);
      names.add(name);
      if (!query.isMemberWanted(owner, name, member)) continue;
      const isMethod = (member.flags & SymbolFlags.Method) !== 0;
      members[name] ??= describe(checker, member, isMethod ? "method" : "property");
      for (const { path, index } of member.declarations)
        (isDeclaredBy(member, symbol) ? ownNames : inherited).push(`${path} ${index}`);
    }
  }
  const sorted = Object.entries(members).sort(([left], [right]) => (left < right ? -1 : 1));
  return { members: Object.fromEntries(sorted), names: [...names].sort(), own: ownNames, inherited };
}

/** Whether a member's declaration lies in one of the declarations of an export. */
function isDeclaredBy(member: CompilerSymbol, owner: CompilerSymbol): boolean {
  return member.declarations.some((declaration) =>
    owner.declarations.some((over) => {
      if (over.path !== declaration.path) return false;
      const [inner, outer] = [declaration.resolve(), over.resolve()];
      return inner !== undefined && outer !== undefined && outer.pos <= inner.pos && inner.end <= outer.end;
    }),
  );
}

function kindOf({ flags }: CompilerSymbol): OutsideMember["kind"] {
  if ((flags & SymbolFlags.Class) !== 0) return "class";
  if ((flags & SymbolFlags.Function) !== 0) return "function";
  if ((flags & SymbolFlags.Enum) !== 0) return "enumeration";
  if ((flags & SymbolFlags.Variable) !== 0) return "value";
  if ((flags & SymbolFlags.Interface) !== 0) return "interface";
  return (flags & SymbolFlags.TypeAlias) !== 0 ? "alias" : "value";
}

function describe(checker: Checker, symbol: CompilerSymbol, kind: OutsideMember["kind"]): OutsideMember {
  const isOptional = (symbol.flags & SymbolFlags.Optional) !== 0;
  const type = typeOf(checker, symbol, isOptional);
  const called = kind === "class" ? SignatureKind.Construct : SignatureKind.Call;
  const signatures = type ? checker.getSignaturesOfType(type, called) : [];
  const tag = symbol.getJsDocTags(checker).find(({ name }) => name === "deprecated");
  return {
    kind: kind === "value" && signatures.length > 0 ? "function" : kind,
    signatures: signatures.map((signature) => describeSignature(checker, signature)),
    type: signatures.length > 0 || kind === "class" || kind === "interface" ? null : textOf(checker, type),
    ...(isOptional && { optional: true as const }),
    ...(kind === "property" && isReadonly(symbol) && { readonly: true as const }),
    ...(tag && { deprecated: tagText(tag) }),
  };
}

/** The type of a value, or the one that a name declares; without `undefined` if the member is optional. */
function typeOf(checker: Checker, symbol: CompilerSymbol, isOptional: boolean): Type | undefined {
  const isValue = (symbol.flags & SymbolFlags.Value) !== 0;
  const type = isValue ? checker.getTypeOfSymbol(symbol) : checker.getDeclaredTypeOfSymbol(symbol);
  return type && isOptional ? (checker.getNonNullableType(type) ?? type) : type;
}

function describeSignature(checker: Checker, signature: Signature): OutsideSignature {
  const parameters = signature.getParameters();
  const result = checker.getReturnTypeOfSignature(signature);
  return {
    parameters: parameters.map((parameter, index) => ({
      name: parameter.name,
      type: textOf(checker, checker.getParameterType(signature, index)),
      ...(isOptionalParameter(parameter) && { optional: true as const }),
      ...(signature.hasRestParameter && index === parameters.length - 1 && { rest: true as const }),
    })),
    result: textOf(checker, result),
  };
}

function textOf(checker: Checker, type: Type | undefined): string {
  return type ? checker.typeToString(type, undefined, NO_TRUNCATION) : "unknown";
}

const NO_TRUNCATION = 1;

function tagText({ text }: { readonly text?: unknown }): string {
  if (typeof text === "string") return text.trim();
  if (!Array.isArray(text)) return "";
  return text
    .map((part: { readonly text?: string }) => part.text ?? "")
    .join("")
    .trim();
}
