import { isIdentifierName, printedName } from "../types/writing/type-text.ts";
import { stringLiteral } from "../written-text.ts";
import type { TagSource } from "./jsdoc.ts";
import { nodeAt, nodesAt, type SyntaxNode } from "./syntax-node.ts";

function typeImports(types: readonly SyntaxNode[], source: TagSource): readonly string[] {
  const named = types.filter(({ type }) => type === "ImportSpecifier");
  const namespaces = types.filter(({ type }) => type !== "ImportSpecifier");
  return [
    ...namespaces.map(source),
    ...(named.length > 0
      ? [`{ ${named.map((type) => source(type).replace(/^type /, "")).join(", ")} }`]
      : []),
  ];
}

function bindingOf(specifier: SyntaxNode, source: TagSource): string {
  const name = source(nodeAt(specifier, "imported"));
  const local = source(nodeAt(specifier, "local"));
  return name === local ? name : `${name}: ${local}`;
}

function exportedName(node: SyntaxNode | undefined): string {
  return String(node?.["name"] ?? node?.["value"] ?? "");
}

function access(name: string): string {
  return isIdentifierName(name) ? `.${name}` : `[${stringLiteral(name)}]`;
}

/** Modules can import properties of `exports` by name. */
export function exportStatement(name: string, value: string): string {
  return `exports${access(name)} = ${isIdentifierName(value) ? printedName(value) : value};`;
}

export function declaredNames(declaration: SyntaxNode): readonly string[] {
  const owners =
    declaration.type === "VariableDeclaration" ? nodesAt(declaration, "declarations") : [declaration];
  return owners.map((owner) => exportedName(nodeAt(owner, "id")));
} /** Writes an import in JavaScript; types as comments. */
export function importLines(node: SyntaxNode, source: TagSource, isModule: boolean): readonly string[] {
  const from = source(nodeAt(node, "source"));
  const isType = (specifier: SyntaxNode) =>
    node["importKind"] === "type" || specifier["importKind"] === "type";
  const specifiers = nodesAt(node, "specifiers");
  const values = specifiers.filter((specifier) => !isType(specifier));
  return [
    ...typeImports(specifiers.filter(isType), source).map((names) => `/** @import ${names} from ${from} */`),
    ...(specifiers.length > 0 && values.length === 0 ? [] : valueImports(node, values, source, isModule)),
  ];
}

function valueImports(
  node: SyntaxNode,
  values: readonly SyntaxNode[],
  source: TagSource,
  isModule: boolean,
): readonly string[] {
  const from = source(nodeAt(node, "source"));
  if (values.length === 0) return [isModule ? source(node) : `require(${from});`];
  const named = values.filter(({ type }) => type === "ImportSpecifier");
  const standard = values.find(({ type }) => type === "ImportDefaultSpecifier");
  const namespace = values.find(({ type }) => type === "ImportNamespaceSpecifier");
  const nameOf = (specifier: SyntaxNode | undefined) => source(specifier && nodeAt(specifier, "local"));
  if (!isModule) {
    const names = [
      ...(standard ? [`default: ${nameOf(standard)}`] : []),
      ...named.map((specifier) => bindingOf(specifier, source)),
    ];
    return [
      ...(namespace ? [`const ${nameOf(namespace)} = require(${from});`] : []),
      ...(names.length > 0 ? [`const { ${names.join(", ")} } = require(${from});`] : []),
    ];
  }
  const list = named.map((specifier) => source(specifier).replace(/^type /, ""));
  const parts = [
    ...(standard ? [nameOf(standard)] : []),
    ...(namespace ? [source(namespace)] : []),
    ...(list.length > 0 ? [`{ ${list.join(", ")} }`] : []),
  ];
  return [`import ${parts.join(", ")} from ${from};`];
}

/** Writes an export of names in JavaScript; `undefined` if it stays as it is. */
export function exportLines(
  node: SyntaxNode,
  source: TagSource,
  isModule: boolean,
): readonly string[] | undefined {
  const module = nodeAt(node, "source");
  const from = source(module);
  const specifiers = nodesAt(node, "specifiers");
  const nameOf = (specifier: SyntaxNode, key: string) => exportedName(nodeAt(specifier, key));
  if (node["exportKind"] === "type")
    return specifiers.map(
      (specifier) =>
        `/** @typedef {import(${from}).${nameOf(specifier, "local")}} ${nameOf(specifier, "exported")} */`,
    );
  if (isModule) return undefined;
  return specifiers.map((specifier) => {
    const name = nameOf(specifier, "local");
    return exportStatement(nameOf(specifier, "exported"), module ? `require(${from})${access(name)}` : name);
  });
}
