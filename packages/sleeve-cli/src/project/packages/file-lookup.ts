import { dirname } from "node:path";
import { type NapiResolveOptions, ResolverFactory } from "oxc-resolver";

/** Lookup of files by relative path, and of the types of packages. */
export const FILE_LOOKUP: NapiResolveOptions = {
  conditionNames: ["types", "import", "require", "node"],
  mainFields: ["types", "typings", "main"],
  extensions: [".ts", ".tsx", ".d.ts", ".mts", ".cts", ".js", ".jsx", ".mjs", ".cjs", ".json"],
  extensionAlias: {
    ".js": [".ts", ".tsx", ".d.ts", ".js", ".jsx"],
    ".jsx": [".tsx", ".jsx"],
    ".mjs": [".mts", ".d.mts", ".mjs"],
    ".cjs": [".cts", ".d.cts", ".cjs"],
  },
};

let resolver: ResolverFactory | undefined;

function lookup(): ResolverFactory {
  resolver ??= new ResolverFactory(FILE_LOOKUP);
  return resolver;
}

/** Returns the file that a specifier leads to, without a compiler. */
export function fileAt(importer: string, specifier: string): string | undefined {
  return lookup().sync(dirname(importer), specifier).path;
}

/** Returns the file with the types that a specifier leads to, without a compiler. */
export function typesAt(importer: string, specifier: string): string | undefined {
  return lookup().resolveDtsSync(importer, specifier).path;
}
