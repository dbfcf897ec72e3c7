import { dirname, join, relative, sep } from "node:path";
import type { Survey } from "../documents/survey-document.ts";
import { CliError, type Problem } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import { findComponents } from "../project/components/find-components.ts";
import { loadConfig } from "../project/config.ts";
import type { OutsideOptions } from "../project/packages/outside-imports.ts";
import { findProject, type ProjectFolder } from "../project/project.ts";
import { SurveyCache } from "../project/survey-cache.ts";
import { interruptionIn } from "../project/writing/transaction.ts";
import { VERSION } from "../version.ts";
import type { CollectOptions } from "./collect.ts";
import { focusedSurvey, type SurveyFocus } from "./focus.ts";
import type { KeptSurvey } from "./resurvey.ts";
import type { SurveyFacts } from "./survey.ts";

export interface SurveyOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** Whether to survey imports only, without the compiler. */
  readonly imports?: boolean | undefined;
  /** Whether built-in modules and globals of the runtime count as outside. */
  readonly builtIns?: boolean | undefined;
  /** Whether to resolve the signature of each call. */
  readonly signatures?: boolean | undefined;
  readonly focus?: SurveyFocus | undefined;
  readonly onProgress?: ((done: number, all: number) => void) | undefined;
}

/**
 * Surveys a project on disk. Files that could not be analysed are reported as problems.
 *
 * @throws {CliError} `NOT_IMPORTED`, `NO_SUCH_FILE` if the focus does not exist, and the errors of finding
 * the project and its config
 */
export async function runSurvey(options: SurveyOptions): Promise<{
  readonly survey: Survey;
  readonly problems: readonly Problem[];
}> {
  const { folder, tsconfig, imports, builtIns, signatures, focus = {}, onProgress } = options;
  const config = (await loadConfig(findProject(folder, tsconfig).root)) ?? {};
  const projectFolder = findProject(folder, tsconfig ?? config.tsconfig);
  const outside = { legacy: config.legacy, builtIns };
  if (!imports) await requireImported(projectFolder, outside, focus.package);
  const { facts, problems, files, outputs } = imports
    ? await surveyImports(projectFolder, outside)
    : await surveyMembers(projectFolder, outside, { signatures, globals: builtIns, onProgress });
  requireFocus(facts, files, focus);
  const compiled = new Set(files.map((file) => join(projectFolder.root, file)));
  const { uncompiledFilesIn } = await import("../project/reading/uncompiled-files.ts");
  const uncompiled = uncompiledFilesIn(projectFolder.root, compiled, outputs, outside).imports;
  return {
    survey: focusedSurvey({ ...facts, uncompiled }, focus),
    problems,
  };
}

/** Whether a package is imported needs no compiler. */
async function requireImported(
  projectFolder: ProjectFolder,
  outside: OutsideOptions,
  name: string | undefined,
): Promise<void> {
  if (name === undefined || name.startsWith("global ")) return;
  const { facts, files } = await surveyImports(projectFolder, outside);
  requireFocus(facts, files, { package: name });
}

type Surveyed = Pick<KeptSurvey, "facts" | "problems" | "files" | "outputs">;

async function surveyImports(projectFolder: ProjectFolder, outside: OutsideOptions): Promise<Surveyed> {
  const [{ ModuleResolver }, { ProjectSources }, { importFacts }] = await Promise.all([
    import("../project/module-resolver.ts"),
    import("../project/project-sources.ts"),
    import("./project-facts.ts"),
  ]);
  const modules = new ModuleResolver(projectFolder);
  const project = new ProjectSources(projectFolder.root, modules, outside, {
    records: modules.records,
    components: modules.components,
  });
  return {
    facts: importFacts(project),
    problems: project.problems,
    files: project.sources.map(({ file }) => file),
    outputs: modules.outputFolders(),
  };
}

/** Starts from the cached survey with the same options, if the changes since allow it. */
async function surveyMembers(
  projectFolder: ProjectFolder,
  outside: OutsideOptions,
  options: CollectOptions,
): Promise<Surveyed> {
  const startedAt = Date.now();
  // Globals may be used in any file, whatever it imports. Scripts of components are not files.
  const isAlwaysComplete =
    options.globals ||
    findComponents(projectFolder.root).length > 0 ||
    interruptionIn(projectFolder.root).length > 0;
  const last = isAlwaysComplete
    ? undefined
    : SurveyCache.over<KeptSurvey>(
        projectFolder,
        JSON.stringify([VERSION, outside.legacy, options.signatures]),
      );
  const recalled = last?.load();
  if (recalled?.changed.length === 0) return recalled.value;
  // The compiler is loaded only if it is needed.
  const compiling = () =>
    Promise.all([
      import("../project/open-project.ts"),
      import("./collect.ts"),
      import("./prefilter.ts"),
      import("./clients.ts"),
    ]);
  if (last && recalled) {
    const { value, changed } = recalled;
    const { resurveyed } = await import("./resurvey.ts");
    const fileOf = (path: string) => relative(projectFolder.root, path).split(sep).join("/");
    const resurvey = await resurveyed(value, changed, fileOf, async (paths) => {
      const [{ OpenProject }, { collectFacts }] = await compiling();
      using part = OpenProject.open(partOf(projectFolder, [...paths, ...value.global]), outside);
      return collectFacts(part, { ...options, only: new Set(paths) });
    });
    if (resurvey) {
      last.update(resurvey, changed, startedAt);
      return resurvey;
    }
  }
  const [{ OpenProject }, { collectFacts }, { prefilterOf, isGlobal }, { importedNamesOf }] =
    await compiling();
  using project = OpenProject.open(projectFolder, outside);
  const interest = prefilterOf(project);
  const facts = collectFacts(project, { ...options, prefilter: interest });
  const files = project.sources.map(({ file }) => file);
  const global = project.sources.filter(isGlobal);
  const survey: KeptSurvey = {
    facts,
    problems: project.problems,
    words: interest.words,
    files,
    outputs: project.program.outputFolders(),
    global: global.map(({ path }) => path),
    imported: importedNamesOf(project),
    isOfOneConfig: project.program.configs.length === 1 && !project.hasLinkedPackages,
  };
  last?.store(survey, { startedAt, sources: project.sources, files: project.program.allFiles() });
  return survey;
}

/** Opens a project reduced to some files and those they import. */
function partOf({ root, tsconfig, generatedConfig }: ProjectFolder, files: readonly string[]): ProjectFolder {
  const config =
    generatedConfig === undefined
      ? { extends: tsconfig, references: [] }
      : (JSON.parse(generatedConfig) as object);
  return {
    root,
    tsconfig: join(dirname(tsconfig), "tsconfig.part.json"),
    generatedConfig: JSON.stringify({ ...config, include: [], files }),
  };
}

function requireFocus(
  facts: SurveyFacts,
  files: readonly string[],
  { package: name, file, member }: SurveyFocus,
): void {
  const packageNames = facts.packages.map((pkg) => pkg.name);
  if (name !== undefined && !packageNames.includes(name) && !name.startsWith("global ")) {
    const meant = nearestName(name, packageNames);
    throw new CliError(
      "NOT_IMPORTED",
      `No file of the project imports ${name}.${meant ? ` Did you mean ${meant}?` : " Name a package that the survey lists."}`,
    );
  }
  if (file !== undefined && !files.includes(file)) {
    const meant = nearestName(file, files);
    throw new CliError(
      "NO_SUCH_FILE",
      `There is no file ${file} in the project.${meant ? ` Did you mean ${meant}?` : " Pass its path relative to the project's folder."}`,
    );
  }
  const members = [...new Set(facts.uses.map((use) => use.member))];
  if (
    member !== undefined &&
    !members.some((memberName) => memberName === member || memberName.endsWith(`.${member}`))
  ) {
    const meant = nearestName(member, [
      ...members,
      ...members.map((memberName) => memberName.split(".").at(-1) ?? ""),
    ]);
    throw new CliError(
      "NOT_USED",
      `No use of ${member} found in ${files.length} files.${meant ? ` Did you mean ${meant}?` : " Name a member that the survey lists."}`,
    );
  }
}
