import {
  type Checker,
  type Symbol as CompilerSymbol,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "typescript/unstable/sync";
import { labelOf } from "./candidates.ts";
import { isOptionalParameter } from "./parameters.ts";
import type { Program } from "./program.ts";
import { isPublic } from "./showing.ts";
import { aliasTarget } from "./syntax.ts";
import { isReadonly } from "./type-text.ts";

/** What an outside module, or a part of a package, exports, as far as it is asked for. */
export interface OutsideSurface {
  /** All that it exports, used or not. */
  readonly names: readonly string[];
  readonly exports: Readonly<Record<string, OutsideExport>>;
}

export interface OutsideExport extends OutsideMember {
  /** The members that are used, of instances and of the value itself. */
  readonly members: Readonly<Record<string, OutsideMember>>;
  /** All members, used or not. */
  readonly names: readonly string[];
}

export interface OutsideMember {
  readonly kind:
    | "function"
    | "class"
    | "interface"
    | "alias"
    | "enumeration"
    | "value"
    | "method"
    | "property";
  /** Of what is called or constructed, each overload; of the rest, none. */
  readonly signatures: readonly OutsideSignature[];
  /** The type of what is not called. */
  readonly type: string | null;
  readonly optional?: true;
  readonly readonly?: true;
  /** What its declaration says of its being deprecated; empty where it says no more. */
  readonly deprecated?: string;
}

export interface OutsideSignature {
  readonly parameters: readonly {
    readonly name: string;
    readonly type: string;
    readonly optional?: true;
    readonly rest?: true;
  }[];
  readonly result: string;
}

/** Which exports and members are asked for. */
export interface SurfaceQuery {
  readonly isExportWanted: (name: string, symbol: CompilerSymbol) => boolean;
  readonly isMemberWanted: (owner: string, member: string, symbol: CompilerSymbol) => boolean;
}

/** Reads what a module exports to which an import leads; `undefined` where it leads nowhere. */
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
  const exports: [string, OutsideExport][] = [];
  for (const each of symbols) {
    const symbol = aliasTarget(checker, each);
    const { members, names } = membersOf(checker, each.name, symbol, query);
    if (!query.isExportWanted(each.name, symbol) && Object.keys(members).length === 0) continue;
    exports.push([each.name, { ...describe(checker, symbol, kindOf(symbol)), members, names }]);
  }
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
): Pick<OutsideExport, "members" | "names"> {
  const isType = (symbol.flags & (SymbolFlags.Class | SymbolFlags.Interface | SymbolFlags.TypeAlias)) !== 0;
  const types = [
    ...(isType ? [checker.getDeclaredTypeOfSymbol(symbol)] : []),
    ...((symbol.flags & SymbolFlags.Value) !== 0 ? [checker.getTypeOfSymbol(symbol)] : []),
  ];
  const members: Record<string, OutsideMember> = {};
  const names = new Set<string>();
  for (const type of types) {
    if (!type || type.isUnionType()) continue;
    for (const each of checker.getPropertiesOfType(type).filter(isPublic)) {
      if ((each.flags & SymbolFlags.Prototype) !== 0) continue;
      const name = labelOf(each);
      names.add(name);
      if (!query.isMemberWanted(owner, name, each)) continue;
      const isMethod = (each.flags & SymbolFlags.Method) !== 0;
      members[name] ??= describe(checker, each, isMethod ? "method" : "property");
    }
  }
  const sorted = Object.entries(members).sort(([left], [right]) => (left < right ? -1 : 1));
  return { members: Object.fromEntries(sorted), names: [...names].sort() };
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
  const isValue = (symbol.flags & SymbolFlags.Value) !== 0;
  const isOptional = (symbol.flags & SymbolFlags.Optional) !== 0;
  const whole = isValue ? checker.getTypeOfSymbol(symbol) : checker.getDeclaredTypeOfSymbol(symbol);
  const type = whole && isOptional ? (checker.getNonNullableType(whole) ?? whole) : whole;
  const called = kind === "class" ? SignatureKind.Construct : SignatureKind.Call;
  const signatures = type ? checker.getSignaturesOfType(type, called) : [];
  const tag = symbol.getJsDocTags(checker).find(({ name }) => name === "deprecated");
  return {
    kind: kind === "value" && signatures.length > 0 ? "function" : kind,
    signatures: signatures.map((each): OutsideSignature => {
      const parameters = each.getParameters();
      const result = checker.getReturnTypeOfSignature(each);
      return {
        parameters: parameters.map((parameter, index) => ({
          name: parameter.name,
          type: textOf(checker, checker.getParameterType(each, index)),
          ...(isOptionalParameter(parameter) && { optional: true as const }),
          ...(each.hasRestParameter && index === parameters.length - 1 && { rest: true as const }),
        })),
        result: textOf(checker, result),
      };
    }),
    type: signatures.length > 0 || kind === "class" || kind === "interface" ? null : textOf(checker, type),
    ...(isOptional && { optional: true as const }),
    ...(kind === "property" && isReadonly(symbol) && { readonly: true as const }),
    ...(tag && { deprecated: tagText(tag) }),
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
