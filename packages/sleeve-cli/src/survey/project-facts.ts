import { filesReachedFrom } from "../project/affected-files.ts";
import { dependencyStatusesIn, keywordsIn } from "../project/packages/dependency-status.ts";
import type { ProjectSources } from "../project/project-sources.ts";
import { clientCounts } from "./clients.ts";
import type { SurveyFacts } from "./survey.ts";

/**
 * Returns the facts that follow from imports: packages, places, and re-exports.
 *
 * @param found leaks that the compiler finds. Default: clients of leaks are not counted.
 */
export function projectFacts(
  project: ProjectSources,
  found?: SurveyFacts["leaks"],
): Pick<SurveyFacts, "fileCount" | "unresolved" | "packages" | "imports" | "leaks"> {
  const dependencies = dependencyStatusesIn(project);
  const keywords = keywordsIn(project);
  const leaks = [...(found ?? []), ...reExports(project)];
  const clients = found && clientCounts(project, leaks);
  return {
    fileCount: project.sources.length,
    unresolved: project.sources.flatMap((source) =>
      source.unresolved.map((offset) => project.placeOf(source, offset)),
    ),
    packages: project.packages.map((pkg) => ({
      ...pkg,
      dependency: dependencies.get(pkg.name) ?? null,
      keywords: keywords.get(pkg.name) ?? [],
      affectedCount: affectedFilesOf(project, pkg.name),
      clientCount: clients?.get(pkg.name) ?? 0,
    })),
    imports: project.imports.map(({ package: name, place, site }) => ({
      package: name,
      place,
      forms: site.forms,
    })),
    leaks,
  };
}

/**
 * Returns the facts for a survey of imports, without the compiler: a member is an imported name, used at its
 * import.
 */
export function importFacts(project: ProjectSources): SurveyFacts {
  return {
    level: "imports",
    ...projectFacts(project),
    uses: project.imports.flatMap(({ package: name, place, site }) =>
      site.names.map((member) => ({
        package: name,
        member,
        kind: "import" as const,
        call: undefined,
        place,
      })),
    ),
  };
}

/**
 * Counts files affected by a change of a package's types: those that import it, those that import these, and
 * so on.
 */
function affectedFilesOf(project: ProjectSources, name: string): number {
  const importing = project.imports.filter((site) => site.package === name).map(({ source }) => source.path);
  return filesReachedFrom(project, importing).size;
}

/** `export … from "package"` re-exports the package's own declarations. */
function reExports(project: ProjectSources): SurveyFacts["leaks"] {
  return project.imports.flatMap(({ package: name, site, place }) =>
    site.reexports.map(({ name: exposes, as }) => ({
      package: name,
      export: as,
      place,
      exposes,
      how: "re-exported" as const,
    })),
  );
}
