import MagicString from "magic-string";
import { parse } from "../../parser/parse.ts";

/** A node of the syntax tree, as far as it is read here. */
interface SyntaxNode {
  readonly type: string;
  readonly start: number;
  readonly end: number;
  readonly [key: string]: unknown;
}

/**
 * Writes generated TypeScript as JavaScript with the same types as JSDoc.
 *
 * @param isModule whether the file is an ES module; otherwise it uses `require` and `module.exports`
 */
export function asJavaScript(text: string, isModule: boolean): string {
  const { program } = parse("generated.ts", text, { lang: "ts" });
  const writer = new JavaScriptWriter(text);
  writer.program(program as unknown as SyntaxNode, isModule);
  return writer.text();
}

class JavaScriptWriter {
  readonly #text: string;
  readonly #out: MagicString;

  constructor(text: string) {
    this.#text = text;
    this.#out = new MagicString(text);
  }

  text(): string {
    return this.#out
      .toString()
      .replace(/[ \t]+$/gm, "")
      .replace(/\n{3,}/g, "\n\n");
  }

  program(program: SyntaxNode, isModule: boolean): void {
    const exported: string[] = [];
    for (const statement of nodesIn(program["body"])) {
      if (statement.type === "ImportDeclaration") this.#import(statement, isModule);
      else if (statement.type === "ExportNamedDeclaration") {
        const declared = statement["declaration"] as SyntaxNode | null;
        if (!declared) continue;
        const isType = /^TS(?:Interface|TypeAlias)Declaration$/.test(declared.type);
        if (isType || !isModule) this.#out.remove(statement.start, declared.start);
        if (!isType) exported.push(...namesOf(declared));
        this.#statement(declared, statement.start);
      } else this.#statement(statement, statement.start);
    }
    if (!isModule && exported.length > 0)
      this.#out.append(`\nmodule.exports = { ${exported.join(", ")} };\n`);
  }

  #import(node: SyntaxNode, isModule: boolean): void {
    const source = this.#source(node["source"]);
    const all = nodesIn(node["specifiers"]);
    const isAllTypes = node["importKind"] === "type";
    const isType = (one: SyntaxNode) => isAllTypes || one["importKind"] === "type";
    const written = (one: SyntaxNode) => this.#text.slice(one.start, one.end).replace(/^type /, "");
    const types = all.filter(isType).map(written);
    const values = all.filter((one) => !isType(one)).map(written);
    const names = values.join(", ");
    const lines = [
      ...(types.length === 0 ? [] : [`/** @import { ${types.join(", ")} } from ${source} */`]),
      ...(values.length === 0
        ? []
        : [
            isModule
              ? `import { ${names} } from ${source};`
              : `const { ${names.replace(/ as /g, ": ")} } = require(${source});`,
          ]),
    ];
    this.#out.overwrite(node.start, node.end, lines.join("\n"));
  }

  /** @param start where the statement begins, with `export` */
  #statement(node: SyntaxNode, start: number): void {
    switch (node.type) {
      case "TSInterfaceDeclaration":
        this.#typedef(node, start, this.#fields(node));
        break;
      case "TSTypeAliasDeclaration":
        this.#typedef(node, start, []);
        break;
      case "ClassDeclaration":
        this.#class(node, start);
        break;
      case "FunctionDeclaration":
        this.#docs(start, this.#functionTags(node), "");
        this.#parameters(node);
        this.#expression(node["body"]);
        break;
      case "VariableDeclaration":
        for (const declared of nodesIn(node["declarations"])) this.#variable(declared, start);
        break;
      default:
        this.#expression(node);
    }
  }

  #typedef(node: SyntaxNode, start: number, fields: readonly string[]): void {
    const name = this.#source(node["id"]);
    const comment = this.#commentBefore(start);
    const parameters = this.#templates(node);
    const alias = node["typeAnnotation"] as SyntaxNode | undefined;
    const type = alias ? oneLine(this.#text.slice(alias.start, alias.end)) : "object";
    const tags = [...parameters, `@typedef {${type}} ${name}`, ...fields];
    const text = docComment(comment?.lines ?? [], tags, "");
    this.#out.overwrite(comment?.start ?? start, node.end, text);
  }

  #fields(node: SyntaxNode): readonly string[] {
    return nodesIn((node["body"] as SyntaxNode)["body"]).map((member) => {
      const key = this.#source(member["key"]);
      const comment = this.#commentBefore(member.start)?.lines.join(" ") ?? "";
      const type =
        member.type === "TSMethodSignature"
          ? this.#functionType(member)
          : oneLine(this.#source((member["typeAnnotation"] as SyntaxNode)["typeAnnotation"]));
      const name = member["optional"] === true ? `[${key}]` : key;
      return `@property {${type}} ${name}${comment === "" ? "" : ` ${comment}`}`;
    });
  }

  #functionType(node: SyntaxNode): string {
    const list = nodesIn(node["params"]).map((parameter) => this.#text.slice(parameter.start, parameter.end));
    return oneLine(`(${list.join(", ")}) => ${this.#annotation(node["returnType"]) ?? "void"}`);
  }

  #class(node: SyntaxNode, start: number): void {
    const heritage = nodesIn(node["implements"]).map(
      (one) => `@implements {${this.#text.slice(one.start, one.end)}}`,
    );
    this.#docs(start, [...this.#templates(node), ...heritage], "");
    const body = node["body"] as SyntaxNode;
    const id = node["id"] as SyntaxNode;
    this.#out.overwrite(id.end, body.start, " ");
    const overloads = new Map<string, SyntaxNode[]>();
    for (const member of nodesIn(body["body"])) {
      const value = member["value"] as SyntaxNode | null;
      if (member.type === "PropertyDefinition") this.#property(member);
      else if (value?.type === "TSEmptyBodyFunctionExpression") {
        const name = this.#source(member["key"]);
        overloads.set(name, [...(overloads.get(name) ?? []), member]);
      } else if (value) this.#method(member, value, overloads.get(this.#source(member["key"])) ?? []);
    }
  }

  #property(member: SyntaxNode): void {
    const key = member["key"] as SyntaxNode;
    const annotation = member["typeAnnotation"] as SyntaxNode | null;
    const value = member["value"] as SyntaxNode | null;
    this.#out.remove(member.start, key.start);
    if (annotation) {
      this.#docs(member.start, [`@type {${this.#annotation(annotation)}}`], "  ");
      this.#out.remove(key.end, annotation.end);
    }
    if (value) this.#expression(value);
  }

  #method(member: SyntaxNode, value: SyntaxNode, overloads: readonly SyntaxNode[]): void {
    const [first] = overloads;
    const tags = [
      ...overloads.flatMap((overload) => [
        "@overload",
        ...this.#functionTags(overload["value"] as SyntaxNode),
      ]),
      ...this.#functionTags(value),
    ];
    const comment = this.#commentBefore(first?.start ?? member.start);
    if (first) this.#out.remove(comment?.start ?? first.start, member.start);
    const lines = comment?.lines ?? [];
    if (comment && !first) this.#out.remove(comment.start, member.start);
    if (lines.length + tags.length > 0)
      this.#out.appendLeft(member.start, `${docComment(lines, tags, "  ")}\n  `);
    this.#parameters(value);
    this.#expression(value["body"]);
  }

  #variable(declared: SyntaxNode, start: number): void {
    const id = declared["id"] as SyntaxNode;
    const annotation = id["typeAnnotation"] as SyntaxNode | null | undefined;
    if (annotation) {
      this.#out.appendLeft(start, `/** @type {${this.#annotation(annotation)}} */ `);
      this.#out.remove(annotation.start, annotation.end);
    }
    this.#expression(declared["init"]);
  }

  /** Removes types from everything within an expression or statement. */
  #expression(part: unknown): void {
    for (const node of Array.isArray(part) ? nodesIn(part) : isNode(part) ? [part] : []) {
      switch (node.type) {
        case "TSAsExpression":
        case "TSSatisfiesExpression": {
          const inner = node["expression"] as SyntaxNode;
          const type = this.#source(node["typeAnnotation"]);
          const tag = node.type === "TSAsExpression" ? "type" : "satisfies";
          this.#out.appendLeft(node.start, `/** @${tag} {${oneLine(type)}} */ (`);
          this.#out.overwrite(inner.end, node.end, ")");
          this.#expression(inner);
          break;
        }
        case "TSNonNullExpression": {
          const inner = node["expression"] as SyntaxNode;
          this.#out.remove(inner.end, node.end);
          this.#expression(inner);
          break;
        }
        case "VariableDeclaration":
          for (const declared of nodesIn(node["declarations"])) this.#variable(declared, node.start);
          break;
        case "ArrowFunctionExpression":
        case "FunctionExpression":
          this.#inlineTypes(node);
          this.#expression(node["body"]);
          break;
        default: {
          const typeArguments = node["typeArguments"];
          if (isNode(typeArguments)) this.#out.remove(typeArguments.start, typeArguments.end);
          for (const [key, value] of Object.entries(node))
            if (key !== "typeArguments" && key !== "parent") this.#expression(value);
        }
      }
    }
  }

  /** Writes the types of a function within an expression beside its parameters. */
  #inlineTypes(node: SyntaxNode): void {
    for (const parameter of nodesIn(node["params"])) {
      const annotation = parameter["typeAnnotation"] as SyntaxNode | null | undefined;
      if (!annotation) continue;
      if (this.#isThis(parameter)) {
        this.#removeParameter(node, parameter);
        continue;
      }
      this.#out.appendLeft(parameter.start, `/** @type {${this.#annotation(annotation)}} */ `);
      this.#out.remove(annotation.start, annotation.end);
    }
    const returned = node["returnType"] as SyntaxNode | null;
    if (returned) this.#out.remove(returned.start, returned.end);
  }

  #parameters(value: SyntaxNode): void {
    for (const parameter of nodesIn(value["params"])) {
      const inner = (parameter["left"] as SyntaxNode | undefined) ?? parameter;
      const annotation = inner["typeAnnotation"] as SyntaxNode | null | undefined;
      if (this.#isThis(parameter)) this.#removeParameter(value, parameter);
      else if (annotation) {
        const nameEnd = inner["optional"] === true ? annotation.start - 1 : annotation.start;
        this.#out.remove(nameEnd, annotation.end);
      }
    }
    for (const key of ["returnType", "typeParameters"]) {
      const node = value[key];
      if (isNode(node)) this.#out.remove(node.start, node.end);
    }
  }

  #isThis(parameter: SyntaxNode): boolean {
    return parameter.type === "Identifier" && parameter["name"] === "this";
  }

  #removeParameter(owner: SyntaxNode, parameter: SyntaxNode): void {
    const all = nodesIn(owner["params"]);
    const next = all[all.indexOf(parameter) + 1];
    this.#out.remove(parameter.start, next?.start ?? parameter.end);
  }

  /** The tags of a function: its type parameters, parameters and result. */
  #functionTags(node: SyntaxNode): readonly string[] {
    const parameters = nodesIn(node["params"]).map((parameter) => {
      const isRest = parameter.type === "RestElement";
      const inner =
        ((isRest ? parameter["argument"] : parameter["left"]) as SyntaxNode | undefined) ?? parameter;
      const annotation =
        this.#annotation(parameter["typeAnnotation"] ?? inner["typeAnnotation"]) ?? "unknown";
      const name = String(inner["name"] ?? "value");
      if (name === "this") return `@this {${annotation}}`;
      const isOptional = inner["optional"] === true || parameter.type === "AssignmentPattern";
      // Without dots, the type is that of the whole list.
      const isList = !isRest || !/^\w+\[\]$/.test(annotation);
      const type = isList ? annotation : `...${annotation.slice(0, -2)}`;
      return `@param {${type}} ${isOptional ? `[${name}]` : name}`;
    });
    const returned = this.#annotation(node["returnType"]);
    return [
      ...this.#templates(node),
      ...parameters,
      ...(returned === undefined ? [] : [`@returns {${returned}}`]),
    ];
  }

  #templates(node: SyntaxNode): readonly string[] {
    const list = node["typeParameters"] as SyntaxNode | null | undefined;
    return nodesIn(list?.["params"]).map((parameter) => {
      const name = this.#source(parameter["name"]);
      const [constraint, byDefault] = [parameter["constraint"], parameter["default"]].map((part) =>
        isNode(part) ? oneLine(this.#source(part)) : undefined,
      );
      const written = byDefault === undefined ? name : `[${name}=${byDefault}]`;
      return `@template ${constraint === undefined ? "" : `{${constraint}} `}${written}`;
    });
  }

  /** Puts tags into the comment before a declaration. */
  #docs(start: number, tags: readonly string[], indent: string): void {
    const comment = this.#commentBefore(start);
    const lines = comment?.lines ?? [];
    if (lines.length + tags.length === 0) return;
    if (comment) this.#out.remove(comment.start, start);
    this.#out.appendLeft(start, `${docComment(lines, tags, indent)}\n${indent}`);
  }

  #annotation(part: unknown): string | undefined {
    if (!isNode(part)) return undefined;
    const inner = part.type === "TSTypeAnnotation" ? part["typeAnnotation"] : part;
    return isNode(inner) ? oneLine(this.#text.slice(inner.start, inner.end)) : undefined;
  }

  #source(part: unknown): string {
    return isNode(part) ? this.#text.slice(part.start, part.end) : "";
  }

  /** The lines of the comment directly before a place. */
  #commentBefore(start: number): { readonly start: number; readonly lines: readonly string[] } | undefined {
    const [whole = ""] = /\/\*\*(?:[^*]|\*(?!\/))*\*\/\s*$/.exec(this.#text.slice(0, start)) ?? [];
    if (whole === "") return undefined;
    const lines = whole
      .trim()
      .slice(3, -2)
      .split("\n")
      .map((line) => line.trim().replace(/^\* ?/, ""))
      .filter((line) => line !== "");
    return { start: start - whole.length, lines };
  }
}

function docComment(lines: readonly string[], tags: readonly string[], indent: string): string {
  const all = [...lines, ...tags];
  const [only = ""] = all;
  if (all.length === 1) return `/** ${only} */`;
  return ["/**", ...all.map((line) => `${indent} * ${line}`), `${indent} */`].join("\n");
}

function namesOf(declared: SyntaxNode): readonly string[] {
  const owners = declared.type === "VariableDeclaration" ? nodesIn(declared["declarations"]) : [declared];
  return owners.map((owner) => String((owner["id"] as SyntaxNode)["name"]));
}

/** A type within a comment is on one line, and does not end the comment. */
function oneLine(text: string): string {
  return text
    .replace(/\/\*(?:[^*]|\*(?!\/))*\*\//g, " ")
    .replace(/\s+/g, " ")
    .replace(/\*\//g, "* /")
    .trim();
}

function isNode(value: unknown): value is SyntaxNode {
  return typeof value === "object" && value !== null && typeof (value as SyntaxNode).type === "string";
}

function nodesIn(list: unknown): readonly SyntaxNode[] {
  return Array.isArray(list) ? list.filter(isNode) : [];
}
