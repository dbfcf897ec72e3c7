import { dirname, join, relative, sep } from "node:path";
import { type Problem, ProblemError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import { loadConfig } from "../project/config.ts";
import { LastRun } from "../project/last-run.ts";
import type { OutsideOptions } from "../project/outside-imports.ts";
import { findProject, type ProjectFolder } from "../project/project.ts";
import { interruptionIn } from "../project/transaction.ts";
import { VERSION } from "../version.ts";
import type { CollectOptions } from "./collect.ts";
import { focusedSurvey, type SurveyFocus } from "./focus.ts";
import type { KeptSurvey } from "./resurvey.ts";
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
  const { facts, problems, files } = imports
    ? await surveyImports(found, outside)
    : await surveyMembers(found, outside, { signatures, globals: builtIns, onProgress });
  requireFocus(facts, files, focus);
  return {
    survey: focusedSurvey(facts, focus),
    problems: [...interruptionIn(found.root), ...problems],
  };
}

type Surveyed = Pick<KeptSurvey, "facts" | "problems" | "files">;

async function surveyImports(found: ProjectFolder, outside: OutsideOptions): Promise<Surveyed> {
  const [{ ModuleResolver }, { ProjectSources }, { importFacts }] = await Promise.all([
    import("../project/module-resolver.ts"),
    import("../project/project-sources.ts"),
    import("./project-facts.ts"),
  ]);
  const modules = new ModuleResolver(found);
  const project = new ProjectSources(found.root, modules, outside, { records: modules.records });
  return {
    facts: importFacts(project),
    problems: project.problems,
    files: project.sources.map(({ file }) => file),
  };
}

/** Begins from the last survey that was asked for the same, as far as what has changed since lets it. */
async function surveyMembers(
  found: ProjectFolder,
  outside: OutsideOptions,
  options: CollectOptions,
): Promise<Surveyed> {
  const startedAt = Date.now();
  // Globals are used in any file, whatever it imports.
  const last = options.globals
    ? undefined
    : LastRun.over<KeptSurvey>(found, JSON.stringify([VERSION, outside.legacy, options.signatures]));
  const recalled = last?.recall();
  if (recalled?.changed.length === 0) return recalled.value;
  // What it takes to ask the compiler is loaded only where it is asked.
  const compiling = () =>
    Promise.all([import("../project/open-project.ts"), import("./collect.ts"), import("./interest.ts")]);
  if (last && recalled) {
    const { value, changed } = recalled;
    const { resurveyed } = await import("./resurvey.ts");
    const fileOf = (path: string) => relative(found.root, path).split(sep).join("/");
    const kept = await resurveyed(value, changed, fileOf, async (paths) => {
      const [{ OpenProject }, { collectFacts }] = await compiling();
      using part = OpenProject.open(partOf(found, [...paths, ...value.global]), outside);
      return collectFacts(part, { ...options, only: new Set(paths) });
    });
    if (kept) {
      last.amend(kept, changed, startedAt);
      return kept;
    }
  }
  const [{ OpenProject }, { collectFacts }, { interestOf, isGlobal }] = await compiling();
  using project = OpenProject.open(found, outside);
  const interest = interestOf(project);
  const facts = collectFacts(project, { ...options, interest });
  const files = project.sources.map(({ file }) => file);
  const global = project.sources.filter(isGlobal);
  const kept: KeptSurvey = {
    facts,
    problems: project.problems,
    words: interest.words,
    files,
    global: global.map(({ path }) => path),
    isOfOneConfig: project.program.configs.length === 1 && !project.hasLinkedPackages,
  };
  last?.keep(kept, { startedAt, sources: project.sources, files: project.program.allFiles() });
  return kept;
}

/** A project of no more than some files, and those that they import. */
function partOf({ root, tsconfig, madeUp }: ProjectFolder, files: readonly string[]): ProjectFolder {
  const config =
    madeUp === undefined ? { extends: tsconfig, references: [] } : (JSON.parse(madeUp) as object);
  return {
    root,
    tsconfig: join(dirname(tsconfig), "tsconfig.part.json"),
    madeUp: JSON.stringify({ ...config, include: [], files }),
  };
}

function requireFocus(
  facts: SurveyFacts,
  files: readonly string[],
  { package: name, file }: SurveyFocus,
): void {
  const known = facts.packages.map((each) => each.name);
  if (name !== undefined && !known.includes(name) && !name.startsWith("global ")) {
    const meant = nearestName(name, known);
    throw new ProblemError(
      "NOT_IMPORTED",
      `No file of the project imports ${name}.${meant ? ` Did you mean ${meant}?` : " Name a package that the survey lists."}`,
    );
  }
  if (file !== undefined && !files.includes(file)) {
    const meant = nearestName(file, files);
    throw new ProblemError(
      "NO_SUCH_FILE",
      `There is no file ${file} in the project.${meant ? ` Did you mean ${meant}?` : " Give its path from the project's folder."}`,
    );
  }
}
