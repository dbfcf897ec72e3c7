import type { Problem } from "../errors.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { collectFacts } from "./collect.ts";
import { type Survey, surveyOf } from "./survey.ts";

export interface SurveyOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  readonly onProgress?: ((done: number, all: number) => void) | undefined;
}

/** Surveys a project on disk. What could not be analysed is among the problems, and the rest is in the survey. */
export function runSurvey({ folder, tsconfig, onProgress }: SurveyOptions): {
  readonly survey: Survey;
  readonly problems: readonly Problem[];
} {
  using project = OpenProject.open(findProject(folder, tsconfig));
  return { survey: surveyOf(collectFacts(project, onProgress)), problems: project.problems };
}
