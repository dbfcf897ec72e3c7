import { type Node, type ParseResult, type ParserOptions, Visitor } from "oxc-parser";
import type { ImportForm } from "../documents/survey-document.ts";
import { withCommonJsExports } from "./commonjs-exports.ts";
import { parse } from "./parse.ts";

/** One place that imports a module. */
export interface ImportSite {
  readonly specifier: string;
  readonly forms: readonly ImportForm[];
  /** Offset of the specifier, including its quotes. */
  readonly offset: number;
  /** Imported names, as the module exports them; `*` for the namespace. */
  readonly names: readonly string[];
  /** Their local names. */
  readonly locals: readonly string[];
  /** Names that the file re-exports, and as what; `*` for all. */
  readonly reexports: readonly { readonly name: string; readonly as: string }[];
  /** Whether the imported value is called at once, as by `require("crane")(7)`. */
  readonly isCalled?: boolean;
  /** Whether the specifier is a constant or a sum of texts, which cannot be replaced in place. */
  readonly isComputed?: boolean;
}

/** The facts about a file that follow from its syntax alone. */
export interface ModuleRecord {
  readonly sites: readonly ImportSite[];
  /** Whether it imports, exports or requires; declarations of other files are global. */
  readonly isModule: boolean;
  /** Places that import a computed specifier. */
  readonly unresolved: readonly number[];
  /** Offset of its first JSX element. */
  readonly firstElement: number | undefined;
  readonly syntaxErrors: readonly { readonly offset: number; readonly message: string }[];
}

/**
 * Reads the imports and exports of a file, in order. The parser may be replaced by one that does not check the
 * depth of the code first.
 *
 * @throws {CliError} `UNREADABLE` if the code is nested too deeply
 */
export function moduleRecordOf(
  path: string,
  text: string,
  parser: (path: string, text: string, options?: ParserOptions) => ParseResult = parse,
): ModuleRecord {
  const mayHoldMore = MAY_HOLD_MORE.test(text);
  const mayHoldElements = /\.[jt]sx$/.test(path);
  // Parsing as JavaScript, without types, returns a smaller tree.
  const parsed = parser(path, text, mayHoldMore || mayHoldElements ? {} : { astType: "js" });
  const nested = mayHoldMore ? nestedSites(parsed) : { sites: [], unresolved: [] };
  const inCode = withCommonJsExports(parsed, text, [...staticSites(parsed), ...nested.sites]);
  const offsets = new Set(inCode.map(({ offset }) => offset));
  const inComments = mayCommentOn(text)
    ? commentSites(parsed, text, /\.[cm]?jsx?$/.test(path)).filter(({ offset }) => !offsets.has(offset))
    : [];
  return {
    sites: [...inCode, ...inComments].sort((left, right) => left.offset - right.offset),
    isModule: parsed.module.hasModuleSyntax || inCode.some(({ forms }) => forms.includes("require")),
    unresolved: nested.unresolved,
    firstElement: mayHoldElements ? firstElementIn(parsed) : undefined,
    syntaxErrors: parsed.errors.map(({ labels, message }) => ({ offset: labels[0]?.start ?? 0, message })),
  };
}

/** Whether a file may contain `require` or `import(…)`; only then is its whole tree built. */
const MAY_HOLD_MORE = /\brequire\b|createRequire|\bimport\s*[(/]|\\u/;

/** Whether a file's comments may refer to a module. */
function mayCommentOn(text: string): boolean {
  return /\/\/\/\s*<reference/.test(text) || (text.includes("/**") && /\bimport\s*\(|@import\b/.test(text));
}

/** Modules in comments: `/// <reference types>`, and in JSDoc `import("…")` or `@import`. */
function commentSites({ comments }: ParseResult, text: string, isScript: boolean): ImportSite[] {
  return comments.flatMap(({ start, end, value, type }): ImportSite[] => {
    const site = (offset: number, specifier: string, form: ImportForm): ImportSite => ({
      specifier,
      forms: [form],
      offset,
      names: ["*"],
      locals: [],
      reexports: [],
    });
    if (type === "Line") {
      const reference = /^\/\s*<reference\s+types\s*=\s*(["'])([^"']+)\1/.exec(value);
      return reference
        ? [site(text.indexOf(reference[1] as string, start), reference[2] as string, "reference")]
        : [];
    }
    // JSDoc types count only in scripts.
    if (!value.startsWith("*") || !isScript) return [];
    const comment = text.slice(start, end);
    return [...comment.matchAll(IN_COMMENT)].map(({ 0: specifierText, 1: literal = "", index }) =>
      site(start + index + specifierText.length - literal.length, unescaped(literal), "import type"),
    );
  });
}

/** A module in JSDoc, as a string literal. */
const IN_COMMENT = /(?:\bimport\s*\(\s*|@import\b[^@]*?\bfrom\s+)("(?:[^"\\\n]|\\.)+"|'(?:[^'\\\n]|\\.)+')/g;

/** Returns the text of a string literal. */
function unescaped(literal: string): string {
  return literal
    .slice(1, -1)
    .replace(/\\u([\da-fA-F]{4})/g, (_, code: string) => String.fromCharCode(Number.parseInt(code, 16)))
    .replace(/\\(.)/g, "$1");
}

function firstElementIn({ program }: ParseResult): number | undefined {
  let first: number | undefined;
  const take = ({ start }: { start: number }) => {
    first = Math.min(first ?? start, start);
  };
  new Visitor({ JSXElement: take, JSXFragment: take }).visit(program);
  return first;
}

function staticSites({ module }: ParseResult): ImportSite[] {
  const imports = module.staticImports.map(({ moduleRequest, entries }): ImportSite => {
    const forms = entries.map(({ importName, isType }): ImportForm => {
      if (isType) return "type";
      return FORM_OF_KIND[importName.kind];
    });
    return {
      specifier: moduleRequest.value,
      offset: moduleRequest.start,
      forms: forms.length > 0 ? distinct(forms) : ["side effect"],
      names: entries.map(({ importName }) => importName.name ?? NAME_OF_KIND[importName.kind]),
      locals: entries.map(({ localName }) => localName.value),
      reexports: [],
    };
  });
  const reExports = module.staticExports.flatMap(({ entries }) => {
    const request = entries.find((entry) => entry.moduleRequest)?.moduleRequest;
    if (!request) return [];
    return {
      specifier: request.value,
      offset: request.start,
      forms: ["re-export"] as const,
      names: entries.map(({ importName }) => importName.name ?? "*"),
      locals: entries.flatMap(({ exportName }) => exportName.name ?? []),
      reexports: entries.map(({ importName, exportName }) => ({
        name: importName.name ?? "*",
        as: exportName.name ?? "*",
      })),
    };
  });
  // A name that is imported and then exported counts as one site with both forms.
  const reexportsAt = new Map(reExports.map(({ offset, reexports }) => [offset, reexports]));
  const imported = new Set(imports.map(({ offset }) => offset));
  return [
    ...imports.map((site) => ({ ...site, reexports: reexportsAt.get(site.offset) ?? [] })),
    ...reExports.filter(({ offset }) => !imported.has(offset)),
  ];
}

const FORM_OF_KIND = { Default: "default", NamespaceObject: "namespace", Name: "named" } as const;
const NAME_OF_KIND = { Default: "default", NamespaceObject: "*", Name: "*" } as const;

/** Imports missing in the parser's list of static ones: `require`, `import(…)` and `import("…")` types. */
function nestedSites(parsed: ParseResult): { readonly sites: ImportSite[]; readonly unresolved: number[] } {
  const sites: ImportSite[] = [];
  const unresolved: number[] = [];
  const names = new LoaderNames(parsed);
  const localsOfCall = new Map<Node, readonly string[]>();
  const calledAtOnce = new Set<Node>();
  const add = (source: Node | null | undefined, form: ImportForm, call?: Node) => {
    if (!source) return;
    const literal = withoutTypes(source);
    const specifier = names.textOf(literal);
    if (specifier === undefined) {
      if (form !== "import type") unresolved.push(source.start);
      return;
    }
    sites.push({
      ...{ specifier, offset: literal.start, forms: [form], names: ["*"], reexports: [] },
      locals: (call && localsOfCall.get(call)) ?? [],
      ...(call && calledAtOnce.has(call) && { isCalled: true }),
      ...(isText(literal) ? {} : { isComputed: true }),
    });
  };
  new Visitor({
    // Visited before the call inside it.
    VariableDeclarator: ({ id, init }) => {
      const call = init?.type === "AwaitExpression" ? init.argument : init;
      if (call?.type === "CallExpression" || call?.type === "ImportExpression")
        localsOfCall.set(call, namesBoundBy(id));
    },
    ImportExpression: (call) => add(call.source, "dynamic", call),
    CallExpression: (call) => {
      if (call.callee.type === "CallExpression") calledAtOnce.add(call.callee);
      if (names.isRequire(call.callee)) add(call.arguments[0], "require", call);
    },
    TSImportEqualsDeclaration: ({ id, moduleReference }) => {
      if (moduleReference.type !== "TSExternalModuleReference") return;
      localsOfCall.set(moduleReference, [id.name]);
      add(moduleReference.expression, "require", moduleReference);
    },
    TSImportType: ({ source }) => add(source, "import type"),
  }).visit(parsed.program);
  return { sites, unresolved };
}

/** The names in a file that load modules, and its constant strings. */
class LoaderNames {
  readonly #require = new Set<string>();
  /** `createRequire` of `node:module`, under any name. */
  readonly #createRequire = new Set(["createRequire"]);
  readonly #constants = new Map<string, Node | undefined>();

  constructor({ program, module }: ParseResult) {
    let isRequireOwn = false;
    for (const { moduleRequest, entries } of module.staticImports)
      if (/^(?:node:)?module$/.test(moduleRequest.value))
        for (const { importName, localName } of entries)
          if (importName.name === "createRequire") this.#createRequire.add(localName.value);
    new Visitor({
      VariableDeclaration: ({ kind, declarations, declare }) => {
        for (const { id, init } of declarations) {
          if (id.type !== "Identifier") continue;
          // A name that is declared twice may have another value.
          const isConstant = kind === "const" && init && !this.#constants.has(id.name);
          this.#constants.set(id.name, isConstant ? withoutTypes(init) : undefined);
          const value = init && withoutTypes(init);
          const isAlias = value?.type === "Identifier" && this.#isRequireName(value.name);
          if (init && (isAlias || this.#makesRequire(init))) this.#require.add(id.name);
          else isRequireOwn ||= !declare && id.name === "require";
        }
      },
      FunctionDeclaration: ({ id }) => {
        isRequireOwn ||= isNamed(id, "require");
        if (id) this.#constants.set(id.name, undefined);
      },
    }).visit(program);
    // A local function named `require` imports nothing.
    if (!isRequireOwn) this.#require.add("require");
  }

  /** `require`, a member of it such as `require.resolve`, `module.require`, `createRequire(import.meta.url)`. */
  isRequire(callee: Node): boolean {
    const node = withoutTypes(callee);
    if (this.#makesRequire(node)) return true;
    if (node.type === "MemberExpression") {
      const { object, property } = node;
      return this.isRequire(object) || (isNamed(object, "module") && isNamed(property, "require"));
    }
    return node.type === "Identifier" && this.#require.has(node.name);
  }

  /** Returns the text of a string literal, a template, a constant of the file, or a sum of them. */
  textOf(node: Node, depth = 0): string | undefined {
    const expression = withoutTypes(node);
    if (depth > MAX_STEPS) return undefined;
    if (expression.type === "Literal")
      return typeof expression.value === "string" ? expression.value : undefined;
    if (expression.type === "Identifier") {
      const constant = this.#constants.get(expression.name);
      return constant && this.textOf(constant, depth + 1);
    }
    if (expression.type === "BinaryExpression" && expression.operator === "+") {
      const [left, right] = [expression.left, expression.right].map((part) => this.textOf(part, depth + 1));
      return left === undefined || right === undefined ? undefined : left + right;
    }
    if (expression.type !== "TemplateLiteral") return undefined;
    const values = expression.expressions.map((part) => this.textOf(part, depth + 1));
    if (values.includes(undefined)) return undefined;
    return expression.quasis
      .map(({ value }, index) => `${value.cooked ?? value.raw}${values[index] ?? ""}`)
      .join("");
  }

  #isRequireName(name: string): boolean {
    return name === "require" || this.#require.has(name);
  }

  /** `createRequire(import.meta.url)`, which creates a `require` function. */
  #makesRequire(node: Node): boolean {
    const call = withoutTypes(node);
    if (call.type !== "CallExpression") return false;
    const { callee } = call;
    if (callee.type === "MemberExpression") return isNamed(callee.property, "createRequire");
    return callee.type === "Identifier" && this.#createRequire.has(callee.name);
  }
}

/** Steps from one constant to the next, and into the parts of a sum. */
const MAX_STEPS = 20;

/** Returns an expression without parentheses, type assertions and `!`. */
function withoutTypes(node: Node): Node {
  switch (node.type) {
    case "ParenthesizedExpression":
    case "TSAsExpression":
    case "TSSatisfiesExpression":
    case "TSNonNullExpression":
    case "TSTypeAssertion":
      return withoutTypes(node.expression);
    default:
      return node;
  }
}

function isNamed(node: Node | null | undefined, name: string): boolean {
  return node?.type === "Identifier" && node.name === name;
}

/** Whether a specifier is written as one text, which can be replaced. */
function isText(node: Node): boolean {
  return node.type === "Literal" || (node.type === "TemplateLiteral" && node.expressions.length === 0);
}

/** The names in `crane` and in `{ lift, load: cargo }`. */
function namesBoundBy(pattern: Node): readonly string[] {
  if (pattern.type === "Identifier") return [pattern.name];
  if (pattern.type !== "ObjectPattern") return [];
  return pattern.properties.flatMap((property) =>
    property.type === "Property" ? namesBoundBy(property.value) : [],
  );
}

function distinct<Value>(values: readonly Value[]): readonly Value[] {
  return [...new Set(values)];
}
