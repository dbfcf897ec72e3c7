import { type Problem, ProblemError } from "../errors.ts";
import { type Config, loadConfig } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { type CheckResult, checkBorder, checkResult, covers, type WrapperResult } from "./check.ts";
import { checkWrapper } from "./wrapper.ts";

export interface CheckOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
}

/**
 * Checks the wrappers and borders that a project's config names.
 *
 * A wrapper that the config names wrongly is among the problems; the others are checked.
 *
 * @throws {ProblemError} `NO_CONFIG`, and what finding the project or loading its config throws
 */
export async function runCheck({ folder, tsconfig }: CheckOptions): Promise<{
  readonly result: CheckResult;
  readonly problems: readonly Problem[];
}> {
  const { root } = findProject(folder, tsconfig);
  const config = await loadConfig(root);
  if (!config) {
    throw new ProblemError(
      "NO_CONFIG",
      `There is no sleeve.config.ts in ${folder}. Write one that names targets, their wrappers, and borders; see the README.`,
    );
  }
  using project = OpenProject.open(findProject(folder, tsconfig ?? config.tsconfig));
  const { wrappers, problems } = checkWrappers(project, config);
  const borders = Object.entries(config.borders ?? {}).map(([name, files]) =>
    checkBorder(name, files, project.imports),
  );
  const strangers = Object.values(config.borders ?? {})
    .flat()
    .filter((entry) => !project.sources.some(({ file }) => covers(entry, file)))
    .map(
      (entry): Problem => ({
        code: "NO_SUCH_FILE",
        message: `The config names ${entry} under borders, which is no file or folder of the project. Correct the path.`,
      }),
    );
  return {
    result: checkResult(wrappers, borders),
    problems: [...project.problems, ...problems, ...strangers],
  };
}

function checkWrappers(project: OpenProject, { targets = {}, facades = [] }: Config) {
  const wrappers: WrapperResult[] = [];
  const problems: Problem[] = [];
  for (const [target, names] of Object.entries(targets)) {
    for (const wrapper of names) {
      try {
        wrappers.push(checkWrapper(project, target, wrapper, facades.includes(wrapper)));
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        problems.push(error);
      }
    }
  }
  return { wrappers, problems };
}
