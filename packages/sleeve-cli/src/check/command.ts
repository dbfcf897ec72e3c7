import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { type Problem, ProblemError } from "../errors.ts";
import { type Config, loadConfig } from "../project/config.ts";
import { covers } from "../project/covers.ts";
import { OpenProject } from "../project/open-project.ts";
import { builtInOf } from "../project/packages.ts";
import { findProject } from "../project/project.ts";
import { interruptionIn, Transaction } from "../project/transaction.ts";
import { changedIn } from "../project/work-tree.ts";
import { checkBorder, outsideInTarget } from "./border.ts";
import type { CheckResult, WrapperResult } from "./check.ts";
import type { Finding } from "./finding.ts";
import { RECORDED_FINDINGS_FILE, recordedFindingsIn, recordOf } from "./recorded.ts";
import { allFindings, type Circumstances, settle } from "./settle.ts";
import { checkWrapper } from "./wrapper.ts";

export interface CheckOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** The day, as `2026-11-25`. */
  readonly today: string;
}

export interface CheckRunOptions extends CheckOptions {
  /** Whether to check only what has changed since the last commit. */
  readonly changed?: boolean | undefined;
  /** Whether to record today's findings, so that only new ones fail. */
  readonly record?: boolean | undefined;
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
export async function runCheck(options: CheckRunOptions): Promise<Checked> {
  const { folder, tsconfig, today, changed, record } = options;
  const config = await configOf(folder, tsconfig);
  using project = openForCheck(folder, tsconfig, config);
  const { root } = project;
  if (record) {
    const checked = checkProject(project, config, { today, recorded: [] });
    writeRecord(root, recordOf(allFindings(checked.result)));
    return checkProject(project, config, { today, recorded: recordedFindingsIn(root) });
  }
  const files = changed ? changedFiles(root) : undefined;
  return checkProject(project, config, { today, recorded: recordedFindingsIn(root) }, files);
}

/** Opens a project as its config has it checked. */
export function openForCheck(folder: string, tsconfig: string | undefined, config: Config): OpenProject {
  const names = Object.keys(config.borders ?? {});
  return OpenProject.open(findProject(folder, tsconfig ?? config.tsconfig), {
    legacy: config.legacy,
    builtIns: names.some((name) => builtInOf(name) !== undefined),
  });
}

/** @throws {ProblemError} `NO_REPOSITORY` */
function changedFiles(root: string): ReadonlySet<string> {
  const files = changedIn(root);
  if (files) return new Set(files);
  throw new ProblemError(
    "NO_REPOSITORY",
    `${root} is in no git repository, so that nothing tells what has changed. Run without --changed.`,
  );
}

function writeRecord(root: string, findings: ReturnType<typeof recordOf>): void {
  using transaction = Transaction.begin(root);
  transaction.recover();
  const path = join(root, RECORDED_FINDINGS_FILE);
  const before = existsSync(path) ? readFileSync(path) : undefined;
  transaction.write([{ path, before, after: Buffer.from(`${JSON.stringify({ findings }, null, 2)}\n`) }]);
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

/** Checks what a config names in a project that is open; of some files only, where these are given. */
export function checkProject(
  project: OpenProject,
  config: Config,
  circumstances: Circumstances,
  files?: ReadonlySet<string>,
): Checked {
  const { wrappers, problems } = checkWrappers(project, config, files);
  const borders = Object.entries(config.borders ?? {}).map(([name, entries]) => {
    const border = checkBorder(project, name, entries);
    const findings = border.findings.filter(({ place }) => !files || files.has(place.file));
    return { ...border, findings, holds: findings.length === 0 };
  });
  const { result, unused: notFound } = settle(wrappers, borders, config, circumstances);
  // What is looked at in part may be accepted in another.
  const unused = files ? [] : notFound;
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
    problems: [...interruptionIn(project.root), ...project.problems, ...problems, ...strangers, ...settled],
    texts: new Map(project.sources.map(({ file, text }) => [file, text])),
  };
}

function checkWrappers(
  project: OpenProject,
  { targets = {}, facades = [] }: Config,
  files: ReadonlySet<string> | undefined,
) {
  const wrappers: WrapperResult<Finding>[] = [];
  const problems: Problem[] = [];
  for (const [target, names] of Object.entries(targets)) {
    for (const [index, wrapper] of names.entries()) {
      const places = [target, wrapper].map((place) => place.split("#")[0] ?? "");
      if (files && !places.some((file) => files.has(file))) continue;
      try {
        const checked = checkWrapper(project, target, wrapper, facades.includes(wrapper));
        // What is wrong with the target itself is told once; in a file with an adapter, it is the adapter that imports.
        const isAlone = names.every((name) => name.split("#")[0] !== target.split("#")[0]);
        const own = index === 0 && isAlone ? outsideInTarget(project, target) : [];
        wrappers.push({ ...checked, findings: [...checked.findings, ...own] });
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        problems.push(error);
      }
    }
  }
  return { wrappers, problems };
}
