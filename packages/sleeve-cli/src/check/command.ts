import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { CheckResult, Finding, WrapperResult } from "../documents/check-document.ts";
import { CliError, type Problem } from "../errors.ts";
import { staleFilesIn } from "../generation/regenerate.ts";
import { exportParts } from "../place.ts";
import { type Config, configTextIn, loadConfig } from "../project/config.ts";
import { changedFilesIn } from "../project/git.ts";
import { OpenProject } from "../project/open-project.ts";
import { builtInOf } from "../project/packages/packages.ts";
import { pathMatches } from "../project/path-match.ts";
import { findProject } from "../project/project.ts";
import { Transaction } from "../project/writing/transaction.ts";
import { allFindings, applyConfig, type RunContext } from "./apply-config.ts";
import { checkBorder, computedImports, outsideInTarget } from "./border.ts";
import { Debt, withDebtLimit } from "./debt.ts";
import { RECORDED_FINDINGS_FILE, recordedFindingsIn, recordOf } from "./recorded-findings.ts";
import { unmatchedNames } from "./unmatched-names.ts";
import { checkWrapper } from "./wrapper.ts";

export interface CheckOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** The date, as `2026-11-25`. */
  readonly today: string;
}

export interface CheckRunOptions extends CheckOptions {
  /** Whether to check only files changed since the last commit. */
  readonly changed?: boolean | undefined;
  /** Whether to record the current findings, so that only new ones fail. */
  readonly record?: boolean | undefined;
  /** Called before each wrapper with the number of those that are checked, and of all. */
  readonly onProgress?: ((done: number, all: number) => void) | undefined;
}

/** What a check returns. */
export interface Checked {
  readonly result: CheckResult;
  readonly problems: readonly Problem[];
  /** Texts of the project's files, to show findings in. */
  readonly texts: ReadonlyMap<string, string>;
}

/**
 * Checks the wrappers and borders in a project's config.
 *
 * Invalid config entries are returned as problems; everything else is checked.
 *
 * @throws {CliError} `NO_CONFIG`, and the errors of finding the project and loading its config
 */
export async function runCheck(options: CheckRunOptions): Promise<Checked> {
  const { folder, tsconfig, today, changed, record, onProgress } = options;
  const config = await configOf(folder, tsconfig);
  using project = openForCheck(folder, tsconfig, config);
  const { root } = project;
  if (record) {
    const checked = checkProject(project, config, { today, recorded: [] });
    writeRecord(root, recordOf(allFindings(checked.result)));
    return checkProject(project, config, { today, recorded: recordedFindingsIn(root) });
  }
  const files = changed ? changedFiles(root) : undefined;
  return checkProject(project, config, { today, recorded: recordedFindingsIn(root), onProgress }, files);
}

/** Opens a project with the settings of its config. */
export function openForCheck(folder: string, tsconfig: string | undefined, config: Config): OpenProject {
  const names = Object.keys(config.borders ?? {});
  return OpenProject.open(findProject(folder, tsconfig ?? config.tsconfig), {
    legacy: config.legacy,
    builtIns: names.some((name) => builtInOf(name) !== undefined),
  });
}

/** @throws {CliError} `NO_REPOSITORY` */
function changedFiles(root: string): ReadonlySet<string> {
  const files = changedFilesIn(root);
  if (files) return new Set(files);
  throw new CliError(
    "NO_REPOSITORY",
    `${root} is not in a git repository, so changed files are unknown. Run without --changed.`,
  );
}

function writeRecord(root: string, findings: ReturnType<typeof recordOf>): void {
  using transaction = Transaction.begin(root);
  transaction.recover();
  const path = join(root, RECORDED_FINDINGS_FILE);
  const before = existsSync(path) ? readFileSync(path) : undefined;
  transaction.write([{ path, before, after: Buffer.from(`${JSON.stringify({ findings }, null, 2)}\n`) }]);
}

/** @throws {CliError} `NO_CONFIG`, and the errors of finding the project and loading its config */
export async function configOf(folder: string, tsconfig: string | undefined): Promise<Config> {
  const config = await loadConfig(findProject(folder, tsconfig).root);
  if (config) return config;
  throw new CliError(
    "NO_CONFIG",
    `No sleeve.config.ts in ${folder}. Create one with targets, wrappers and borders; see the README.`,
  );
}

/** Checks an open project against a config; only the given files, if any. */
export function checkProject(
  project: OpenProject,
  config: Config,
  context: RunContext & Pick<CheckRunOptions, "onProgress">,
  files?: ReadonlySet<string>,
): Checked {
  const debts = new Map(
    Object.keys(config.borders ?? {}).map((name) => [name, new Debt(config.isolated?.[name]?.debt)] as const),
  );
  const { wrappers, problems } = checkWrappers(project, config, debts, files, context.onProgress);
  const checked = [...debts].map(([name, debt]) => {
    const border = checkBorder(project, name, config.borders?.[name] ?? [], debt);
    const findings = border.findings.filter(({ place }) => !files || files.has(place.file));
    return { ...border, findings, holds: findings.length === 0 };
  });
  const borders = files ? checked : withDebtLimit(checked, config);
  const imports = debts.size > 0 ? computedImports(project, files) : [];
  const texts = new Map(project.sources.map(({ file, text, component }) => [file, component?.text ?? text]));
  if (debts.size > 0) for (const { file, text } of project.uncompiled.sources) texts.set(file, text);
  const configText = configTextIn(project.root);
  if (configText) texts.set(configText.file, configText.text);
  const generated = files ? [] : staleFindings(project, config);
  const { result, unused: notFound } = applyConfig(
    {
      wrappers,
      borders,
      imports,
      generated,
      config: files || !configText ? [] : unmatchedNames(project, config, configText),
      changedFiles: files ? countOf(project, files) : null,
    },
    config,
    context,
  );
  // A partial check does not see every suppressed finding.
  const unused = files ? [] : notFound;
  const isFile = (entry: string) =>
    project.sources.some(({ file }) => pathMatches(entry, file)) ||
    project.uncompiled.sources.some(({ file }) => pathMatches(entry, file));
  const strangers = Object.values(config.borders ?? {})
    .flat()
    .filter((entry) => !isFile(entry))
    .map(
      (entry): Problem => ({
        code: "NO_SUCH_FILE",
        message: `The config lists ${entry} under borders, which is not a file or folder of the project. Correct the path.`,
      }),
    );
  const settled = unused.map(
    ({ finding, in: place, member }): Problem => ({
      code: "NOT_FOUND",
      message: `The config suppresses ${finding}${member === undefined ? "" : ` of ${member}`} in ${place}, but there is no such finding. Remove the suppression.`,
    }),
  );
  return {
    result,
    problems: [
      ...project.problems,
      ...problems,
      ...strangers,
      ...settled,
      ...[...debts].flatMap(([name, debt]) => debt.settled(name)),
    ],
    texts,
  };
}

/** Returns the generated files that are not what their commands write now. */
function staleFindings(project: OpenProject, { tsconfig, synonyms }: Config): readonly Finding[] {
  return staleFilesIn(project, { tsconfig, synonyms }).map(({ file, found, remedy }) => ({
    name: "generated",
    member: null,
    place: { file, line: 1, column: 1 },
    expected: "what its command writes",
    found,
    remedy,
  }));
}

function countOf({ sources }: OpenProject, files: ReadonlySet<string>): number {
  return sources.filter(({ file }) => files.has(file)).length;
}

function checkWrappers(
  project: OpenProject,
  { targets = {}, facades = [], isolated = {} }: Config,
  debts: ReadonlyMap<string, Debt>,
  files: ReadonlySet<string> | undefined,
  onProgress: CheckRunOptions["onProgress"],
) {
  const wrapperCount = Object.values(targets).flat().length;
  const wrappers: WrapperResult<Finding>[] = [];
  const problems: Problem[] = [];
  for (const [target, names] of Object.entries(targets)) {
    for (const [index, wrapper] of names.entries()) {
      onProgress?.(wrappers.length, wrapperCount);
      const places = [target, wrapper].map((place) => exportParts(place)[0]);
      if (files && !places.some((file) => files.has(file))) continue;
      try {
        const [module] = Object.entries(isolated).find(([, { adapter }]) => adapter === wrapper) ?? [];
        const debt = module === undefined ? undefined : debts.get(module);
        const [, object] = exportParts(wrapper);
        const isDebt = (member: string | null) => debt?.accepts(member ?? object) === true;
        const checked = checkWrapper(project, target, wrapper, facades.includes(wrapper), isDebt);
        // A finding about the target itself is reported once. In a file that also has the adapter, the
        // adapter imports.
        const isAlone = names.every((name) => exportParts(name)[0] !== exportParts(target)[0]);
        const targetLeaks = index === 0 && isAlone ? outsideInTarget(project, target) : [];
        wrappers.push({ ...checked, findings: [...checked.findings, ...targetLeaks] });
      } catch (error) {
        if (!(error instanceof CliError)) throw error;
        problems.push(error);
      }
    }
  }
  return { wrappers, problems };
}
