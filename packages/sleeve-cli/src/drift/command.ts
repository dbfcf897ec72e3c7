import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { Drift } from "../documents/drift-document.ts";
import type { RecordedModule, SurfaceRecord } from "../documents/outside-surface-document.ts";
import { surfaceRecordSchema } from "../documents/outside-surface-document.ts";
import { parsedFile } from "../documents/parsed-file.ts";
import { type CompileError, errorsIn, newErrors } from "../emit/compile-errors.ts";
import { CliError, type Problem } from "../errors.ts";
import { usedMembersIn } from "../isolation/outside/outside-members.ts";
import { type OutsideUses, outsideUsesOf } from "../isolation/outside/outside-uses.ts";
import { compareText } from "../place.ts";
import { filesReachedFrom } from "../project/affected-files.ts";
import { type Config, loadConfig } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { fetchPackage, givenPackage } from "../project/packages/given-package.ts";
import { type GivenPackage, hasCodeFor, readPackage } from "../project/packages/package-files.ts";
import { Packages, typesPackageOf } from "../project/packages/packages.ts";
import { runtimeFileOf } from "../project/packages/runtime-file.ts";
import { findProject, type ProjectFolder } from "../project/project.ts";
import { type Recovery, Transaction } from "../project/writing/transaction.ts";
import { surplusOf } from "../surplus.ts";
import { outsideSurfaceOf, type SurfaceQuery } from "../types/outside-surface.ts";
import type { UsedMembers } from "../uses/members/used-members.ts";
import { assess, driftOf } from "./assess.ts";
import { compareModule } from "./compare.ts";

export interface DriftOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** Whether to record the installed surfaces instead of comparing with them. */
  readonly record?: boolean | undefined;
  /** Folder, tarball or version (`kit@2`) of a package to compare with, instead of the installed one. */
  readonly against?: string | undefined;
}

/** What a drift comparison returns. */
export interface Drifted {
  readonly drifts: readonly Drift[];
  /** The recorded modules with their versions; nothing was compared then. */
  readonly recorded: readonly { readonly module: string; readonly version: string | null }[] | undefined;
  readonly recovery: Recovery | undefined;
  readonly problems: readonly Problem[];
}

/** The file with the recorded outside surfaces of a project. */
const RECORD_FILE = "sleeve.surfaces.json";

/**
 * Compares the outside surfaces that a project uses with the recorded ones, and compiles the project to see
 * what breaks.
 *
 * @throws {CliError} `NOT_RECORDED`, `NO_PACKAGE`, `NOT_IMPORTED`, and the errors of finding the project and
 * its config
 */
export async function runDrift(options: DriftOptions): Promise<Drifted> {
  const foundProject = findProject(options.folder, options.tsconfig);
  const config = (await loadConfig(foundProject.root)) ?? {};
  const folder = findProject(options.folder, options.tsconfig ?? config.tsconfig);
  if (options.record) return record(folder, config);
  const recorded = recordIn(folder.root);
  using project = OpenProject.open(folder, openOptions(config));
  const given = options.against === undefined ? undefined : givenPackage(options.against, folder.root);
  if (given && !recorded.modules[given.name]) {
    throw new CliError(
      "NOT_RECORDED",
      `${RECORD_FILE} has no record of ${given.name}. Run \`sleeve drift --record\` while the version in use is installed.`,
    );
  }
  const modules = given ? [given.name] : Object.keys(recorded.modules).sort(compareText);
  const drifts = modules.flatMap((module) => {
    const record = recorded.modules[module];
    if (!record) return [];
    return given ? against(folder, project, config, record, given) : installed(project, module, record);
  });
  return { drifts, recorded: undefined, recovery: undefined, problems: project.problems };
}

function openOptions({ legacy, borders = {}, isolated = {} }: Config) {
  const names = [...Object.keys(borders), ...Object.keys(isolated)];
  return { legacy, builtIns: names.some((name) => name.startsWith("node:")) };
}

function record(folder: ProjectFolder, config: Config): Drifted {
  using transaction = Transaction.begin(folder.root);
  const recovery = transaction.recover();
  using project = OpenProject.open(folder, openOptions(config));
  const named = [...Object.keys(config.borders ?? {}), ...Object.keys(config.isolated ?? {})];
  const installed = project.packages.filter(({ isInstalled }) => isInstalled);
  // If nothing is isolated yet, all imported modules count.
  const chosen = named.length > 0 ? installed.filter(({ name }) => named.includes(name)) : installed;
  const modules = chosen.map(({ name, version }): [string, RecordedModule] => {
    const uses = outsideUsesOf(project, name, () => false);
    return [
      name,
      {
        version: version ?? null,
        entries: entriesOf(project, uses, usedQuery(uses, usedMembersIn(project, name, uses))),
        ...existingErrors(project, uses),
      },
    ];
  });
  const text = `${JSON.stringify({ modules: Object.fromEntries(modules) } satisfies SurfaceRecord, null, 2)}\n`;
  const path = join(folder.root, RECORD_FILE);
  transaction.write([
    { path, before: existsSync(path) ? readFileSync(path) : undefined, after: Buffer.from(text) },
  ]);
  const recorded = modules.map(([module, { version }]) => ({ module, version }));
  return { drifts: [], recorded, recovery, problems: project.problems };
}

/** Returns the errors that the project has already, so that they are no drift later. */
function existingErrors(project: OpenProject, uses: OutsideUses): Pick<RecordedModule, "errors"> {
  const errors = errorsIn(project.program, affectedBy(project, uses)).map((error) => keyOf(project, error));
  return errors.length === 0 ? {} : { errors: errors.sort(compareText) };
}

/** An error without its position, which edits change. */
function keyOf(project: OpenProject, { path, code, text }: CompileError): string {
  return `${project.sourceAt(path)?.file ?? path}: TS${code}: ${text}`;
}

function affectedBy(project: OpenProject, { files }: OutsideUses): ReadonlySet<string> {
  return filesReachedFrom(
    project,
    files.map(({ source }) => source.path),
  );
}

/** @throws {CliError} `NOT_RECORDED` */
function recordIn(root: string): SurfaceRecord {
  const path = join(root, RECORD_FILE);
  const refusal = (what: string): CliError =>
    new CliError(
      "NOT_RECORDED",
      `${what} Run \`sleeve drift --record\` while the versions in use are installed.`,
    );
  if (!existsSync(path)) throw refusal(`There is no ${RECORD_FILE} to compare with.`);
  return parsedFile(surfaceRecordSchema, path, (reason) =>
    refusal(`${RECORD_FILE} is not a record of surfaces: ${reason}.`),
  );
}

/** Returns the surface of each imported part of a module. */
function entriesOf(project: OpenProject, { files }: OutsideUses, query: (specifier: string) => SurfaceQuery) {
  const entries: Record<string, NonNullable<ReturnType<typeof outsideSurfaceOf>>> = {};
  for (const { source, sites } of files) {
    for (const { specifier, offset } of sites) {
      if (specifier in entries) continue;
      const surface = outsideSurfaceOf(project.program, source.path, offset, query(specifier));
      if (surface) entries[specifier] = surface;
    }
  }
  return Object.fromEntries(Object.entries(entries).sort(([left], [right]) => compareText(left, right)));
}

function usedQuery({ exports, files }: OutsideUses, used: UsedMembers): (specifier: string) => SurfaceQuery {
  // An adapter may name members of its adaptee in strings.
  const named = new Set(
    files.flatMap(({ source }) => [...source.text.matchAll(/(["'])([\w$]+)\1/g)].map(([, , name]) => name)),
  );
  return (specifier) => ({
    isExportWanted: (name) =>
      exports.some((exported) => exported.specifier === specifier && exported.name === name),
    isMemberWanted: (_, member, symbol) => used.has(symbol) || named.has(member),
  });
}

/** The recorded surface, and new members, which may be renamed ones. */
function recordedQuery({ entries }: RecordedModule): (specifier: string) => SurfaceQuery {
  return (specifier) => {
    const { names = [], exports = {} } = entries[specifier] ?? {};
    return {
      isExportWanted: (name) => name in exports || !names.includes(name),
      isMemberWanted: (owner, member) => {
        const ownerRecord = exports[owner];
        return ownerRecord === undefined
          ? false
          : member in ownerRecord.members || !ownerRecord.names.includes(member);
      },
    };
  };
}

function installed(project: OpenProject, module: string, recorded: RecordedModule): Drift[] {
  const uses = outsideUsesOf(project, module, () => false);
  const importer = uses.files[0]?.source.path ?? "";
  const differences = compareModule(
    recorded,
    entriesOf(project, uses, recordedQuery(recorded)),
    (specifier) => runtimeFileOf(importer, specifier) !== undefined,
  );
  const version = project.packages.find(({ name }) => name === module)?.version ?? null;
  // Errors that existed before are excluded; errors that mention no difference are left out.
  const errorsNow = differences.length > 0 ? errorsIn(project.program, affectedBy(project, uses)) : [];
  const errors = surplusOf(errorsNow, recorded.errors ?? [], (error) => keyOf(project, error));
  const judged = assess(project, module, differences, errors, uses, false);
  return [driftOf(module, recorded.version, version, judged)];
}

function against(
  folder: ProjectFolder,
  project: OpenProject,
  config: Config,
  recorded: RecordedModule,
  given: GivenPackage,
): Drift[] {
  const uses = outsideUsesOf(project, given.name, () => false);
  const [firstFile] = uses.files;
  const place = firstFile && new Packages().find(given.name, firstFile.source.path)?.folder;
  if (!firstFile || place === undefined) {
    throw new CliError(
      "NOT_INSTALLED",
      `${given.name} is not installed in the project, so it cannot be replaced by ${given.version ?? "the other version"}. ` +
        "Install it and run again.",
    );
  }
  const types = separateTypes(folder.root, firstFile.source.path, given);
  using otherProject = OpenProject.open(folder, {
    ...openOptions(config),
    files: new Map([...filesInPlace(place, given), ...(types ? filesInPlace(types.place, types.given) : [])]),
  });
  const otherUses = outsideUsesOf(otherProject, given.name, () => false);
  const differences = compareModule(
    recorded,
    entriesOf(otherProject, otherUses, recordedQuery(recorded)),
    (specifier) => hasCodeFor(given, specifier),
  );
  const paths = affectedBy(project, uses);
  const errors = newErrors(errorsIn(project.program, paths), errorsIn(otherProject.program, paths));
  return [
    driftOf(
      given.name,
      recorded.version,
      given.version,
      assess(project, given.name, differences, errors, uses, true),
    ),
  ];
}

/**
 * Returns the types of a version that has none of its own, where types for the package are installed; they are
 * downloaded for the same major version.
 *
 * @throws {CliError} `NOT_COMPARED` if there are none to compare with
 */
function separateTypes(
  root: string,
  importer: string,
  given: GivenPackage,
): { readonly place: string; readonly given: GivenPackage } | undefined {
  const hasOwn = [...given.paths].some((file) => /\.d\.[cm]?ts$/.test(file));
  const name = typesPackageOf(given.name);
  const installedTypes = hasOwn ? undefined : new Packages().find(name, importer);
  if (!installedTypes) return undefined;
  const major = Number.parseInt(given.version ?? "", 10);
  try {
    return { place: installedTypes.folder, given: fetchPackage(`${name}@${major}`, root) };
  } catch (error) {
    throw new CliError(
      "NOT_COMPARED",
      `${given.name} ${given.version ?? ""} has no types of its own, and those of ${name} ${installedTypes.version ?? ""} belong to the installed version. ` +
        `${name}@${major} cannot be downloaded, so nothing was compared. Install it and run without --against.`,
      { cause: error },
    );
  }
}

/** Returns the files of a package as if they were the installed ones. */
function filesInPlace(place: string, given: GivenPackage): ReadonlyMap<string, string | null> {
  const installedFiles = readPackage(place).files;
  return new Map<string, string | null>([
    ...[...installedFiles.keys()].map((file) => [join(place, file), null] as const),
    ...[...given.files].map(([file, text]) => [join(place, file), text] as const),
  ]);
}
