import MagicString from "magic-string";
import { parse } from "../parser/parse.ts";
import { docLines, oneLine, type TagSource, tagsOfClass, tagsOfFunction, tagsOfType } from "./jsdoc.ts";
import { originIn } from "./line-origins.ts";
import { declaredNames, exportLines, exportStatement, importLines } from "./module-syntax.ts";
import { isNode, nodeAt, nodesAt, type SyntaxNode } from "./syntax-node.ts";

/** JavaScript, and where its text comes from. */
export interface JavaScript {
  readonly text: string;
  /** Returns the offset in the TypeScript that an offset in the JavaScript comes from. */
  readonly originOf: (offset: number) => number;
}

export interface JavaScriptOptions {
  /** Whether the file is an ES module; otherwise it uses `require` and `exports`. */
  readonly isModule: boolean;
  /** Whether the file requests to be checked by the compiler. */
  readonly isChecked: boolean;
  /** Whether `export * from` makes a CommonJS module the other module itself. */
  readonly isItself: boolean;
}

/** Writes generated TypeScript as JavaScript, with the same types in comments. */
export function asJavaScript(text: string, options: JavaScriptOptions): JavaScript {
  const { program, comments } = parse("generated.ts", text, { lang: "ts" });
  const docs = new Map<number, DocComment>();
  for (const { type, value, start, end } of comments)
    if (type === "Block" && value.startsWith("*"))
      docs.set(end + text.slice(end).search(/\S|$/), { start, lines: linesIn(value) });
  const writer = new JavaScriptWriter(text, docs, options);
  return writer.write(program as unknown as SyntaxNode);
}

interface DocComment {
  readonly start: number;
  readonly lines: readonly string[];
}

function linesIn(comment: string): readonly string[] {
  const lines = comment
    .slice(1)
    .split("\n")
    .map((line) => line.trim().replace(/^\* ?/, ""));
  return lines.filter((line) => line !== "");
}

class JavaScriptWriter {
  readonly #source: TagSource;
  readonly #docs: ReadonlyMap<number, DocComment>;
  readonly #isModule: boolean;
  readonly #isItself: boolean;
  readonly #isChecked: boolean;
  readonly #out: MagicString;
  /** Statements of a CommonJS module that export what it declares. */
  readonly #exports: string[] = [];

  constructor(text: string, docs: ReadonlyMap<number, DocComment>, options: JavaScriptOptions) {
    this.#source = (node) => (node ? text.slice(node.start, node.end) : "");
    this.#docs = docs;
    this.#isModule = options.isModule;
    this.#isItself = options.isItself;
    this.#isChecked = options.isChecked;
    this.#out = new MagicString(text);
  }

  write(program: SyntaxNode): JavaScript {
    for (const statement of nodesAt(program, "body")) this.#topLevel(statement);
    if (this.#exports.length > 0) this.#out.append(`\n${this.#exports.join("\n")}\n`);
    const opening = [
      ...(this.#isChecked ? ["// @ts-check\n"] : []),
      ...(this.#isModule ? [] : ['"use strict";\n']),
    ];
    if (opening.length > 0) this.#out.prepend(`${opening.join("")}\n`);
    return { text: this.#out.toString(), originOf: originIn(this.#out) };
  }

  #topLevel(statement: SyntaxNode): void {
    switch (statement.type) {
      case "ImportDeclaration":
        this.#import(statement);
        break;
      case "ExportAllDeclaration":
        this.#exportAll(statement);
        break;
      case "ExportDefaultDeclaration":
        this.#exportDefault(statement);
        break;
      case "ExportNamedDeclaration":
        this.#export(statement);
        break;
      default:
        this.#statement(statement, statement.start);
    }
  }

  #import(node: SyntaxNode): void {
    const lines = importLines(node, this.#source, this.#isModule);
    this.#out.overwrite(node.start, node.end, lines.join("\n"));
  }

  #exportAll(node: SyntaxNode): void {
    if (this.#isModule) return;
    const required = `require(${this.#source(nodeAt(node, "source"))})`;
    this.#out.overwrite(
      node.start,
      node.end,
      this.#isItself ? `module.exports = ${required};` : `Object.assign(exports, ${required});`,
    );
  }

  #exportDefault(node: SyntaxNode): void {
    const value = nodeAt(node, "declaration");
    if (!value) return;
    if (!this.#isModule) {
      this.#out.overwrite(node.start, value.start, "exports.default = ");
    }
    this.#expression(value);
  }

  #export(node: SyntaxNode): void {
    const declaration = nodeAt(node, "declaration");
    if (!declaration) {
      this.#exportNames(node);
      return;
    }
    const isType = /^TS(?:Interface|TypeAlias)Declaration$/.test(declaration.type);
    if (isType || !this.#isModule) this.#out.remove(node.start, declaration.start);
    if (!isType && !this.#isModule)
      for (const name of declaredNames(declaration)) this.#exports.push(exportStatement(name, name));
    this.#statement(declaration, node.start);
  }

  #exportNames(node: SyntaxNode): void {
    const lines = exportLines(node, this.#source, this.#isModule);
    if (lines) this.#out.overwrite(node.start, node.end, lines.join("\n"));
  }

  /** @param start where the statement begins, with `export` */
  #statement(node: SyntaxNode, start: number): void {
    switch (node.type) {
      case "TSInterfaceDeclaration":
      case "TSTypeAliasDeclaration":
        this.#typedef(node, start);
        break;
      case "ClassDeclaration":
        this.#class(node, start);
        break;
      case "FunctionDeclaration":
        this.#document(start, tagsOfFunction(node, this.#source));
        this.#signature(node);
        this.#expression(node["body"]);
        break;
      case "TSDeclareFunction":
        this.#out.remove(start, node.end);
        break;
      case "VariableDeclaration":
        for (const declared of nodesAt(node, "declarations")) this.#variable(declared, start);
        break;
      default:
        this.#expression(node);
    }
  }

  #typedef(node: SyntaxNode, start: number): void {
    const doc = this.#docs.get(start);
    const memberDoc = (member: SyntaxNode) => this.#docs.get(member.start)?.lines.join(" ") ?? "";
    const lines = [...(doc?.lines ?? []), ...tagsOfType(node, this.#source, memberDoc)];
    this.#out.overwrite(doc?.start ?? start, node.end, docLines(lines));
  }

  #class(node: SyntaxNode, start: number): void {
    this.#document(start, tagsOfClass(node, this.#source));
    const body = nodeAt(node, "body");
    const id = nodeAt(node, "id");
    const base = nodeAt(node, "superClass");
    if (!body || !id) return;
    if (base) {
      this.#out.overwrite(id.end, base.start, " extends ");
      this.#out.overwrite(base.end, body.start, " ");
    } else this.#out.overwrite(id.end, body.start, " ");
    let overloads: SyntaxNode[] = [];
    for (const member of nodesAt(body, "body")) {
      const value = nodeAt(member, "value");
      if (member.type === "PropertyDefinition") this.#property(member);
      else if (value?.type === "TSEmptyBodyFunctionExpression") overloads.push(member);
      else if (value) {
        this.#method(member, value, overloads);
        overloads = [];
      }
    }
  }

  #property(member: SyntaxNode): void {
    const key = nodeAt(member, "key");
    const annotation = nodeAt(member, "typeAnnotation");
    if (!key) return;
    this.#out.remove(member.start, key.start);
    if (annotation) {
      this.#document(member.start, [`@type {${typeText(annotation, this.#source)}}`]);
      this.#out.remove(key.end, annotation.end);
    }
    this.#expression(member["value"]);
  }

  #method(member: SyntaxNode, value: SyntaxNode, overloads: readonly SyntaxNode[]): void {
    const [firstOverload] = overloads;
    const tags = [
      ...overloads.flatMap((overload) => [
        "@overload",
        ...tagsOfFunction(nodeAt(overload, "value") ?? overload, this.#source),
      ]),
      ...tagsOfFunction(value, this.#source),
    ];
    const doc = this.#docs.get(firstOverload?.start ?? member.start);
    const start = doc?.start ?? firstOverload?.start ?? member.start;
    if (start < member.start) this.#out.remove(start, member.start);
    const lines = [...(doc?.lines ?? []), ...tags];
    if (lines.length > 0) this.#out.appendLeft(member.start, `${docLines(lines)}\n`);
    this.#removeModifiers(member);
    this.#signature(value);
    this.#expression(value["body"]);
  }

  /** `override` and the like exist in TypeScript only. */
  #removeModifiers(member: SyntaxNode): void {
    const words = ["override", "accessibility"].filter((key) => member[key]);
    if (words.length === 0) return;
    const key = nodeAt(member, "key");
    const head = this.#source({ ...member, end: key?.start ?? member.start });
    const [modifiers = ""] = /^(?:(?:override|public|protected|private)\s+)+/.exec(head) ?? [];
    if (modifiers !== "") this.#out.remove(member.start, member.start + modifiers.length);
  }

  #variable(declared: SyntaxNode, start: number): void {
    const id = nodeAt(declared, "id");
    const annotation = id && nodeAt(id, "typeAnnotation");
    if (annotation) {
      this.#document(start, [`@type {${typeText(annotation, this.#source)}}`]);
      this.#out.remove(annotation.start, annotation.end);
    }
    this.#expression(declared["init"]);
  }

  /** Removes types from everything within an expression or statement. */
  #expression(part: unknown): void {
    if (Array.isArray(part)) for (const item of part) this.#expression(item);
    if (!isNode(part)) return;
    switch (part.type) {
      case "TSAsExpression":
        this.#cast(part, "type");
        break;
      case "TSSatisfiesExpression":
        this.#cast(part, "satisfies");
        break;
      case "TSNonNullExpression":
        this.#nonNull(part);
        break;
      case "VariableDeclaration":
        for (const declared of nodesAt(part, "declarations")) this.#variable(declared, part.start);
        break;
      case "ArrowFunctionExpression":
      case "FunctionExpression":
        this.#inlineTypes(part);
        this.#expression(part["params"]);
        this.#expression(part["body"]);
        break;
      case "ClassDeclaration":
      case "TSInterfaceDeclaration":
      case "TSTypeAliasDeclaration":
        this.#statement(part, part.start);
        break;
      default:
        this.#parts(part);
    }
  }

  #nonNull(node: SyntaxNode): void {
    const inner = nodeAt(node, "expression");
    if (inner) this.#out.remove(inner.end, node.end);
    this.#expression(inner);
  }

  #parts(node: SyntaxNode): void {
    const typeArguments = nodeAt(node, "typeArguments");
    if (typeArguments) this.#removeArguments(node, typeArguments);
    const isTypedCall = typeArguments !== undefined && node.type === "CallExpression";
    for (const [key, value] of Object.entries(node))
      if (key !== "typeArguments" && key !== "typeAnnotation" && !(isTypedCall && key === "callee"))
        this.#expression(value);
  }

  /** Calls with type arguments keep them, because the compiler may not infer them. */
  #removeArguments(node: SyntaxNode, typeArguments: SyntaxNode): void {
    const callee = nodeAt(node, "callee");
    if (node.type === "CallExpression" && callee?.type === "Identifier") {
      const name = this.#source(callee);
      const type = oneLine(`${name}${this.#source(typeArguments)}`);
      this.#out.overwrite(callee.start, callee.end, `/** @type {typeof ${type}} */ (${name})`);
    }
    this.#out.remove(typeArguments.start, typeArguments.end);
  }

  #cast(node: SyntaxNode, tag: "type" | "satisfies"): void {
    const inner = nodeAt(node, "expression");
    if (!inner) return;
    const type = this.#source(nodeAt(node, "typeAnnotation"));
    this.#out.appendLeft(node.start, `/** @${tag} {${oneLine(type)}} */ (`);
    this.#out.overwrite(inner.end, node.end, ")");
    this.#expression(inner);
  }

  /** Writes the types of a function within an expression beside its parameters. */
  #inlineTypes(node: SyntaxNode): void {
    for (const parameter of nodesAt(node, "params")) {
      const { annotation } = annotationOf(parameter);
      if (!annotation) continue;
      if (this.#removeThis(node, parameter)) {
        this.#out.appendLeft(node.start, `/** @this {${typeText(annotation, this.#source)}} */ `);
        continue;
      }
      this.#out.appendLeft(parameter.start, `/** @type {${typeText(annotation, this.#source)}} */ `);
      this.#removeAnnotation(parameter);
    }
    this.#removeTypes(node);
  }

  #signature(node: SyntaxNode): void {
    for (const parameter of nodesAt(node, "params")) {
      if (this.#removeThis(node, parameter)) continue;
      this.#removeAnnotation(parameter);
      this.#expression(parameter["right"]);
    }
    this.#removeTypes(node);
  }

  #removeAnnotation(parameter: SyntaxNode): void {
    const { owner, annotation } = annotationOf(parameter);
    if (annotation)
      this.#out.remove(owner["optional"] === true ? annotation.start - 1 : annotation.start, annotation.end);
  }

  #removeTypes(node: SyntaxNode): void {
    for (const key of ["returnType", "typeParameters"]) {
      const types = nodeAt(node, key);
      if (types) this.#out.remove(types.start, types.end);
    }
  }

  /** Removes a parameter `this`, and returns whether it is one. */
  #removeThis(owner: SyntaxNode, parameter: SyntaxNode): boolean {
    if (parameter.type !== "Identifier" || parameter["name"] !== "this") return false;
    const parameters = nodesAt(owner, "params");
    const next = parameters[parameters.indexOf(parameter) + 1];
    this.#out.remove(parameter.start, next?.start ?? parameter.end);
    return true;
  }

  /** Puts tags into the comment before a declaration. */
  #document(start: number, tags: readonly string[]): void {
    const doc = this.#docs.get(start);
    if (tags.length === 0) return;
    if (doc) this.#out.remove(doc.start, start);
    this.#out.appendLeft(start, `${docLines([...(doc?.lines ?? []), ...tags])}\n`);
  }
}

/** Returns what has the type of a parameter, and that type. */
function annotationOf(parameter: SyntaxNode): {
  readonly owner: SyntaxNode;
  readonly annotation: SyntaxNode | undefined;
} {
  const owner = nodeAt(parameter, "left") ?? parameter;
  const inner = nodeAt(owner, "argument");
  const annotation = nodeAt(owner, "typeAnnotation") ?? (inner && nodeAt(inner, "typeAnnotation"));
  return { owner, annotation };
}

function typeText(annotation: SyntaxNode, source: TagSource): string {
  return oneLine(source(nodeAt(annotation, "typeAnnotation") ?? annotation));
}
