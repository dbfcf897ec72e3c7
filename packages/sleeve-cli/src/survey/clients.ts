import { join } from "node:path";
import { ownTargetOf } from "../project/affected-files.ts";
import type { ProjectSources } from "../project/project-sources.ts";
import type { ImportedNames } from "./resurvey.ts";
import type { SurveyFacts } from "./survey.ts";

/** Names of exports that expose an outside type, by file; with `*` for the whole module. */
type Exposures = Map<string, Set<string>>;

/** An import of an own file by another. */
interface OwnImport {
  readonly path: string;
  readonly target: string;
  readonly names: readonly string[];
  readonly reexports: readonly { readonly name: string; readonly as: string }[];
}

/**
 * Counts for each package the files that do not import it, and see its types through exports that expose them. Only
 * these need a recheck when the implementation behind the exports changes; there are none if nothing leaks.
 */
export function clientCounts(
  project: ProjectSources,
  leaks: SurveyFacts["leaks"],
): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  let imports: readonly OwnImport[] | undefined;
  for (const name of new Set(leaks.map((leak) => leak.package))) {
    imports ??= ownImportsOf(project);
    const packageLeaks = leaks.filter((leak) => leak.package === name);
    const importers = new Set(
      project.imports.filter((site) => site.package === name).map(({ source }) => source.path),
    );
    const exposed = exposuresOf(project, packageLeaks, imports);
    const clients = imports.filter(({ path, target, names, reexports }) => {
      const exportNames = [...names, ...reexports.map((reexport) => reexport.name)];
      return !importers.has(path) && exportNames.some((imported) => isExposed(exposed, target, imported));
    });
    counts.set(name, new Set(clients.map(({ path }) => path)).size);
  }
  return counts;
}

/** Returns what the project's own files import from each other. */
export function importedNamesOf(project: ProjectSources): ImportedNames {
  const names = new Set<string>();
  const reexportedFiles = new Set<string>();
  for (const { target, ...site } of ownImportsOf(project))
    for (const name of [...site.names, ...site.reexports.map((reexport) => reexport.name)]) {
      if (name === "*") reexportedFiles.add(target);
      else names.add(name);
    }
  return { names: [...names], whole: [...reexportedFiles] };
}

function ownImportsOf(project: ProjectSources): readonly OwnImport[] {
  const outside = new Set(project.imports.map(({ site }) => site));
  return project.sources.flatMap((source) =>
    source.sites.flatMap((site) => {
      const target = outside.has(site) ? undefined : ownTargetOf(project, source, site);
      return target === undefined
        ? []
        : [{ path: source.path, target, names: site.names, reexports: site.reexports }];
    }),
  );
}

/** Returns the exports that expose a leak, here or through files that re-export them. */
function exposuresOf(
  project: ProjectSources,
  leaks: SurveyFacts["leaks"],
  imports: readonly OwnImport[],
): Exposures {
  const exposed: Exposures = new Map();
  let count = 0;
  const add = (path: string, name: string): void => {
    const names = exposed.get(path) ?? new Set(["*"]);
    exposed.set(path, names);
    if (!names.has(name)) count += 1;
    names.add(name);
  };
  // A member of a class or object is imported with it.
  for (const { place, export: name } of leaks)
    add(join(project.root, place.file), name.split(".")[0] ?? name);
  for (let before = -1; before !== count; ) {
    before = count;
    for (const { path, target, reexports } of imports)
      for (const { name, as } of reexports) {
        if (!isExposed(exposed, target, name)) continue;
        if (name !== "*" || as !== "*") add(path, as);
        else for (const exported of exposed.get(target) ?? []) add(path, exported);
      }
  }
  return exposed;
}

function isExposed(exposed: Exposures, path: string, name: string): boolean {
  return exposed.get(path)?.has(name) === true;
}
