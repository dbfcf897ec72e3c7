import { dirname, join } from "node:path";
import type { ImportSite } from "../parser/module-record.ts";
import type { OpenProject, SourceText } from "./open-project.ts";
import { packageNameOf } from "./packages.ts";

/**
 * The paths of the files into which outside packages reach by imports: those that import one, those that import
 * these, and so on.
 */
export function filesReachedFromOutside(project: OpenProject): ReadonlySet<string> {
  const importers = importersByPath(project);
  const reached = new Set(project.imports.map(({ source }) => source.path));
  const waiting = [...reached];
  for (let path = waiting.pop(); path !== undefined; path = waiting.pop()) {
    for (const importer of importers.get(path) ?? []) {
      if (reached.has(importer)) continue;
      reached.add(importer);
      waiting.push(importer);
    }
  }
  return reached;
}

/** For each of the project's own files, those of its own that import it. */
function importersByPath(project: OpenProject): ReadonlyMap<string, readonly string[]> {
  const outside = new Set(project.packages.map(({ name }) => name));
  const importers = new Map<string, string[]>();
  for (const source of project.sources) {
    for (const site of source.sites) {
      if (outside.has(packageNameOf(site.specifier) ?? "")) continue;
      const target = ownTargetOf(project, source, site);
      if (target === undefined) continue;
      const known = importers.get(target);
      if (known) known.push(source.path);
      else importers.set(target, [source.path]);
    }
  }
  return importers;
}

/** The file of the project's own, if any, that an import leads to. Most can be named without asking the compiler. */
export function ownTargetOf(
  project: OpenProject,
  { path }: SourceText,
  { specifier, offset }: ImportSite,
): string | undefined {
  const target = join(dirname(path), specifier);
  const bare = target.replace(/\.([cm]?)jsx?$/, ".$1ts");
  const guesses = [target, bare, `${target}.ts`, `${target}.tsx`, join(target, "index.ts")];
  const guess = specifier.startsWith(".") ? guesses.find((each) => project.isOwn(each)) : undefined;
  return guess ?? project.program.resolveModule(path, offset);
}
