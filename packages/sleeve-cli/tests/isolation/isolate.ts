import { spawnSync } from "node:child_process";
import { readdirSync, readFileSync, rmSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { project, sleeve } from "../harness.ts";
import type { Style } from "./styles.ts";

const MODULES = join(import.meta.dirname, "../../../../node_modules");
const TSC = join(MODULES, "typescript/bin/tsc");

const COMPILER_OPTIONS = {
  strict: true,
  noUnusedLocals: true,
  module: "nodenext",
  target: "es2023",
  lib: ["es2023", "dom", "dom.iterable", "dom.asynciterable"],
  skipLibCheck: true,
  esModuleInterop: true,
  outDir: "out",
  rootDir: "src",
};

/** Creates the project of a style; for a built-in module, with the types of the runtime. */
export function projectOf({ files, module }: Pick<Style, "files" | "module">): string {
  const isOfNode = module.startsWith("node:");
  const compilerOptions = { ...COMPILER_OPTIONS, types: isOfNode ? ["node"] : [] };
  const root = project({
    "package.json": '{ "name": "office", "type": "module", "private": true }',
    "tsconfig.json": JSON.stringify({ compilerOptions, include: ["src"] }),
    "node_modules/@types/.keep": "",
    ...files,
  });
  for (const name of isOfNode ? ["@types/node", "undici-types"] : [])
    symlinkSync(join(MODULES, name), join(root, "node_modules", name));
  return root;
}

/** Returns the output of the compiled project, or the compile errors. */
export function printed(root: string): string {
  rmSync(join(root, "out"), { recursive: true, force: true });
  const compiled = spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" });
  if (compiled.status !== 0) return compiled.stdout;
  const { stdout, stderr } = spawnSync(process.execPath, [join(root, "out/main.js")], { encoding: "utf8" });
  return `${stdout}${stderr}`.trim();
}

/** Drafts, then moves the callers, with --write. */
export function isolate(root: string, module: string, ...options: readonly string[]) {
  const drafted = sleeve(root, "draft", module, "--write", "--json", ...options);
  const moved = sleeve(root, "move", module, "--write", "--json");
  return { drafted, moved };
}

/** Returns the files that still import the module, except its adapter and the module itself. */
export function importsLeft(root: string, module: string): readonly string[] {
  const name = module.replace(/^node:/, "").replace(/^src\//, "");
  const specifier = new RegExp(`["'](?:node:|\\./)?${name.replace(/[./]/g, "\\$&")}(?:/[\\w/.]*)?["']`);
  const isCaller = (file: string) => !file.endsWith("-adapter.ts") && !file.startsWith(name);
  return readdirSync(join(root, "src"), { recursive: true, encoding: "utf8" })
    .filter((file) => file.endsWith(".ts") && isCaller(file))
    .filter((file) => {
      const text = readFileSync(join(root, "src", file), "utf8");
      // A module augmentation has to name the module.
      return specifier.test(text.replace(/\bdeclare module .*/g, ""));
    });
}
