import { spawnSync } from "node:child_process";
import { createRequire } from "node:module";

/** Compiles declarations of a project into a folder, as far as its errors allow. Returns the errors. */
export function compileDeclarations(root: string, tsconfig: string, folder: string): readonly string[] {
  const compiler = createRequire(import.meta.url)
    .resolve("typescript/package.json")
    .replace(/package\.json$/, "bin/tsc");
  const options = {
    declaration: true,
    emitDeclarationOnly: true,
    noEmit: false,
    composite: false,
    incremental: false,
    declarationMap: false,
    noEmitOnError: false,
    allowImportingTsExtensions: false,
    rewriteRelativeImportExtensions: true,
    stripInternal: true,
    outDir: folder,
    rootDir: root,
  };
  const args = Object.entries(options).flatMap(([name, value]) => [`--${name}`, String(value)]);
  const { stdout } = spawnSync(process.execPath, [compiler, "-p", tsconfig, "--pretty", "false", ...args], {
    cwd: root,
    encoding: "utf8",
  });
  return stdout.split("\n").filter((line) => line.includes("error"));
}
