import { existsSync, readFileSync } from "node:fs";
import { dirname, extname, join } from "node:path";
import type { SourceText } from "../project/project-sources.ts";

/** What a file is written in: TypeScript, a script that is a module, or a script of CommonJS. */
export type Language = "typescript" | "module" | "commonjs";

/** How a language ends the names of its files. */
export interface Endings {
  readonly language: Language;
  /** Of what is run. */
  readonly source: string;
  /** Of what has types and nothing else. */
  readonly types: string;
  /** Of a contract, which is a module always. */
  readonly contract: string;
}

/**
 * In what an adapter has to be written for its callers. Scripts are run as they are, so that it has to be one too where all of
 * them are scripts, where one is of CommonJS, or where there is no config that would have scripts compiled. A script of
 * CommonJS serves modules too.
 */
export function endingsFor(callers: readonly SourceText[], hasConfig: boolean): Endings {
  // Declarations are not run.
  const run = callers.filter(({ path }) => !/\.d\.[cm]?ts$/.test(path));
  const scripts = run.filter(({ path }) => /\.[cm]?jsx?$/.test(path));
  const isScript =
    scripts.length > 0 &&
    (scripts.length === run.length || !hasConfig || scripts.some((each) => languageOf(each) === "commonjs"));
  if (!isScript) return { language: "typescript", source: ".ts", types: ".ts", contract: ".contract.ts" };
  const language = scripts.every((each) => languageOf(each) === "module") ? "module" : "commonjs";
  const wanted = scripts.filter((each) => languageOf(each) === language).map(({ path }) => extname(path));
  const source = wanted.every((each) => each === wanted[0]) ? (wanted[0] ?? ".js").replace("x", "") : ".js";
  const contract = language === "module" ? `.contract${source}` : ".contract.mjs";
  return { language, source, types: source.replace("js", "ts").replace(".", ".d."), contract };
}

/** In what a file that there is is written. */
export function languageOf({ path, text, sites }: SourceText): Language {
  if (/tsx?$/.test(path)) return "typescript";
  if (path.endsWith(".cjs")) return "commonjs";
  if (path.endsWith(".mjs") || sites.some(({ forms }) => forms.some((form) => IS_OF_MODULES.has(form))))
    return "module";
  if (/\brequire\s*\(|\bmodule\.exports\b|\bexports\.\w/.test(text)) return "commonjs";
  return typeOfPackage(dirname(path)) === "module" ? "module" : "commonjs";
}

const IS_OF_MODULES: ReadonlySet<string> = new Set([
  "named",
  "default",
  "namespace",
  "side effect",
  "re-export",
]);

function typeOfPackage(folder: string): unknown {
  const manifest = join(folder, "package.json");
  if (existsSync(manifest)) {
    try {
      return (JSON.parse(readFileSync(manifest, "utf8")) as { type?: unknown }).type;
    } catch {
      return undefined;
    }
  }
  return dirname(folder) === folder ? undefined : typeOfPackage(dirname(folder));
}

/** The name of a file without what ends it. */
export function stemOf(file: string): string {
  return file.replace(/(\.d)?\.[cm]?[jt]sx?$/, "");
}
