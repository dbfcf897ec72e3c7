import { type Node, type ParseResult, parseSync, Visitor } from "oxc-parser";

/** The ways in which a module is brought in. One statement may use several. */
export type ImportForm =
  | "named"
  | "default"
  | "namespace"
  | "type"
  | "side effect"
  | "require"
  | "dynamic"
  | "re-export"
  | "import type"
  /** `/// <reference types="…" />`. */
  | "reference"
  /** What the compiler imports by itself for the elements of a file. */
  | "jsx";

/** One place that brings a module in. */
export interface ImportSite {
  readonly specifier: string;
  readonly forms: readonly ImportForm[];
  /** Where the specifier stands, quotes included. */
  readonly offset: number;
  /** What is imported, by the names the module exports it under; `*` for all of it. */
  readonly names: readonly string[];
  /** The names that it has in the importing file. */
  readonly locals: readonly string[];
  /** What the file hands on of it, and under which names; `*` for all of it. */
  readonly handsOn: readonly { readonly name: string; readonly as: string }[];
  /** Whether what it brings in is called at once, as by `require("crane")(7)`. */
  readonly isCalled?: boolean;
}

/** What syntax alone tells about a file. */
export interface ModuleRecord {
  readonly sites: readonly ImportSite[];
  /** Whether it imports or exports, or requires; what other files declare is global. */
  readonly isModule: boolean;
  /** Where it imports or requires something that only running it can tell. */
  readonly unresolved: readonly number[];
  /** Where its first element of JSX stands. */
  readonly firstElement: number | undefined;
  readonly syntaxErrors: readonly { readonly offset: number; readonly message: string }[];
}

/** Reads the imports and exports of a file, in the order in which they stand. */
export function moduleRecordOf(path: string, text: string): ModuleRecord {
  const mayHoldMore = MAY_HOLD_MORE.test(text);
  const mayHoldElements = /\.[jt]sx$/.test(path);
  // A tree that nobody looks into takes less time to hand over where it is one of JavaScript, without the types.
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

/** Whether a file can hold a `require` or an `import(…)`: only then is its whole tree worth building. */
const MAY_HOLD_MORE = /\brequire\b|\bimport\s*\(/;

/** Whether a file's comments can refer to a module. */
function mayCommentOn(text: string): boolean {
  return /\/\/\/\s*<reference/.test(text) || (text.includes("/**") && /\bimport\s*\(|@import\b/.test(text));
}

/** Modules that comments refer to: by `/// <reference types>`, and in JSDoc by `import("…")` or `@import`. */
function commentSites({ comments }: ParseResult, text: string, isScript: boolean): ImportSite[] {
  return comments.flatMap(({ start, end, value, type }): ImportSite[] => {
    const site = (offset: number, specifier: string, form: ImportForm): ImportSite => ({
      specifier,
      forms: [form],
      offset,
      names: ["*"],
      locals: [],
      handsOn: [],
    });
    if (type === "Line") {
      const found = /^\/\s*<reference\s+types\s*=\s*(["'])([^"']+)\1/.exec(value);
      return found ? [site(text.indexOf(found[1] as string, start), found[2] as string, "reference")] : [];
    }
    // Types in JSDoc count for scripts only.
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
      handsOn: [],
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
      handsOn: entries.map(({ importName, exportName }) => ({
        name: importName.name ?? "*",
        as: exportName.name ?? "*",
      })),
    };
  });
  // What is imported and then exported by its name counts as one site, which does both.
  const handedOn = new Map(reExports.map(({ offset, handsOn }) => [offset, handsOn]));
  const imported = new Set(imports.map(({ offset }) => offset));
  return [
    ...imports.map((site) => ({ ...site, handsOn: handedOn.get(site.offset) ?? [] })),
    ...reExports.filter(({ offset }) => !imported.has(offset)),
  ];
}

const FORM_OF_KIND = { Default: "default", NamespaceObject: "namespace", Name: "named" } as const;
const NAME_OF_KIND = { Default: "default", NamespaceObject: "*", Name: "*" } as const;

/** What the parser's list of static imports leaves out: `require`, `import(…)` and `import("…")` types. */
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
        ...{ specifier, offset: literal.start, forms: [form], names: ["*"], locals, handsOn: [] },
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
    // Met before the call within it.
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
      for (const each of sites.slice(before)) called.add(each);
      for (const each of unresolved.slice(blindBefore)) blind.add(each);
    },
    TSImportEqualsDeclaration: ({ id, moduleReference }) => {
      if (moduleReference.type === "TSExternalModuleReference")
        add(moduleReference.expression, "require", [id.name]);
    },
    TSImportType: ({ source }) => add(source, "import type"),
  }).visit(parsed.program);
  // A function of the file's own that is called like the one of CommonJS brings nothing in.
  return isRequireOwn
    ? {
        sites: sites.filter((each) => !called.has(each)),
        unresolved: unresolved.filter((at) => !blind.has(at)),
      }
    : { sites, unresolved };
}

function isNamedRequire(node: Node | null | undefined): boolean {
  return node?.type === "Identifier" && node.name === "require";
}

/** `createRequire(import.meta.url)`, which makes the one of CommonJS. */
function makesRequire(node: Node | null | undefined): boolean {
  return (
    node?.type === "CallExpression" &&
    node.callee.type === "Identifier" &&
    node.callee.name === "createRequire"
  );
}

/** The text of a literal; of a template, where nothing is put into it. */
function textOf(node: Node): string | undefined {
  if (node.type === "Literal") return typeof node.value === "string" ? node.value : undefined;
  if (node.type !== "TemplateLiteral" || node.expressions.length > 0) return undefined;
  return node.quasis[0]?.value.cooked ?? node.quasis[0]?.value.raw;
}

/** `require`, or a part of it such as `require.resolve`. */
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
