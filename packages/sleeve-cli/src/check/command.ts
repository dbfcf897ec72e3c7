import { type Problem, ProblemError } from "../errors.ts";
import { type Config, loadConfig } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { type CheckResult, checkBorder, type WrapperResult } from "./check.ts";
import type { Finding } from "./finding.ts";
import { covers, settle } from "./settle.ts";
import { checkWrapper } from "./wrapper.ts";

export interface CheckOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
}

/** What a check came to. */
export interface Checked {
  readonly result: CheckResult;
  readonly problems: readonly Problem[];
  /** The text of each of the project's files, to show findings in. */
  readonly texts: ReadonlyMap<string, string>;
}

/**
 * Checks the wrappers and borders that a project's config names.
 *
 * A wrapper that the config names wrongly is among the problems; the others are checked.
 *
 * @throws {ProblemError} `NO_CONFIG`, and what finding the project or loading its config throws
 */
export async function runCheck({ folder, tsconfig }: CheckOptions): Promise<Checked> {
  const config = await configOf(folder, tsconfig);
  using project = OpenProject.open(findProject(folder, tsconfig ?? config.tsconfig));
  return checkProject(project, config);
}

/** @throws {ProblemError} `NO_CONFIG`, and what finding the project or loading its config throws */
export async function configOf(folder: string, tsconfig: string | undefined): Promise<Config> {
  const config = await loadConfig(findProject(folder, tsconfig).root);
  if (config) return config;
  throw new ProblemError(
    "NO_CONFIG",
    `There is no sleeve.config.ts in ${folder}. Write one that names targets, their wrappers, and borders; see the README.`,
  );
}

/** Checks what a config names in a project that is open. */
export function checkProject(project: OpenProject, config: Config): Checked {
  const { wrappers, problems } = checkWrappers(project, config);
  const borders = Object.entries(config.borders ?? {}).map(([name, files]) =>
    checkBorder(name, files, project.imports),
  );
  const { result, unused } = settle(wrappers, borders, config);
  const strangers = Object.values(config.borders ?? {})
    .flat()
    .filter((entry) => !project.sources.some(({ file }) => covers(entry, file)))
    .map(
      (entry): Problem => ({
        code: "NO_SUCH_FILE",
        message: `The config names ${entry} under borders, which is no file or folder of the project. Correct the path.`,
      }),
    );
  const settled = unused.map(
    ({ finding, in: place, member }): Problem => ({
      code: "NOT_FOUND",
      message: `The config accepts ${finding}${member === undefined ? "" : ` of ${member}`} in ${place}, where there is none any more. Remove it.`,
    }),
  );
  return {
    result,
    problems: [...project.problems, ...problems, ...strangers, ...settled],
    texts: new Map(project.sources.map(({ file, text }) => [file, text])),
  };
}

function checkWrappers(project: OpenProject, { targets = {}, facades = [] }: Config) {
  const wrappers: WrapperResult<Finding>[] = [];
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
