import { parse } from "../parser/parse.ts";
import { childrenOf, nodeAt, nodesAt, type SyntaxNode } from "./syntax-node.ts";

/** How source refers to a name that it does not declare: as a type only, or as a value too. */
export type ReferenceUse = "type" | "value";

/** Returns the names that TypeScript source refers to and does not declare. */
export function referencesIn(text: string): ReadonlyMap<string, ReferenceUse> {
  const { program } = parse("source.ts", text, { lang: "ts" });
  const search = new ReferenceSearch();
  search.block(program as unknown as SyntaxNode, undefined);
  return search.references;
}

/** Names that are declared in a place, and in the places around it. */
interface Scope {
  readonly names: ReadonlySet<string>;
  readonly outer: Scope | undefined;
}

class ReferenceSearch {
  readonly references = new Map<string, ReferenceUse>();

  /** Visits the statements of a block, whose declarations count everywhere in it. */
  block(node: SyntaxNode, outer: Scope | undefined): void {
    const statements = nodesAt(node, "body");
    const scope = { names: new Set(statements.flatMap(declaredNames)), outer };
    for (const statement of statements) this.visit(statement, scope);
  }

  visit(node: SyntaxNode, scope: Scope): void {
    const special = SPECIAL[node.type];
    if (special) special(this, node, scope);
    else this.children(node, scope);
  }

  children(node: SyntaxNode, scope: Scope): void {
    for (const child of childrenOf(node)) this.visit(child, scope);
  }

  /** Visits some properties of a node. */
  properties(node: SyntaxNode, keys: readonly string[], scope: Scope): void {
    for (const key of keys) {
      const child = nodeAt(node, key);
      if (child) this.visit(child, scope);
      for (const item of nodesAt(node, key)) this.visit(item, scope);
    }
  }

  refer(name: unknown, use: ReferenceUse, scope: Scope | undefined): void {
    for (let place = scope; place; place = place.outer) if (place.names.has(String(name))) return;
    if (this.references.get(String(name)) !== "value") this.references.set(String(name), use);
  }

  /** Refers to the first name of `outside.Crane.Load`. */
  entity(node: SyntaxNode | undefined, scope: Scope): void {
    if (node?.type === "Identifier") this.refer(node["name"], "type", scope);
    else if (node?.type === "TSQualifiedName") this.entity(nodeAt(node, "left"), scope);
    else if (node) this.entity(nodeAt(node, "object"), scope);
  }

  /** Visits what has type parameters and parameters of its own. */
  within(node: SyntaxNode, outer: Scope): void {
    const parameters = nodesAt(node, "params");
    const scope = {
      names: new Set([...typeParameterNames(node), ...parameters.flatMap(patternNames)]),
      outer,
    };
    this.properties(
      node,
      ["typeParameters", "params", "returnType", "extends", "typeAnnotation", "superTypeArguments"],
      scope,
    );
    const body = nodeAt(node, "body");
    if (body?.type === "BlockStatement") this.block(body, scope);
    else if (body) this.visit(body, scope);
  }
}

type Visit = (search: ReferenceSearch, node: SyntaxNode, scope: Scope) => void;

const nothing: Visit = () => {};
const inFunction: Visit = (search, node, scope) => search.within(node, scope);

/** A member whose key is a reference only if it is computed. */
function keyed(use: ReferenceUse): Visit {
  return (search, node, scope) => {
    const key = nodeAt(node, "key");
    if (node["computed"] === true && key?.type === "Identifier") search.refer(key["name"], use, scope);
    else if (node["computed"] === true && key) search.visit(key, scope);
    if (FUNCTION_MEMBERS.has(node.type)) search.within(node, scope);
    else search.properties(node, ["value", "typeAnnotation", "decorators"], scope);
  };
}

const FUNCTION_MEMBERS: ReadonlySet<string> = new Set(["TSMethodSignature"]);

const inClass: Visit = (search, node, outer) => {
  const scope = { names: new Set(typeParameterNames(node)), outer };
  search.properties(
    node,
    ["typeParameters", "superClass", "superTypeArguments", "implements", "body", "decorators"],
    scope,
  );
};

const asType =
  (key: string): Visit =>
  (search, node, scope) => {
    search.entity(nodeAt(node, key), scope);
    search.properties(node, ["typeArguments"], scope);
  };

/** Nodes of which not every child is a reference, or which declare names. */
const SPECIAL: Readonly<Record<string, Visit>> = {
  Identifier: (search, node, scope) => {
    search.refer(node["name"], "value", scope);
    search.properties(node, ["typeAnnotation"], scope);
  },
  MemberExpression: (search, node, scope) =>
    search.properties(node, node["computed"] === true ? ["object", "property"] : ["object"], scope),
  MetaProperty: nothing,
  BreakStatement: nothing,
  ContinueStatement: nothing,
  LabeledStatement: (search, node, scope) => search.properties(node, ["body"], scope),
  ImportDeclaration: nothing,
  ExportAllDeclaration: nothing,
  ExportNamedDeclaration: (search, node, scope) => {
    if (nodeAt(node, "source")) return;
    search.properties(node, ["declaration"], scope);
    for (const specifier of nodesAt(node, "specifiers"))
      search.refer(
        nodeAt(specifier, "local")?.["name"],
        node["exportKind"] === "type" || specifier["exportKind"] === "type" ? "type" : "value",
        scope,
      );
  },
  Property: keyed("value"),
  PropertyDefinition: keyed("value"),
  AccessorProperty: keyed("value"),
  MethodDefinition: keyed("value"),
  TSPropertySignature: keyed("type"),
  TSMethodSignature: keyed("type"),
  FunctionDeclaration: inFunction,
  FunctionExpression: inFunction,
  ArrowFunctionExpression: inFunction,
  TSDeclareFunction: inFunction,
  TSEmptyBodyFunctionExpression: inFunction,
  TSCallSignatureDeclaration: inFunction,
  TSConstructSignatureDeclaration: inFunction,
  TSFunctionType: inFunction,
  TSConstructorType: inFunction,
  TSInterfaceDeclaration: inFunction,
  TSTypeAliasDeclaration: inFunction,
  ClassDeclaration: inClass,
  ClassExpression: inClass,
  BlockStatement: (search, node, scope) => search.block(node, scope),
  CatchClause: (search, node, outer) => {
    const parameter = nodeAt(node, "param");
    const scope = { names: new Set(parameter ? patternNames(parameter) : []), outer };
    search.properties(node, ["param", "body"], scope);
  },
  ForStatement: (search, node, scope) => search.children(node, inLoop(node, "init", scope)),
  ForOfStatement: (search, node, scope) => search.children(node, inLoop(node, "left", scope)),
  ForInStatement: (search, node, scope) => search.children(node, inLoop(node, "left", scope)),
  TSTypeParameter: (search, node, scope) => search.properties(node, ["constraint", "default"], scope),
  TSTypeReference: asType("typeName"),
  TSTypeQuery: asType("exprName"),
  TSClassImplements: asType("expression"),
  TSInterfaceHeritage: asType("expression"),
  TSImportType: (search, node, scope) => search.properties(node, ["typeArguments"], scope),
  TSTypePredicate: (search, node, scope) => search.properties(node, ["typeAnnotation"], scope),
  TSNamedTupleMember: (search, node, scope) => search.properties(node, ["elementType"], scope),
  TSIndexSignature: (search, node, scope) => {
    for (const parameter of nodesAt(node, "parameters"))
      search.properties(parameter, ["typeAnnotation"], scope);
    search.properties(node, ["typeAnnotation"], scope);
  },
  TSMappedType: (search, node, outer) => {
    const key = nodeAt(node, "key");
    const scope = { names: new Set([String(key?.["name"])]), outer };
    search.properties(node, ["constraint", "nameType", "typeAnnotation"], scope);
  },
  TSConditionalType: (search, node, outer) => {
    search.properties(node, ["checkType", "falseType"], outer);
    const scope = { names: new Set(inferredNames(nodeAt(node, "extendsType"))), outer };
    search.properties(node, ["extendsType", "trueType"], scope);
  },
};

function inLoop(node: SyntaxNode, key: string, outer: Scope): Scope {
  const declaration = nodeAt(node, key);
  return { names: new Set(declaration ? declaredNames(declaration) : []), outer };
}

/** Returns the names that a statement declares. */
function declaredNames(statement: SyntaxNode): readonly string[] {
  const declaration = nodeAt(statement, "declaration");
  if (declaration) return declaredNames(declaration);
  if (statement.type === "ImportDeclaration")
    return nodesAt(statement, "specifiers").map((specifier) => String(nodeAt(specifier, "local")?.["name"]));
  if (statement.type === "VariableDeclaration")
    return nodesAt(statement, "declarations").flatMap((declared) => patternNames(nodeAt(declared, "id")));
  const id = nodeAt(statement, "id");
  return id ? [String(id["name"])] : [];
}

/** Returns the names that a pattern binds: a parameter, or the left side of a declaration. */
export function patternNames(pattern: SyntaxNode | undefined): readonly string[] {
  switch (pattern?.type) {
    case "Identifier":
      return [String(pattern["name"])];
    case "RestElement":
      return patternNames(nodeAt(pattern, "argument"));
    case "AssignmentPattern":
      return patternNames(nodeAt(pattern, "left"));
    case "ArrayPattern":
      return nodesAt(pattern, "elements").flatMap(patternNames);
    case "ObjectPattern":
      return nodesAt(pattern, "properties").flatMap((property) =>
        patternNames(nodeAt(property, "value") ?? property),
      );
    default:
      return [];
  }
}

function typeParameterNames(node: SyntaxNode): readonly string[] {
  return nodesAt(nodeAt(node, "typeParameters"), "params").map((parameter) => {
    const name = nodeAt(parameter, "name");
    return String(name?.["name"] ?? parameter["name"]);
  });
}

function inferredNames(node: SyntaxNode | undefined): readonly string[] {
  if (!node) return [];
  const parameter = node.type === "TSInferType" ? nodeAt(node, "typeParameter") : undefined;
  const ownNames = parameter ? [String(nodeAt(parameter, "name")?.["name"])] : [];
  return [...ownNames, ...childrenOf(node).flatMap(inferredNames)];
}

/** Whether the source of a type mentions the type of `this`. */
export function mentionsThis(type: string): boolean {
  const { program } = parse("source.ts", `type Source = ${type};`, { lang: "ts" });
  const isThis = (node: SyntaxNode): boolean => node.type === "TSThisType" || childrenOf(node).some(isThis);
  return isThis(program as unknown as SyntaxNode);
}

/** Returns the private names, without `#`, that the members of a class refer to. */
export function privateNamesIn(members: string): ReadonlySet<string> {
  const { program } = parse("source.ts", `class Source {\n${members}\n}`, { lang: "ts" });
  const names = new Set<string>();
  const search = (node: SyntaxNode): void => {
    if (node.type === "PrivateIdentifier") names.add(String(node["name"]));
    childrenOf(node).forEach(search);
  };
  search(program as unknown as SyntaxNode);
  return names;
}
