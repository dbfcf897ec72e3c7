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
  /** Whether it imports or exports, or requires; what other files declare is global. */
  readonly isModule: boolean;
  readonly syntaxErrors: readonly { readonly offset: number; readonly message: string }[];
}

/** Reads the imports and exports of a file, in the order in which they stand. */
export function moduleRecordOf(path: string, text: string): ModuleRecord {
  const parsed = parseSync(path, text);
  const sites = [...staticSites(parsed), ...(MAY_HOLD_MORE.test(text) ? nestedSites(parsed) : [])];
  return {
    sites: sites.sort((left, right) => left.offset - right.offset),
    isModule: parsed.module.hasModuleSyntax || sites.length > 0,
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
  const localsOfCall = new Map<Node, readonly string[]>();
  const add = (literal: Node | null | undefined, form: ImportForm, locals: readonly string[] = []) => {
    if (literal?.type !== "Literal" || typeof literal.value !== "string") return;
    sites.push({ specifier: literal.value, offset: literal.start, forms: [form], names: ["*"], locals });
  };
  new Visitor({
    // Met before the call within it.
    VariableDeclarator: ({ id, init }) => {
      const call = init?.type === "AwaitExpression" ? init.argument : init;
      if (call?.type === "CallExpression" || call?.type === "ImportExpression")
        localsOfCall.set(call, namesBoundBy(id));
    },
    ImportExpression: (call) => add(call.source, "dynamic", localsOfCall.get(call)),
    CallExpression: (call) => {
      if (isRequire(call.callee)) add(call.arguments[0], "require", localsOfCall.get(call));
    },
    TSImportEqualsDeclaration: ({ id, moduleReference }) => {
      if (moduleReference.type === "TSExternalModuleReference")
        add(moduleReference.expression, "require", [id.name]);
    },
    TSImportType: ({ source }) => add(source, "import type"),
  }).visit(parsed.program);
  return sites;
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
