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
  | "import type";

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
}

/** What syntax alone tells about a file. */
export interface ModuleRecord {
  readonly sites: readonly ImportSite[];
  readonly syntaxErrors: readonly { readonly offset: number; readonly message: string }[];
}

/** Reads the imports and exports of a file, in the order in which they stand. */
export function moduleRecordOf(path: string, text: string): ModuleRecord {
  const parsed = parseSync(path, text);
  const sites = [...staticSites(parsed), ...(MAY_HOLD_MORE.test(text) ? nestedSites(parsed) : [])];
  return {
    sites: sites.sort((left, right) => left.offset - right.offset),
    syntaxErrors: parsed.errors.map(({ labels, message }) => ({ offset: labels[0]?.start ?? 0, message })),
  };
}

/** Whether a file can hold a `require` or an `import(…)`: only then is its whole tree worth building. */
const MAY_HOLD_MORE = /\brequire\b|\bimport\s*\(/;

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
    };
  });
  return [...imports, ...reExports];
}

const FORM_OF_KIND = { Default: "default", NamespaceObject: "namespace", Name: "named" } as const;
const NAME_OF_KIND = { Default: "default", NamespaceObject: "*", Name: "*" } as const;

/** What the parser's list of static imports leaves out: `require`, `import(…)` and `import("…")` types. */
function nestedSites(parsed: ParseResult): ImportSite[] {
  const sites: ImportSite[] = [];
  const add = (literal: Node | null | undefined, form: ImportForm, locals: readonly string[] = []) => {
    if (literal?.type !== "Literal" || typeof literal.value !== "string") return;
    sites.push({ specifier: literal.value, offset: literal.start, forms: [form], names: ["*"], locals });
  };
  new Visitor({
    ImportExpression: ({ source }) => add(source, "dynamic"),
    CallExpression: ({ callee, arguments: args }) => {
      const isRequire = callee.type === "Identifier" && callee.name === "require";
      const isResolve =
        callee.type === "MemberExpression" &&
        callee.object.type === "Identifier" &&
        callee.object.name === "require";
      if (isRequire || isResolve) add(args[0], "require");
    },
    TSImportEqualsDeclaration: ({ id, moduleReference }) => {
      if (moduleReference.type === "TSExternalModuleReference")
        add(moduleReference.expression, "require", [id.name]);
    },
    TSImportType: ({ source }) => add(source, "import type"),
  }).visit(parsed.program);
  return sites;
}

function distinct<Value>(values: readonly Value[]): readonly Value[] {
  return [...new Set(values)];
}
