import type { Program } from "../compiler/program.ts";
import { aliasTarget, resolvedSymbol } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isAwaitExpression,
  isBindingElement,
  isCallExpression,
  isElementAccessExpression,
  isExportSpecifier,
  isIdentifier,
  isImportDeclaration,
  isImportEqualsDeclaration,
  isImportTypeNode,
  isNamespaceImport,
  isObjectBindingPattern,
  isParenthesizedExpression,
  isPropertyAccessExpression,
  isQualifiedName,
  isShorthandPropertyAssignment,
  isTypeQueryNode,
  isVariableDeclaration,
  type Node,
  SignatureKind,
  type SourceFile,
  SymbolFlags,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { UseKind } from "../documents/survey-document.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { inMetadata, jsxReferences } from "./hidden-references.ts";
import { kindOf } from "./uses.ts";

/**
 * What a reference does. Beyond uses, it may name a type by its value, re-export a name, be a shorthand property, name
 * a class that the compiler writes into the metadata of a decorated declaration, or be a factory that JSX calls.
 */
export type ReferenceKind = UseKind | "type query" | "export" | "shorthand" | "metadata" | "jsx";

/** One place in a file that refers to something imported. */
export interface Reference {
  readonly site: ImportSite;
  /** Its exported name; `*` for the module itself, and `export=` for a module that is one value. */
  readonly export: string;
  /** Its local name; none for a type in `import("…")`. */
  readonly local: string;
  readonly kind: ReferenceKind;
  /** Range of the source: `sum`, or `sums.sum` of a namespace. */
  readonly start: number;
  readonly end: number;
  /** The whole written text. */
  readonly node: Node;
  /** The symbol it resolves to, following aliases. */
  readonly symbol: CompilerSymbol | undefined;
}

/** A local name that an import introduces. */
export interface Binding {
  readonly site: ImportSite;
  readonly export: string;
  readonly local: string;
  readonly node: Node;
  /** Whether the import declares it as a type. */
  readonly isTypeOnly: boolean;
  readonly symbol: CompilerSymbol | undefined;
}

/** What some imports introduce, and where the file refers to it. */
export interface ImportedInFile {
  readonly bindings: readonly Binding[];
  readonly references: readonly Reference[];
  /** Ranges of the import statements, by site. */
  readonly statements: ReadonlyMap<ImportSite, { readonly start: number; readonly end: number }>;
  /** All names in the file outside its imports, with the number of places. */
  readonly names: ReadonlyMap<string, number>;
}

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
  const nodes = fileNames.mentions;
  const meanings = nodes.length > 0 ? checker.getSymbolAtLocation(nodes) : [];
  const references = nodes.flatMap((node, index): Reference[] => {
    const symbol = localSymbolOf(checker, node, meanings[index]);
    const binding = symbol && byId.get(symbol.id);
    return binding ? [referenceOf(node, binding, source, checker)] : [];
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
      ...fileNames.importCalls.flatMap((call) => callReference(call, source, checker)),
    ].sort((left, right) => left.start - right.start),
    statements: fileNames.statements,
    names: fileNames.names,
  };
}

/** Names bound by imports, and identifiers that may refer to them. */
class FileNames {
  readonly bound: Omit<Binding, "symbol">[] = [];
  readonly mentions: Node[] = [];
  readonly importCalls: { readonly site: ImportSite; readonly node: Node }[] = [];
  readonly importTypes: { readonly site: ImportSite; readonly node: Node }[] = [];
  readonly statements = new Map<ImportSite, { readonly start: number; readonly end: number }>();
  readonly names = new Map<string, number>();
  readonly #sites: ReadonlyMap<number, ImportSite>;
  readonly #source: SourceFile;

  constructor(source: SourceFile, sites: ReadonlyMap<number, ImportSite>) {
    this.#source = source;
    this.#sites = sites;
    const identifiers: (Node & { readonly text: string })[] = [];
    const visit = (node: Node): void => {
      if (isIdentifier(node)) {
        if (isName(node)) this.names.set(node.text, (this.names.get(node.text) ?? 0) + 1);
        identifiers.push(node);
      }
      this.#take(node);
      // Names of an import become available again when it is removed.
      if (!isImportDeclaration(node) || !this.#siteAt(node.moduleSpecifier)) node.forEachChild(visit);
    };
    source.forEachChild(visit);
    const locals = new Set(this.bound.map(({ local }) => local));
    const declared = new Set(this.bound.map(({ node }) => node));
    this.mentions = identifiers.filter(
      (node) => locals.has(node.text) && !declared.has(node) && mayRefer(node),
    );
  }

  #take(node: Node): void {
    if (isImportDeclaration(node)) this.#takeImport(node);
    else if (isImportEqualsDeclaration(node)) {
      const { moduleReference, name } = node as Node & {
        moduleReference: Node & { expression?: Node };
        name: Node & { text: string };
      };
      const site = this.#siteAt(moduleReference.expression);
      if (site) this.bound.push({ site, export: "*", local: name.text, node: name, isTypeOnly: false });
    } else if (isVariableDeclaration(node)) this.#takeVariable(node);
    else if (isCallExpression(node)) {
      const site = this.#siteAt(node.arguments[0]);
      if (!site) return;
      const callback = callbackOfThen(node);
      if (callback) this.#bindPattern(site, callback);
      else this.importCalls.push({ site, node });
    } else if (isImportTypeNode(node)) {
      const { argument } = node as Node & { argument: Node & { literal?: Node } };
      const site = this.#siteAt(argument.literal);
      if (site) this.importTypes.push({ site, node });
    }
  }

  #takeImport(node: Node): void {
    const { moduleSpecifier, importClause } = node as Node & {
      moduleSpecifier: Node;
      importClause?: Node & {
        name?: Node & { text: string };
        namedBindings?: Node;
        isTypeOnly?: boolean;
        phaseModifier?: SyntaxKind;
      };
    };
    const site = this.#siteAt(moduleSpecifier);
    if (site) this.statements.set(site, { start: node.getStart(this.#source), end: node.end });
    if (!site || !importClause) return;
    const isWholeType =
      importClause.isTypeOnly === true || importClause.phaseModifier === SyntaxKind.TypeKeyword;
    const add = (name: Node & { text: string }, exported: string, isTypeOnly: boolean) =>
      this.bound.push({ site, export: exported, local: name.text, node: name, isTypeOnly });
    if (importClause.name) add(importClause.name, "default", isWholeType);
    const { namedBindings } = importClause;
    if (!namedBindings) return;
    if (isNamespaceImport(namedBindings)) {
      add((namedBindings as Node & { name: Node & { text: string } }).name, "*", isWholeType);
      return;
    }
    const { elements } = namedBindings as unknown as {
      elements: readonly (Node & {
        name: Node & { text: string };
        propertyName?: Node & { text: string };
        isTypeOnly?: boolean;
      })[];
    };
    for (const { name, propertyName, isTypeOnly } of elements)
      add(name, (propertyName ?? name).text, isWholeType || isTypeOnly === true);
  }

  /** `const crane = require("crane")`, `const { lift } = await import("crane")`. */
  #takeVariable(node: Node): void {
    const { name, initializer } = node as Node & { name: Node; initializer?: Node };
    let value = initializer;
    while (value && (isAwaitExpression(value) || isParenthesizedExpression(value)))
      value = (value as Node & { expression: Node }).expression;
    if (!value || !isCallExpression(value)) return;
    const site = this.#siteAt(value.arguments[0]);
    if (site) this.#bindPattern(site, name);
  }

  /** `crane` or `{ lift }`, to which a module is assigned. */
  #bindPattern(site: ImportSite, name: Node): void {
    if (isIdentifier(name)) {
      this.bound.push({ site, export: "*", local: name.text, node: name, isTypeOnly: false });
      return;
    }
    if (!isObjectBindingPattern(name)) return;
    for (const element of name.elements) {
      if (!isBindingElement(element)) continue;
      const { name: bound, propertyName } = element as Node & {
        name?: Node;
        propertyName?: Node & { text?: string };
      };
      if (!bound || !isIdentifier(bound)) continue;
      const exported = propertyName?.text ?? bound.text;
      this.bound.push({ site, export: exported, local: bound.text, node: bound, isTypeOnly: false });
    }
  }

  #siteAt(specifier: Node | undefined): ImportSite | undefined {
    return specifier && this.#sites.get(specifier.getStart(this.#source));
  }
}

/** Returns the parameter of the callback in `import("crane").then((module) => …)`. */
function callbackOfThen(call: Node): Node | undefined {
  const access = call.parent;
  if (!isPropertyAccessExpression(access) || access.expression !== call || access.name.text !== "then")
    return undefined;
  const then = access.parent;
  if (!isCallExpression(then) || then.expression !== access) return undefined;
  const [callback] = then.arguments;
  const { parameters = [] } = (callback ?? {}) as { parameters?: readonly (Node & { name: Node })[] };
  return parameters[0]?.name;
}

/** Whether an identifier declares or refers to something in scope, rather than name a member. */
function isName(node: Node): boolean {
  const { parent } = node;
  if (isPropertyAccessExpression(parent)) return parent.name !== node;
  return !(isQualifiedName(parent) && parent.right === node);
}

/** Whether an identifier can refer to something, rather than name a member or declare. */
function mayRefer(node: Node): boolean {
  const { parent } = node;
  if (isPropertyAccessExpression(parent)) return parent.name !== node;
  if (isQualifiedName(parent)) return parent.right !== node;
  for (let at: Node | undefined = parent; at; at = at.parent) if (isImportDeclaration(at)) return false;
  if (isExportSpecifier(parent)) return (parent.propertyName ?? parent.name) === node;
  if (isShorthandPropertyAssignment(parent)) return true;
  return !("name" in parent && parent.name === node);
}

function referenceOf(node: Node, binding: Binding, source: SourceFile, checker: Checker): Reference {
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
    const value = moduleValue(binding);
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
  return isValue && site.forms.includes("namespace") ? symbol : undefined;
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
  };
}

/** `require("crane").lift`, `(await import("crane")).lift`. */
function callReference(
  { site, node }: { readonly site: ImportSite; readonly node: Node },
  source: SourceFile,
  checker: Checker,
): Reference[] {
  let value = node;
  while (isAwaitExpression(value.parent) || isParenthesizedExpression(value.parent)) value = value.parent;
  const access = accessOver(value);
  if (!access) return [];
  const { whole, name } = access;
  const symbol = resolvedSymbol(checker, checker.getSymbolAtLocation(name));
  const start = node.getStart(source);
  const kind = referenceKind(whole, name);
  return [{ site, export: textOf(name), local: "", kind, start, end: whole.end, node: whole, symbol }];
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
  const moduleExport = checker.getMemberInModuleExports(module, "export=");
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
