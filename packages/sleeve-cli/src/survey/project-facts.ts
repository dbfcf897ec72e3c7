import type { ProjectSources } from "../project/project-sources.ts";
import { filesReachedFrom } from "../project/reach.ts";
import { standingsIn } from "../project/standing.ts";
import type { SurveyFacts } from "./survey.ts";

/** What a survey tells of a project by its imports alone: packages, places, and what files hand on. */
export function projectFacts(
  project: ProjectSources,
): Pick<SurveyFacts, "fileCount" | "unresolved" | "packages" | "imports" | "leaks"> {
  const standings = standingsIn(project);
  return {
    fileCount: project.sources.length,
    unresolved: project.sources.flatMap((source) =>
      source.unresolved.map((offset) => project.placeOf(source, offset)),
    ),
    packages: project.packages.map((each) => ({
      ...each,
      standing: standings.get(each.name) ?? null,
      reached: reachOf(project, each.name),
    })),
    imports: project.imports.map(({ package: name, place, site }) => ({
      package: name,
      place,
      forms: site.forms,
    })),
    leaks: reExports(project),
  };
}

/**
 * The facts for a survey that asks only for imports, and not the compiler: a member is a name that is imported, and is used
 * where it is.
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

/** How many files have to be checked again when the types of a package change: those that import it, those that import these. */
function reachOf(project: ProjectSources, name: string): number {
  const importing = project.imports.filter((each) => each.package === name).map(({ source }) => source.path);
  return filesReachedFrom(project, importing).size;
}

/** `export … from "package"` hands the package's own declarations on. */
function reExports(project: ProjectSources): SurveyFacts["leaks"] {
  return project.imports.flatMap(({ package: name, site, place }) =>
    site.handsOn.map(({ name: shows, as }) => ({
      package: name,
      export: as,
      place,
      shows,
      how: "re-exported" as const,
    })),
  );
}
