import { type Problem, ProblemError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import { loadConfig } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { ProjectSources } from "../project/project-sources.ts";
import { interruptionIn } from "../project/transaction.ts";
import { collectFacts } from "./collect.ts";
import { focusedSurvey, type SurveyFocus } from "./focus.ts";
import { importFacts } from "./project-facts.ts";
import type { Survey, SurveyFacts } from "./survey.ts";

export interface SurveyOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** Whether only imports are asked for, for which the compiler need not read the project. */
  readonly imports?: boolean | undefined;
  /** Whether the built-ins of the runtime, and what is global, count as outside too. */
  readonly builtIns?: boolean | undefined;
  /** Whether to ask for the signature of each call. */
  readonly signatures?: boolean | undefined;
  readonly focus?: SurveyFocus | undefined;
  readonly onProgress?: ((done: number, all: number) => void) | undefined;
}

/**
 * Surveys a project on disk. What could not be analysed is among the problems, and the rest is in the survey.
 *
 * @throws {ProblemError} `NOT_IMPORTED`, `NO_SUCH_FILE` where the focus is on what there is not, and what finding the
 * project and its config throws
 */
export async function runSurvey(options: SurveyOptions): Promise<{
  readonly survey: Survey;
  readonly problems: readonly Problem[];
}> {
  const { folder, tsconfig, imports, builtIns, signatures, focus = {}, onProgress } = options;
  const config = (await loadConfig(findProject(folder, tsconfig).root)) ?? {};
  const found = findProject(folder, tsconfig ?? config.tsconfig);
  const outside = { legacy: config.legacy, builtIns };
  const surveyed = (project: ProjectSources, factsOf: () => SurveyFacts) => {
    requireFocus(project, focus);
    return {
      survey: focusedSurvey(factsOf(), focus),
      problems: [...interruptionIn(project.root), ...project.problems],
    };
  };
  if (imports) {
    const { ModuleResolver } = await import("../project/module-resolver.ts");
    const modules = new ModuleResolver(found);
    const project = new ProjectSources(found.root, modules, outside, { records: modules.records });
    return surveyed(project, () => importFacts(project));
  }
  using project = OpenProject.open(found, outside);
  return surveyed(project, () => collectFacts(project, { onProgress, globals: builtIns, signatures }));
}

function requireFocus(project: ProjectSources, { package: name, file }: SurveyFocus): void {
  const known = project.packages.map((each) => each.name);
  if (name !== undefined && !known.includes(name) && !name.startsWith("global ")) {
    const meant = nearestName(name, known);
    throw new ProblemError(
      "NOT_IMPORTED",
      `No file of the project imports ${name}.${meant ? ` Did you mean ${meant}?` : " Name a package that the survey lists."}`,
    );
  }
  const files = project.sources.map((each) => each.file);
  if (file !== undefined && !files.includes(file)) {
    const meant = nearestName(file, files);
    throw new ProblemError(
      "NO_SUCH_FILE",
      `There is no file ${file} in the project.${meant ? ` Did you mean ${meant}?` : " Give its path from the project's folder."}`,
    );
  }
}
