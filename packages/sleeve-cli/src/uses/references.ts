import type { Program } from "../compiler/program.ts";
import { aliasTarget, exportAssignmentOf, resolvedSymbol } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isAwaitExpression,
  isBinaryExpression,
  isElementAccessExpression,
  isExportSpecifier,
  isParenthesizedExpression,
  isPropertyAccessExpression,
  isQualifiedName,
  isShorthandPropertyAssignment,
  isTypeQueryNode,
  type Node,
  SignatureKind,
  type SourceFile,
  SymbolFlags,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { FileNames, isRequireCall } from "./file-names.ts";
import { inMetadata, jsxReferences } from "./hidden-references.ts";
import type { Binding, ImportedInFile, Reference, ReferenceKind } from "./imported-names.ts";
import { kindOf } from "./uses.ts";

const NOTHING: ImportedInFile = { bindings: [], references: [], statements: new Map(), names: new Map() };

/** Follows the names introduced by imports to their references in the file. */
export function importedIn(program: Program, path: string, sites: readonly ImportSite[]): ImportedInFile {
  const source = program.sourceFile(path);
  const checker = program.checkerFor(path);
  if (!source || !checker) return NOTHING;
  const fileNames = new FileNames(source, new Map(sites.map((site) => [site.offset, site])));
  const symbols =
    fileNames.bound.length > 0 ? checker.getSymbolAtLocation(fileNames.bound.map(({ node }) => node)) : [];
  const bindings = fileNames.bound.map((omit, index): Binding & { readonly id: number | undefined } => ({
    ...omit,
    id: symbols[index]?.id,
    symbol: resolvedSymbol(checker, symbols[index]),
  }));
  const byId = new Map(
    bindings.flatMap((binding) => (binding.id === undefined ? [] : [[binding.id, binding] as const])),
  );
  const keepsName = (site: ImportSite) =>
    site.forms.some((form) => KEEPS_NAME.has(form)) && fileNames.statements.get(site)?.kind !== "require";
  const nodes = fileNames.mentions;
  const meanings = nodes.length > 0 ? checker.getSymbolAtLocation(nodes) : [];
  const references = nodes.flatMap((node, index): Reference[] => {
    const symbol = localSymbolOf(checker, node, meanings[index]);
    const binding = symbol && byId.get(symbol.id);
    return binding
      ? [{ ...referenceOf(node, binding, source, checker), keepsName: keepsName(binding.site) }]
      : [];
  });
  const emitsMetadata = program.optionsFor(path)?.emitDecoratorMetadata === true;
  const withMetadata = emitsMetadata
    ? references.map((reference) => inMetadata(reference, bindings))
    : references;
  return {
    bindings,
    references: [
      ...withMetadata,
      ...jsxReferences(program, source, bindings, checker),
      ...fileNames.importTypes.map((type) => typeReference(type, source, checker)),
      ...fileNames.importCalls.flatMap((call) => callReference(call, program, source, checker)),
    ].sort((left, right) => left.start - right.start),
    statements: fileNames.statements,
    names: fileNames.names,
  };
}

/** Imports that leave the name to the module that they import. */
const KEEPS_NAME: ReadonlySet<string> = new Set(["require", "dynamic", "re-export", "import type"]);

function referenceOf(
  node: Node,
  binding: Binding,
  source: SourceFile,
  checker: Checker,
): Omit<Reference, "keepsName"> {
  const { site, local } = binding;
  const start = node.getStart(source);
  const nested = qualifiedOver(node) ? nestedType(node, binding.export, checker) : undefined;
  if (nested) return { ...nested, site, local, start };
  if (binding.export !== "*") {
    const kind = referenceKind(node, node);
    return { site, export: binding.export, local, kind, start, end: node.end, node, symbol: binding.symbol };
  }
  const access = accessOver(node);
  if (!access) {
    const kind = referenceKind(node, node);
    const value = isAssignedToExports(node) ? undefined : moduleValue(binding);
    const exported = value ? EXPORT_ASSIGNMENT : "*";
    return { site, export: exported, local, kind, start, end: node.end, node, symbol: value };
  }
  const { whole, name } = access;
  const symbol = resolvedSymbol(checker, checker.getSymbolAtLocation(name));
  const kind = referenceKind(whole, name);
  return { site, export: textOf(name), local, kind, start, end: whole.end, node: whole, symbol };
}

/** Name of the export of a module that is one value: `export = lift`. */
export const EXPORT_ASSIGNMENT = "export=";

/** Returns the value that a module is, if a namespace import uses it as this value: `import * as lift from …; lift()`. */
function moduleValue({ site, symbol }: Binding): CompilerSymbol | undefined {
  const isValue =
    symbol && (symbol.flags & (SymbolFlags.Function | SymbolFlags.Class | SymbolFlags.Variable)) !== 0;
  const isWhole = site.forms.some((form) => form === "namespace" || form === "require");
  return isValue && isWhole ? symbol : undefined;
}

/** `module.exports = crane`, whose users may use anything of it. */
function isAssignedToExports({ parent }: Node): boolean {
  if (!isBinaryExpression(parent)) return false;
  const { left } = parent;
  return isPropertyAccessExpression(left) && left.name.text === "exports";
}

/** A type inside a namespace: `Kit.Options` of the export `Kit`, named with the path to it. */
function nestedType(
  node: Node,
  exported: string,
  checker: Checker,
): Pick<Reference, "export" | "kind" | "end" | "node" | "symbol"> | undefined {
  const names = exported === "*" ? [] : [exported];
  for (let over = qualifiedOver(node); over; over = qualifiedOver(over.whole)) {
    const { whole, name } = over;
    const symbol = resolvedSymbol(checker, checker.getSymbolAtLocation(name));
    names.push(textOf(name));
    const isOpen =
      symbol && (symbol.flags & SymbolFlags.Module) !== 0 && (symbol.flags & SymbolFlags.Type) === 0;
    if (!isOpen) {
      const kind = referenceKind(whole, name);
      const isType = kind === "type" && names.length > 1;
      return isType ? { export: names.join("."), kind, end: whole.end, node: whole, symbol } : undefined;
    }
  }
  return undefined;
}

/** `Kit.Options` of `Kit`, in a type or in the heritage of an interface or of a class that implements it. */
function qualifiedOver(node: Node): { readonly whole: Node; readonly name: Node } | undefined {
  const { parent } = node;
  if (isQualifiedName(parent))
    return parent.left === node ? { whole: parent, name: parent.right } : undefined;
  if (!isPropertyAccessExpression(parent) || parent.expression !== node) return undefined;
  let outermost: Node = parent;
  while (isPropertyAccessExpression(outermost.parent)) outermost = outermost.parent;
  const isHeritage = outermost.parent.kind === SyntaxKind.ExpressionWithTypeArguments;
  const { name } = outermost as Node & { name: Node };
  return isHeritage && kindOf(name) === "type" ? { whole: parent, name: parent.name } : undefined;
}

/** `sums.sum`, `sums["sum"]` or, of types, `sums.Turn`. */
function accessOver(node: Node): { readonly whole: Node; readonly name: Node } | undefined {
  const { parent } = node;
  if (isPropertyAccessExpression(parent) && parent.expression === node)
    return { whole: parent, name: parent.name };
  if (isQualifiedName(parent) && parent.left === node) return { whole: parent, name: parent.right };
  if (isElementAccessExpression(parent) && parent.expression === node) {
    const { argumentExpression: name } = parent;
    if (name.kind === SyntaxKind.StringLiteral) return { whole: parent, name };
  }
  return undefined;
}

function typeReference(
  { site, node }: { readonly site: ImportSite; readonly node: Node },
  source: SourceFile,
  checker: Checker,
): Reference {
  const { qualifier, isTypeOf } = node as Node & { qualifier?: Node; isTypeOf?: boolean };
  let leftmost = qualifier;
  while (leftmost && isQualifiedName(leftmost)) leftmost = leftmost.left;
  const kind = isTypeOf ? "type query" : "type";
  return {
    site,
    export: leftmost ? textOf(leftmost) : "*",
    local: "",
    kind,
    start: node.getStart(source),
    end: node.end,
    node,
    symbol: leftmost && resolvedSymbol(checker, checker.getSymbolAtLocation(leftmost)),
    keepsName: true,
  };
}

/** `require("crane").lift`, `(await import("crane")).lift`. */
function callReference(
  { site, node }: { readonly site: ImportSite; readonly node: Node },
  program: Program,
  source: SourceFile,
  checker: Checker,
): Reference[] {
  let value = node;
  while (isAwaitExpression(value.parent) || isParenthesizedExpression(value.parent)) value = value.parent;
  const start = node.getStart(source);
  const inPlace = { site, local: "", start, keepsName: value !== node || !isRequireCall(node) };
  const access = accessOver(value);
  if (!access) {
    const kind = kindOf(value);
    const symbol = kind === "call" || kind === "new" ? assignedExport(node, program, checker) : undefined;
    return symbol
      ? [{ ...inPlace, export: EXPORT_ASSIGNMENT, kind, end: value.end, node: value, symbol }]
      : [];
  }
  const { whole, name } = access;
  const symbol = resolvedSymbol(checker, checker.getSymbolAtLocation(name));
  const kind = referenceKind(whole, name);
  return [{ ...inPlace, export: textOf(name), kind, end: whole.end, node: whole, symbol }];
}

/**
 * Returns the value of a module with `export =`, from the call that imports it. The compiler has no symbol for such a
 * call, so the file that declares its type is searched.
 */
function assignedExport(call: Node, program: Program, checker: Checker): CompilerSymbol | undefined {
  const type = checker.getTypeAtLocation(call);
  if (!type) return undefined;
  const parts = type.isIntersectionType() ? type.getTypes() : [type];
  const paths = parts.flatMap((part) => part.getSymbol()?.declarations.map(({ path }) => path) ?? []);
  for (const path of new Set(paths)) {
    const source = program.sourceFile(path);
    const module = source && checker.getSymbolAtLocation(source);
    const value = module && exportAssignmentOf(module);
    const symbol = value && resolvedSymbol(checker, value);
    if (symbol && checker.getTypeOfSymbol(symbol)?.id === type.id) return symbol;
  }
  return undefined;
}

function referenceKind(access: Node, name: Node): ReferenceKind {
  const { parent } = access;
  if (isExportSpecifier(parent) || parent.kind === SyntaxKind.ExportAssignment) return "export";
  if (isShorthandPropertyAssignment(parent)) return "shorthand";
  for (let at: Node = parent; isQualifiedName(at) || isTypeQueryNode(at); at = at.parent)
    if (isTypeQueryNode(at)) return "type query";
  return kindOf(name);
}

/** Whether a reference can be called or constructed, as far as the compiler knows. */
export function isCallable(program: Program, file: string, { kind, node }: Reference): boolean {
  if (kind === "call" || kind === "new" || kind === "extend" || kind === "instanceof") return true;
  const checker = program.checkerFor(file);
  const type = checker?.getTypeAtLocation(node);
  return checker !== undefined && type !== undefined && hasSignatures(checker, type);
}

/** Whether a module is, or may be, a function or class. */
export function isCallableModule(program: Program, file: string, { offset }: ImportSite): boolean {
  const checker = program.checkerFor(file);
  // One past the opening quote, because the symbol belongs to the specifier.
  const module = checker?.getSymbolAtPosition(file, offset + 1);
  if (!checker || !module) return true;
  const moduleExport = exportAssignmentOf(module);
  const type = moduleExport && checker.getTypeOfSymbol(aliasTarget(checker, moduleExport));
  return type !== undefined && hasSignatures(checker, type);
}

function hasSignatures(checker: Checker, type: Type): boolean {
  const kinds = [SignatureKind.Call, SignatureKind.Construct];
  return (
    (type.flags & TypeFlags.Any) !== 0 ||
    kinds.some((kind) => checker.getSignaturesOfType(type, kind).length > 0)
  );
}

function textOf(node: Node): string {
  return (node as Node & { text?: string }).text ?? node.getText();
}

/** Returns what a name refers to. In `{ name }` and `export { name }`, the compiler has another symbol for it. */
function localSymbolOf(
  checker: Checker,
  { parent }: Node,
  symbol: CompilerSymbol | undefined,
): CompilerSymbol | undefined {
  if (isShorthandPropertyAssignment(parent)) return checker.getShorthandAssignmentValueSymbol(parent);
  return isExportSpecifier(parent) ? checker.getExportSpecifierLocalTargetSymbol(parent) : symbol;
}
