import {
  isAwaitExpression,
  isBindingElement,
  isCallExpression,
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
  isVariableDeclaration,
  type Node,
  type SourceFile,
  SyntaxKind,
} from "../compiler/typescript.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { type Binding, FILE_SCOPE, type ImportStatement } from "./imported-names.ts";

/** Names bound by imports, and identifiers that may refer to them. */
export class FileNames {
  readonly bound: Omit<Binding, "symbol">[] = [];
  readonly mentions: Node[] = [];
  readonly importCalls: { readonly site: ImportSite; readonly node: Node }[] = [];
  readonly importTypes: { readonly site: ImportSite; readonly node: Node }[] = [];
  readonly statements = new Map<ImportSite, ImportStatement>();
  readonly names = new Map<string, number>();
  /** Names of modules in declarations that take names from them. */
  readonly #destructuredNames = new Set<Node>();
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
      if (!isImportDeclaration(node) || !this.#siteAt(node.moduleSpecifier)) node.forEachChild(visit);
    };
    source.forEachChild(visit);
    // Names of an import become available again when it is removed.
    for (const { site, local, node } of this.bound)
      if (this.statements.get(site)?.kind === "require" || isBindingElement(node.parent))
        this.#uncount(local);
    for (const name of this.#destructuredNames) this.#uncount(name.getText(this.#source));
    const locals = new Set(this.bound.map(({ local }) => local));
    const declared = new Set(this.bound.map(({ node }) => node));
    this.mentions = identifiers.filter(
      (node) =>
        locals.has(node.text) && !declared.has(node) && !this.#destructuredNames.has(node) && mayRefer(node),
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
    if (site) this.#takeStatement(site, "import", node);
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
    if (value && isIdentifier(value)) this.#takeDestructuring(node, name, value);
    if (!value || !isCallExpression(value)) return;
    const site = this.#siteAt(value.arguments[0]);
    if (!site) return;
    this.#bindPattern(site, name);
    const isPlain = value === initializer && isRequireCall(value) && isPlainPattern(name);
    if (isPlain && isPlainStatement(node.parent.parent)) this.#takeStatement(site, "require", node);
  }

  /** `const { lift } = crane;`, where the file binds the module as `crane`. */
  #takeDestructuring(node: Node, pattern: Node, module: Node & { readonly text: string }): void {
    const { declarations } = node.parent as Node & { declarations?: readonly Node[] };
    const statement = node.parent.parent;
    if (declarations?.length !== 1 || statement.parent !== this.#source || !isPlainStatement(statement))
      return;
    if (!isObjectBindingPattern(pattern) || !isPlainPattern(pattern)) return;
    const binding = this.bound.find(({ export: name, local }) => name === "*" && local === module.text);
    const bound = binding && this.statements.get(binding.site);
    if (!binding || bound?.scope !== FILE_SCOPE) return;
    this.#destructuredNames.add(module);
    this.#bindPattern(binding.site, pattern);
    const destructured = [...bound.destructured, this.#rangeOf(statement)];
    this.statements.set(binding.site, { ...bound, destructured });
  }

  #uncount(name: string): void {
    this.names.set(name, (this.names.get(name) ?? 1) - 1);
  }

  #takeStatement(site: ImportSite, kind: ImportStatement["kind"], node: Node): void {
    const statement = kind === "import" ? node : node.parent.parent;
    const { declarations } = node.parent as Node & { declarations?: readonly Node[] };
    const isAlone = kind === "import" || declarations?.length === 1;
    this.statements.set(site, {
      kind,
      ...this.#rangeOf(node),
      statement: isAlone ? this.#rangeOf(statement) : undefined,
      scope: statement.parent === this.#source ? FILE_SCOPE : statement.parent.getStart(this.#source),
      destructured: [],
    });
  }

  #rangeOf(node: Node): { readonly start: number; readonly end: number } {
    return { start: node.getStart(this.#source), end: node.end };
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

/**
 * Whether a statement declares variables for its block only: not `export const …`, whose names other files import, not the
 * head of a loop, and not in a clause of `switch`, whose names other clauses can use.
 */
function isPlainStatement(statement: Node): boolean {
  const { kind, parent, modifiers = [] } = statement as Node & { modifiers?: readonly Node[] };
  const isInClause = parent.kind === SyntaxKind.CaseClause || parent.kind === SyntaxKind.DefaultClause;
  return kind === SyntaxKind.VariableStatement && modifiers.length === 0 && !isInClause;
}

/** `require("crane")`, and not `module.require("crane")`. */
export function isRequireCall(call: Node): boolean {
  const { expression } = call as Node & { expression?: Node };
  return expression !== undefined && isIdentifier(expression) && expression.text === "require";
}

/** `crane`, or `{ lift, turn: rotate }` without defaults, nested patterns and a rest. */
function isPlainPattern(name: Node): boolean {
  if (isIdentifier(name)) return true;
  if (!isObjectBindingPattern(name)) return false;
  return name.elements.every((element) => {
    const parts = element as Node & { name?: Node; initializer?: Node; dotDotDotToken?: Node };
    const { name: bound, initializer, dotDotDotToken } = parts;
    return bound !== undefined && isIdentifier(bound) && !initializer && !dotDotDotToken;
  });
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
