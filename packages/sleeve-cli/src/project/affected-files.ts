import type { ImportSite } from "../parser/module-record.ts";
import type { ProjectSources } from "./project-sources.ts";
import type { SourceText } from "./source-text.ts";

/**
 * Returns the paths of files affected by outside packages: those that import one, those that import these,
 * and so on.
 */
export function filesReachedFromOutside(project: ProjectSources): ReadonlySet<string> {
  return filesReachedFrom(
    project,
    project.imports.map(({ source }) => source.path),
  );
}

/** Returns the paths of files, of those that import them, and so on. */
export function filesReachedFrom(project: ProjectSources, paths: Iterable<string>): ReadonlySet<string> {
  const importers = importersByPath(project);
  const reached = new Set(paths);
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

/** Cached per project, because it is used for each package. */
const kept = new WeakMap<ProjectSources, ReadonlyMap<string, readonly string[]>>();

/** Returns the importers of each of the project's own files. */
function importersByPath(project: ProjectSources): ReadonlyMap<string, readonly string[]> {
  const importersByFile = kept.get(project) ?? readImporters(project);
  kept.set(project, importersByFile);
  return importersByFile;
}

function readImporters(project: ProjectSources): ReadonlyMap<string, readonly string[]> {
  const outside = new Set(project.imports.map(({ site }) => site));
  const importers = new Map<string, string[]>();
  for (const source of project.sources) {
    for (const site of source.sites) {
      if (outside.has(site)) continue;
      const target = ownTargetOf(project, source, site);
      if (target === undefined) continue;
      const importingFiles = importers.get(target);
      if (importingFiles) importingFiles.push(source.path);
      else importers.set(target, [source.path]);
    }
  }
  return importers;
}

/** Returns the file that an import leads to, if that is none of an outside module. Most need no compiler. */
export function ownTargetOf(
  project: ProjectSources,
  { path }: SourceText,
  site: ImportSite,
): string | undefined {
  return project.destinations.fileOf(path, site);
}
