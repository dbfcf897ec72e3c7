import { existsSync, readdirSync } from "node:fs";
import { dirname, join, relative, sep } from "node:path";
import { compareText } from "../../place.ts";
import { CONFIG_FILES } from "../config.ts";
import { unignoredFilesIn } from "../git.ts";
import type { Modules } from "../modules.ts";
import { Destinations } from "../packages/destinations.ts";
import { typesAt } from "../packages/file-lookup.ts";
import { type OutsideOptions, type PackageImport, resolveImports } from "../packages/outside-imports.ts";
import type { SourceText } from "../source-text.ts";
import { FileRecords } from "./file-records.ts";
import { sourceOf } from "./read-source.ts";

/** Files of a project that its compiler config does not include, such as tests, scripts and config files. */
export interface UncompiledFiles {
  readonly sources: readonly SourceText[];
  readonly imports: readonly PackageImport[];
}

/** Folders that contain no sources. */
const SKIPPED: ReadonlySet<string> = new Set(["node_modules", "dist", "build", "out", "coverage"]);

/**
 * Reads the files of a project that its compiler config does not include, and their imports, from their syntax.
 *
 * @param compiled paths of the files that it includes
 * @param outputs folders that the compiler writes
 */
export function uncompiledFilesIn(
  root: string,
  compiled: ReadonlySet<string>,
  outputs: readonly string[],
  options: OutsideOptions,
): UncompiledFiles {
  const inRepository = unignoredFilesIn(root)?.map((file) => join(root, file));
  const isOfOther = otherProjectsIn(root);
  const paths = (inRepository ?? filesBelow(root)).filter(
    (path) =>
      /(?<!\.d)\.[cm]?[jt]sx?$/.test(path) &&
      !compiled.has(path) &&
      !outputs.some((folder) => path.startsWith(`${folder}/`)) &&
      !CONFIG_FILES.includes(relative(root, path)) &&
      !isSkipped(relative(root, path)) &&
      !isOfOther(dirname(path)),
  );
  const records = FileRecords.start(paths);
  const reading = { root, elementsFrom: undefined, problems: [], components: undefined };
  const sources = paths.sort(compareText).flatMap((path) => sourceOf(path, records.get(path), reading) ?? []);
  const ownPaths = new Set([...compiled, ...paths]);
  const { imports } = resolveImports(new Destinations(FILE_MODULES, root, ownPaths), root, sources, options);
  return { sources, imports };
}

function isSkipped(file: string): boolean {
  return file.split(sep).some((name) => SKIPPED.has(name) || (name.startsWith(".") && name !== "."));
}

/** Returns whether a folder belongs to another project: one below the root with a manifest or a compiler config of its own. */
function otherProjectsIn(root: string): (folder: string) => boolean {
  const byFolder = new Map<string, boolean>();
  const isOfOther = (folder: string): boolean => {
    if (folder === root || dirname(folder) === folder) return false;
    const isOther =
      byFolder.get(folder) ??
      (PROJECT_FILES.some((name) => existsSync(join(folder, name))) || isOfOther(dirname(folder)));
    byFolder.set(folder, isOther);
    return isOther;
  };
  return isOfOther;
}

const PROJECT_FILES = ["package.json", "tsconfig.json", "jsconfig.json"];

/** Files outside a repository. */
function filesBelow(root: string): string[] {
  const files: string[] = [];
  const search = (folder: string): void => {
    for (const entry of readdirSync(folder, { withFileTypes: true })) {
      const path = join(folder, entry.name);
      if (entry.isFile()) files.push(path);
      else if (entry.isDirectory() && !SKIPPED.has(entry.name) && !entry.name.startsWith(".")) search(path);
    }
  };
  search(root);
  return files;
}

/** Resolution without a compiler, which does not have these files. */
const FILE_MODULES: Modules = {
  allFiles: () => [],
  isNamed: () => false,
  resolveModule: (importer, { specifier }) => typesAt(importer, specifier),
  elementsFrom: () => undefined,
  hasPathAliases: () => false,
  isClassic: false,
  referencedFolders: () => [],
  outputFolders: () => [],
  translatedSettings: [],
  configDiagnostics: () => [],
};
