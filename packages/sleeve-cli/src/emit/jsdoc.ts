import { nodeAt, nodesAt, type SyntaxNode } from "./syntax-node.ts";

/** Returns the source of a node. */
export type TagSource = (node: SyntaxNode | undefined) => string;

/** Returns a documentation comment of some lines. */
export function docLines(lines: readonly string[]): string {
  const [onlyLine = ""] = lines;
  if (lines.length === 1) return `/** ${onlyLine} */`;
  return ["/**", ...lines.map((line) => ` * ${line}`), " */"].join("\n");
}

/** Returns the tags that declare an interface or a type alias. */
export function tagsOfType(
  node: SyntaxNode,
  source: TagSource,
  memberDoc: (member: SyntaxNode) => string,
): readonly string[] {
  const name = source(nodeAt(node, "id"));
  const alias = nodeAt(node, "typeAnnotation");
  const body = nodeAt(node, "body");
  return [
    ...typeParameterTags(node, source),
    `@typedef {${alias ? typeIn(alias, source) : "object"}} ${name}`,
    ...(alias ? [] : nodesAt(body, "body").map((member) => propertyTag(member, source, memberDoc(member)))),
  ];
}

function propertyTag(member: SyntaxNode, source: TagSource, doc: string): string {
  const key = source(nodeAt(member, "key"));
  const type =
    member.type === "TSMethodSignature"
      ? functionType(member, source)
      : (annotationIn(nodeAt(member, "typeAnnotation"), source) ?? "unknown");
  return `@property {${type}} ${member["optional"] === true ? `[${key}]` : key}${doc === "" ? "" : ` ${doc}`}`;
}

function functionType(node: SyntaxNode, source: TagSource): string {
  const parameters = nodesAt(node, "params").map(source);
  return oneLine(
    `(${parameters.join(", ")}) => ${annotationIn(nodeAt(node, "returnType"), source) ?? "void"}`,
  );
}

/** Returns the tags of a class: its type parameters, its base and the interfaces that it implements. */
export function tagsOfClass(node: SyntaxNode, source: TagSource): readonly string[] {
  const base = nodeAt(node, "superClass");
  const typeArguments = nodeAt(node, "superTypeArguments");
  return [
    ...typeParameterTags(node, source),
    ...(base && typeArguments ? [`@extends {${source(base)}${oneLine(source(typeArguments))}}`] : []),
    ...nodesAt(node, "implements").map((target) => `@implements {${oneLine(source(target))}}`),
  ];
}

/** Returns the tags of a function: its type parameters, parameters and result. */
export function tagsOfFunction(node: SyntaxNode, source: TagSource): readonly string[] {
  const returned = annotationIn(nodeAt(node, "returnType"), source);
  return [
    ...typeParameterTags(node, source),
    ...nodesAt(node, "params").map((parameter) => parameterTag(parameter, source)),
    ...(returned === undefined ? [] : [`@returns {${returned}}`]),
  ];
}

function parameterTag(parameter: SyntaxNode, source: TagSource): string {
  const isRest = parameter.type === "RestElement";
  const declared = nodeAt(parameter, isRest ? "argument" : "left") ?? parameter;
  const type =
    annotationIn(nodeAt(parameter, "typeAnnotation") ?? nodeAt(declared, "typeAnnotation"), source) ??
    "unknown";
  const name = String(declared["name"] ?? "options");
  if (name === "this") return `@this {${type}}`;
  const isOptional = declared["optional"] === true || parameter.type === "AssignmentPattern";
  // Without dots, the type is that of the whole list.
  const isPlainList = isRest && /^\w+\[\]$/.test(type);
  return `@param {${isPlainList ? `...${type.slice(0, -2)}` : type}} ${isOptional ? `[${name}]` : name}`;
}

export function typeParameterTags(node: SyntaxNode, source: TagSource): readonly string[] {
  return nodesAt(nodeAt(node, "typeParameters"), "params").map((parameter) => {
    const name = source(nodeAt(parameter, "name"));
    const constraint = nodeAt(parameter, "constraint");
    const standard = nodeAt(parameter, "default");
    const type = constraint ? `{${typeIn(constraint, source)}} ` : "";
    return `@template ${type}${standard ? `[${name}=${typeIn(standard, source)}]` : name}`;
  });
}

function annotationIn(node: SyntaxNode | undefined, source: TagSource): string | undefined {
  if (!node) return undefined;
  return typeIn(node.type === "TSTypeAnnotation" ? (nodeAt(node, "typeAnnotation") ?? node) : node, source);
}

function typeIn(node: SyntaxNode, source: TagSource): string {
  return oneLine(source(node));
}

/** A type within a comment is on one line, has no comments of its own, and does not end the comment. */
export function oneLine(type: string): string {
  return type
    .replace(/\/\*[\s\S]*?\*\//g, " ")
    .replace(/\s*\n\s*/g, " ")
    .replace(/^\s*\|/, "")
    .replaceAll("*/", "* /")
    .trim();
}
