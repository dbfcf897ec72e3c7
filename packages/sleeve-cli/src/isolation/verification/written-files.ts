import { existsSync } from "node:fs";
import { isBuiltin } from "node:module";
import { dirname, join } from "node:path";
import type { CompileError } from "../../emit/compile-errors.ts";
import { type ImportSite, moduleRecordOf } from "../../parser/module-record.ts";
import { fileAt, typesAt } from "../../project/packages/file-lookup.ts";
import { runtimeFileOf } from "../../project/packages/runtime-file.ts";
import { languageOf } from "../file-language.ts";

/** Endings that a specifier in a script may omit. */
const OMITTED: Readonly<Record<"commonjs" | "module", readonly string[]>> = {
  commonjs: ["", ".js", ".cjs", ".json", "/index.js"],
  module: [""],
};

/**
 * Returns an error for each specifier of a script that leads nowhere, as the script will stand on the disk. The
 * compiler reports those of TypeScript, but no `require` of a script.
 *
 * @param files texts of files that are written together with it, by path
 */
export function unresolvedSpecifiers(
  path: string,
  text: string,
  files: ReadonlyMap<string, string>,
): readonly CompileError[] {
  if (!/\.[cm]?[jt]sx?$/.test(path)) return [];
  const { sites, syntaxErrors } = moduleRecordOf(path, text);
  const isScript = /\.[cm]?jsx?$/.test(path);
  const unresolved = isScript ? sites.filter((site) => !isResolved(site, path, text, sites, files)) : [];
  return [
    ...syntaxErrors.map(({ offset, message }) => ({
      path,
      offset,
      code: 0,
      text: `${message.replace(/\.$/, "")}.`,
    })),
    ...unresolved.map(({ offset, specifier }) => ({
      path,
      offset,
      code: 0,
      text: `The module ${JSON.stringify(specifier)} cannot be found.`,
    })),
  ];
}

function isResolved(
  { specifier, forms }: ImportSite,
  path: string,
  text: string,
  sites: readonly ImportSite[],
  files: ReadonlyMap<string, string>,
): boolean {
  if (isBuiltin(specifier)) return true;
  const isType = forms.includes("import type");
  if (!specifier.startsWith(".")) return isType || leadsToPackage(path, specifier);
  const target = join(dirname(path), specifier);
  if (isType) return isTypeFile(target, files) || fileAt(path, specifier) !== undefined;
  const language = languageOf({ path, text, sites }) === "module" ? "module" : "commonjs";
  return OMITTED[language].some(
    (ending) => files.has(`${target}${ending}`) || existsSync(`${target}${ending}`),
  );
}

/** A package without a file that can be loaded, such as one that has only types, is not the file's fault. */
function leadsToPackage(path: string, specifier: string): boolean {
  return runtimeFileOf(path, specifier) !== undefined || typesAt(path, specifier) !== undefined;
}

function isTypeFile(target: string, files: ReadonlyMap<string, string>): boolean {
  const stem = target.replace(/\.([cm]?)jsx?$/, "");
  const endings = [".ts", ".tsx", ".d.ts", ".mts", ".d.mts", ".cts", ".d.cts", ".js", ".mjs", ".cjs"];
  return files.has(target) || endings.some((ending) => files.has(`${stem}${ending}`));
}
