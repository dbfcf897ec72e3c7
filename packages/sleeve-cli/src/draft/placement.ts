import { dirname, join, relative, resolve, sep } from "node:path";
import type { ConfiguredProject } from "../compiler/program.ts";
import { CliError } from "../errors.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import { compareText } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";

/** Where a draft goes if several compiler configs import the module. */
export interface Placement {
  /** The config that compiles the draft. */
  readonly config: string;
  /** The files that the folder of the draft follows from, relative to the project's folder. */
  readonly importers: readonly string[];
}

interface Importers {
  readonly configured: ConfiguredProject;
  readonly files: readonly string[];
}

/**
 * Returns where a draft goes: to the config that has most of the importers, among those whose files all the others can
 * import.
 *
 * @param into a folder that the user names
 * @throws {CliError} `SEVERAL_PROJECTS` if no folder, or not the one that is named, can be imported by all importers
 */
export function placementOf(
  { root, program }: OpenProject,
  outside: string,
  { files }: OutsideUses,
  into: string | undefined,
): Placement {
  const projects = program.configuredProjects();
  const importers = projects
    .map((configured): Importers => {
      const importing = files.filter(({ source }) => program.configOf(source.path) === configured.tsconfig);
      return { configured, files: importing.map(({ source }) => source.path) };
    })
    .filter((group) => group.files.length > 0);
  const fileNames = (paths: readonly string[]) => paths.map((path) => slashed(relative(root, path)));
  const [onlyImporter, ...others] = importers;
  if (!onlyImporter || others.length === 0)
    return {
      config: onlyImporter?.configured.tsconfig ?? program.configs[0] ?? "",
      importers: fileNames(onlyImporter?.files ?? []),
    };
  const suitable = projects.filter((owner) => importers.every((group) => canImport(group, owner, undefined)));
  if (into !== undefined) {
    const folder = resolve(root, into);
    const owner = ownerOf(folder, projects);
    if (!owner || !importers.every((group) => canImport(group, owner, folder)))
      throw severalProjects(
        root,
        outside,
        importers,
        suitable,
        `--into ${into} cannot be imported by all of them`,
      );
    return { config: owner.tsconfig, importers: [] };
  }
  const importersOf = (owner: ConfiguredProject) =>
    importers.find(({ configured }) => configured === owner)?.files ?? [];
  const [best] = [...suitable].sort(
    (left, right) =>
      importersOf(right).length - importersOf(left).length || compareText(left.tsconfig, right.tsconfig),
  );
  if (!best)
    throw severalProjects(root, outside, importers, suitable, "no folder can be imported by all of them");
  const paths = importersOf(best);
  return { config: best.tsconfig, importers: fileNames(paths.length > 0 ? paths : best.files.slice(0, 1)) };
}

/** Returns the innermost config whose folder contains a folder. */
function ownerOf(folder: string, projects: readonly ConfiguredProject[]): ConfiguredProject | undefined {
  return [...projects]
    .filter(({ folder: innerFolder }) => `${folder}/`.startsWith(`${innerFolder}/`))
    .sort((left, right) => right.folder.length - left.folder.length)[0];
}

/** Whether files can import one of another config by its path, in the compiler and after both are compiled. */
function canImport(
  { configured, files }: Importers,
  owner: ConfiguredProject,
  folder: string | undefined,
): boolean {
  if (configured === owner) return true;
  const isReferenced = configured.references.has(owner.tsconfig);
  // Without a reference, the importing config compiles the file itself.
  if (!isReferenced) return !configured.isComposite && configured.rootFolder === undefined;
  const target = join(folder ?? dirname(owner.files[0] ?? owner.folder), "target.ts");
  return files.every((file) => {
    const specifier = relative(dirname(file), target);
    return relative(dirname(compiledPath(file, configured)), compiledPath(target, owner)) === specifier;
  });
}

/** Returns where a file is compiled to, but for its ending. */
function compiledPath(path: string, { folder, rootFolder, outFolder }: ConfiguredProject): string {
  return outFolder === undefined ? path : join(outFolder, relative(rootFolder ?? folder, path));
}

function severalProjects(
  root: string,
  outside: string,
  importers: readonly Importers[],
  suitable: readonly ConfiguredProject[],
  why: string,
): CliError {
  const folderOf = ({ folder }: ConfiguredProject) => slashed(relative(root, folder)) || ".";
  const counts = importers.map(
    ({ configured, files }) =>
      `${folderOf(configured)} (${files.length} ${files.length === 1 ? "file" : "files"})`,
  );
  const folders = suitable.map((owner) => {
    const [firstFile = owner.folder] = owner.files;
    return slashed(relative(root, dirname(firstFile))) || ".";
  });
  const remedy =
    folders.length > 0
      ? `These folders work with --into: ${folders.join(", ")}.`
      : `Draft it in each: ${importers.map(({ configured }) => `\`sleeve draft ${outside} ${folderOf(configured)}\``).join(", ")}.`;
  return new CliError(
    "SEVERAL_PROJECTS",
    `${outside} is imported in ${importers.length} projects, ${counts.join(", ")}, and ${why}. ${remedy}`,
  );
}

function slashed(path: string): string {
  return path.split(sep).join("/");
}
