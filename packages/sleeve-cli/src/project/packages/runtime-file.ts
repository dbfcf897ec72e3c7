import { existsSync, readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { ResolverFactory } from "oxc-resolver";

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
    if (existsSync(manifest)) return typeIn(manifest);
    if (dirname(folder) === folder) return undefined;
  }
}

function typeIn(manifest: string): string | undefined {
  try {
    const { type } = JSON.parse(readFileSync(manifest, "utf8")) as { type?: unknown };
    return typeof type === "string" ? type : undefined;
  } catch {
    return undefined;
  }
}
