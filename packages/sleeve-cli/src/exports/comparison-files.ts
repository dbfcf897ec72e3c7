import { dirname, relative } from "node:path/posix";
import type { ExportsRecord } from "../documents/exports-document.ts";
import { applyEdits } from "../isolation/text-edits.ts";
import { clientIrrelevantParts } from "../parser/declaration-details.ts";
import { moduleRecordOf } from "../parser/module-record.ts";
import { stringLiteral } from "../written-text.ts";
import { declarationTargets } from "./entry-points.ts";

/** Folders, in memory, of the declarations before and now, relative to the project. */
const FOLDERS = { before: ".sleeve/exports/before", now: ".sleeve/exports/now" } as const;

/** Which of two versions. */
export type Side = keyof typeof FOLDERS;

/** The folder of both, relative to the project. */
export const COMPARISON_FOLDER = ".sleeve/exports";

/** Returns the path of a declaration file in the comparison, relative to the project. */
export function comparedPath(side: Side, file: string): string {
  return `${FOLDERS[side]}/${file}`;
}

/** Returns the declaration file, relative to its version, for a path in the comparison. */
export function declarationFile(path: string): string {
  return path.replace(/^(?:before|now)\//, "");
}

/**
 * Returns the texts of the files to compare, by path relative to the project. Files that are the same in both
 * versions, with all that they import, are in the comparison once: their types are then identical.
 */
export function comparisonFiles(before: ExportsRecord, now: ExportsRecord): ReadonlyMap<string, string> {
  const shared = sharedFiles(before, now);
  const symbols = uniqueSymbols(before);
  const files = new Map<string, string>();
  for (const [file, text] of Object.entries(before.files))
    files.set(comparedPath("before", file), comparable(file, text) + symbolExports(text));
  for (const [file, text] of Object.entries(now.files))
    files.set(
      comparedPath("now", file),
      shared.has(file) ? reexport(file, text) : withSymbolsOf(symbols, file, comparable(file, text)),
    );
  return files;
}

const UNIQUE_SYMBOL = /^((?:export )?declare const ([\w$]+)): unique symbol;$/gm;

/** Start of the names under which a file exports its unique symbols to the other version. */
const SYMBOL_PREFIX = "sleeveSymbol_";

/** Whether a name is exported only for the comparison. */
export function isComparisonExport(name: string): boolean {
  return name.startsWith(SYMBOL_PREFIX);
}

/** Returns the files that declare unique symbols, by the symbol's name. */
function uniqueSymbols({ files }: ExportsRecord): ReadonlyMap<string, string> {
  return new Map(
    Object.entries(files).flatMap(([file, text]) =>
      [...text.matchAll(UNIQUE_SYMBOL)].map(([, , name = ""]) => [name, file] as const),
    ),
  );
}

function symbolExports(text: string): string {
  return [...text.matchAll(UNIQUE_SYMBOL)]
    .map(([, , name = ""]) => `\nexport { ${name} as ${SYMBOL_PREFIX}${name} };`)
    .join("");
}

/** A unique symbol is the same one in both versions if it has the same name. */
function withSymbolsOf(symbols: ReadonlyMap<string, string>, file: string, text: string): string {
  return text.replace(UNIQUE_SYMBOL, (match, start: string, name: string) => {
    const origin = symbols.get(name);
    if (origin === undefined) return match;
    const path = relative(dirname(comparedPath("now", file)), comparedPath("before", origin));
    return `${start}: typeof import(${stringLiteral(importPath(path))}).${SYMBOL_PREFIX}${name};`;
  });
}

/** Returns part of a declaration file in the comparison as the version has it. */
export function originalText(text: string): string {
  return text.replace(SYMBOL_REFERENCE, "unique symbol");
}

const SYMBOL_REFERENCE = new RegExp(`typeof import\\("[^"]+"\\)\\.${SYMBOL_PREFIX}[\\w$]+`, "g");

function moduleType({ files }: ExportsRecord): unknown {
  return (JSON.parse(files["package.json"] ?? "{}") as { readonly type?: unknown }).type;
}

function sharedFiles(before: ExportsRecord, now: ExportsRecord): ReadonlySet<string> {
  if (moduleType(before) !== moduleType(now)) return new Set();
  const shared = new Set(
    Object.entries(now.files).flatMap(([file, text]) =>
      before.files[file] === text && isReexportable(text) ? [file] : [],
    ),
  );
  const imports = new Map(
    [...shared].map((file) => [
      file,
      moduleRecordOf(file, now.files[file] ?? "").sites.flatMap(({ specifier }) =>
        specifier.startsWith(".")
          ? (declarationTargets(file, specifier).find((path) => path in now.files) ?? [])
          : [],
      ),
    ]),
  );
  for (let size = -1; size !== shared.size; ) {
    size = shared.size;
    for (const [file, targets] of imports)
      if (targets.some((target) => !shared.has(target))) shared.delete(file);
  }
  return shared;
}

/** Whether everything that a file exports can be exported by another. */
function isReexportable(text: string): boolean {
  return /^\s*(?:export|import)\b/m.test(text) && !/\bexport\s*=/.test(text);
}

function reexport(file: string, text: string): string {
  const path = relative(dirname(comparedPath("now", file)), comparedPath("before", file));
  const specifier = stringLiteral(importPath(path));
  const hasDefault = /\bexport\s+default\b|\bas\s+default\b/.test(text);
  return `export * from ${specifier};\n${hasDefault ? `export { default } from ${specifier};\n` : ""}`;
}

/** Returns the path by which a declaration file is imported. */
export function importPath(file: string): string {
  return file.replace(/\.d\.([cm]?)ts$/, ".$1js");
}

/** Returns declarations without what clients cannot use. */
function comparable(file: string, text: string): string {
  if (!/\.d\.[cm]?ts$/.test(file)) return text;
  return applyEdits(text, clientIrrelevantParts(file, text));
}
