import { existsSync } from "node:fs";
import { dirname, join } from "node:path";
import { ResolverFactory } from "oxc-resolver";
import { manifestAt } from "./packages.ts";

let resolver: ResolverFactory | undefined;

/** Returns the file that a module's code is loaded from at run time, rather than its types. */
export function runtimeFileOf(importer: string, specifier: string): string | undefined {
  resolver ??= new ResolverFactory({
    conditionNames: ["node", "import", "require", "default"],
    extensions: [".js", ".mjs", ".cjs"],
  });
  return resolver.sync(dirname(importer), specifier).path;
}

/** Returns the `type` in the nearest manifest above a file. */
export function packageTypeOf(file: string): string | undefined {
  for (let folder = dirname(file); ; folder = dirname(folder)) {
    const manifest = join(folder, "package.json");
    if (existsSync(manifest)) {
      const type = manifestAt(manifest)?.["type"];
      return typeof type === "string" ? type : undefined;
    }
    if (dirname(folder) === folder) return undefined;
  }
}
