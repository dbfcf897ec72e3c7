import { type Node, type ParseResult, parseSync, Visitor } from "oxc-parser";
import type { ImportForm } from "../documents/survey-document.ts";

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

/** Reads the imports and exports of a file, in order. */
export function moduleRecordOf(path: string, text: string): ModuleRecord {
  const mayHoldMore = MAY_HOLD_MORE.test(text);
  const mayHoldElements = /\.[jt]sx$/.test(path);
  // Parsing as JavaScript, without types, returns a smaller tree.
  const parsed = parseSync(path, text, mayHoldMore || mayHoldElements ? {} : { astType: "js" });
  const nested = mayHoldMore ? nestedSites(parsed) : { sites: [], unresolved: [] };
  const inCode = [...staticSites(parsed), ...nested.sites];
  const known = new Set(inCode.map(({ offset }) => offset));
  const inComments = mayCommentOn(text)
    ? commentSites(parsed, text, /\.[cm]?jsx?$/.test(path)).filter(({ offset }) => !known.has(offset))
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
const MAY_HOLD_MORE = /\brequire\b|\bimport\s*\(/;

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
      const found = /^\/\s*<reference\s+types\s*=\s*(["'])([^"']+)\1/.exec(value);
      return found ? [site(text.indexOf(found[1] as string, start), found[2] as string, "reference")] : [];
    }
    // JSDoc types count only in scripts.
    if (!value.startsWith("*") || !isScript) return [];
    const comment = text.slice(start, end);
    return [...comment.matchAll(/(?:\bimport\s*\(\s*|@import\b[^@]*?\bfrom\s+)(["'])([^"'\n]+)\1/g)].map(
      (found) => {
        const [whole, quote = "", specifier = ""] = found;
        return site(
          start + found.index + whole.lastIndexOf(`${quote}${specifier}`),
          specifier,
          "import type",
        );
      },
    );
  });
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
  const localsOfCall = new Map<Node, readonly string[]>();
  const calledAtOnce = new Set<Node>();
  const add = (
    literal: Node | null | undefined,
    form: ImportForm,
    locals: readonly string[] = [],
    isCalled = false,
  ) => {
    const specifier = literal ? textOf(literal) : undefined;
    if (specifier !== undefined && literal)
      sites.push({
        ...{ specifier, offset: literal.start, forms: [form], names: ["*"], locals, reexports: [] },
        ...(isCalled && { isCalled }),
      });
    else if (literal && (form === "dynamic" || form === "require")) unresolved.push(literal.start);
  };
  const called = new Set<ImportSite>();
  const blind = new Set<number>();
  let isRequireOwn = false;
  new Visitor({
    VariableDeclaration: ({ declarations, declare }) => {
      isRequireOwn ||=
        !declare && declarations.some(({ id, init }) => isNamedRequire(id) && !makesRequire(init));
    },
    FunctionDeclaration: ({ id }) => {
      isRequireOwn ||= isNamedRequire(id);
    },
    // Visited before the call inside it.
    VariableDeclarator: ({ id, init }) => {
      const call = init?.type === "AwaitExpression" ? init.argument : init;
      if (call?.type === "CallExpression" || call?.type === "ImportExpression")
        localsOfCall.set(call, namesBoundBy(id));
    },
    ImportExpression: (call) => add(call.source, "dynamic", localsOfCall.get(call)),
    CallExpression: (call) => {
      if (call.callee.type === "CallExpression") calledAtOnce.add(call.callee);
      if (!isRequire(call.callee)) return;
      const [before, blindBefore] = [sites.length, unresolved.length];
      add(call.arguments[0], "require", localsOfCall.get(call), calledAtOnce.has(call));
      for (const importSite of sites.slice(before)) called.add(importSite);
      for (const value of unresolved.slice(blindBefore)) blind.add(value);
    },
    TSImportEqualsDeclaration: ({ id, moduleReference }) => {
      if (moduleReference.type === "TSExternalModuleReference")
        add(moduleReference.expression, "require", [id.name]);
    },
    TSImportType: ({ source }) => add(source, "import type"),
  }).visit(parsed.program);
  // A local function named `require` imports nothing.
  return isRequireOwn
    ? {
        sites: sites.filter((site) => !called.has(site)),
        unresolved: unresolved.filter((at) => !blind.has(at)),
      }
    : { sites, unresolved };
}

function isNamedRequire(node: Node | null | undefined): boolean {
  return node?.type === "Identifier" && node.name === "require";
}

/** `createRequire(import.meta.url)`, which creates a `require` function. */
function makesRequire(node: Node | null | undefined): boolean {
  return (
    node?.type === "CallExpression" &&
    node.callee.type === "Identifier" &&
    node.callee.name === "createRequire"
  );
}

/** Returns the text of a string literal, or of a template without substitutions. */
function textOf(node: Node): string | undefined {
  if (node.type === "Literal") return typeof node.value === "string" ? node.value : undefined;
  if (node.type !== "TemplateLiteral" || node.expressions.length > 0) return undefined;
  return node.quasis[0]?.value.cooked ?? node.quasis[0]?.value.raw;
}

/** `require`, or a member of it such as `require.resolve`. */
function isRequire(callee: Node): boolean {
  const node = callee.type === "MemberExpression" ? callee.object : callee;
  return node.type === "Identifier" && node.name === "require";
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
