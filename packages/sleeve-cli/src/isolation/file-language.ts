import { existsSync, readFileSync } from "node:fs";
import { dirname, extname, join } from "node:path";
import type { Language } from "../emit/printed.ts";
import type { SourceText } from "../project/source-text.ts";

/** The file endings of a language. */
export interface Endings {
  readonly language: Language;
  /** Of executable files. */
  readonly source: string;
  /** Of files that contain only types. */
  readonly types: string;
  /** Of a contract, which is always a module. */
  readonly contract: string;
}

/**
 * Returns the language of an adapter for its callers. Scripts run unchanged, so the adapter must be a script
 * if all callers are, if one is CommonJS, or if no config compiles scripts. ES modules can import CommonJS
 * too.
 */
export function endingsFor(callers: readonly SourceText[], hasConfig: boolean): Endings {
  // Declarations are not executed.
  const run = callers.filter(({ path }) => !/\.d\.[cm]?ts$/.test(path));
  const scripts = run.filter(({ path }) => /\.[cm]?jsx?$/.test(path));
  const isScript =
    scripts.length > 0 &&
    (scripts.length === run.length ||
      !hasConfig ||
      scripts.some((script) => languageOf(script) === "commonjs"));
  if (!isScript) return { language: "typescript", source: ".ts", types: ".ts", contract: ".contract.ts" };
  const language = scripts.every((script) => languageOf(script) === "module") ? "module" : "commonjs";
  const endings = scripts
    .filter((script) => languageOf(script) === language)
    .map(({ path }) => extname(path));
  const source = endings.every((name) => name === endings[0])
    ? (endings[0] ?? ".js").replace("x", "")
    : ".js";
  const contract = language === "module" ? `.contract${source}` : ".contract.mjs";
  return { language, source, types: source.replace("js", "ts").replace(".", ".d."), contract };
}

/** Returns the language of an existing file. */
export function languageOf({ path, text, sites }: Pick<SourceText, "path" | "text" | "sites">): Language {
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

/** Returns a file name without its ending. */
export function stemOf(file: string): string {
  return file.replace(/(\.d)?\.[cm]?[jt]sx?$/, "");
}
