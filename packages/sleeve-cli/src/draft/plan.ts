import { existsSync } from "node:fs";
import { dirname, join, relative, resolve, sep } from "node:path";
import type { Language } from "../emit/printed.ts";
import { CliError } from "../errors.ts";
import { type Endings, endingsFor, languageOf, stemOf } from "../isolation/file-language.ts";
import { exportKey, type Names, objectName, valueName } from "../isolation/naming.ts";
import { exportIn, pathIn } from "../isolation/open-isolation.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import { compareText } from "../place.ts";
import { filesReachedFrom } from "../project/affected-files.ts";
import type { Isolation } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";
import { isWithin } from "../project/writing/within.ts";
import { asTypeName, camelCase } from "../types/writing/type-text.ts";
import { requirePlainPaths } from "../written-text.ts";
import { placementOf } from "./placement.ts";

/** The paths and names of a draft. */
export interface Plan {
  readonly outside: string;
  readonly root: string;
  readonly targetFile: string;
  readonly adapterFile: string;
  /** The file with the outside types that the target mentions. */
  readonly outsideTypesFile: string;
  /** The contract, if it stands beside the target. */
  readonly contractFile: string;
  readonly language: Language;
  readonly target: string;
  readonly object: string;
  readonly keepsNames: boolean;
  /** What the types of the target follow from. */
  readonly types: "used" | "declared";
  readonly names: Names;
  /** Whether callers already use the adapter, so that only additions are drafted. */
  readonly isInUse: boolean;
  /** The compiler's config that lists the files. */
  readonly compilerConfig: string;
}

/** Where a draft goes, and how it names things. */
interface PlanOptions {
  readonly into?: string | undefined;
  readonly sameNames?: boolean | undefined;
  /** Whether the project has a compiler config. */
  readonly hasConfig: boolean;
}

/** @throws {CliError} `BAD_OPTION`, `BAD_PATH`, `SEVERAL_PROJECTS` */
export function planOf(
  project: OpenProject,
  uses: OutsideUses,
  outside: string,
  isolation: Isolation | undefined,
  options: PlanOptions,
): Plan {
  const configNames = typeof isolation?.names === "object" ? isolation.names : {};
  const names = { ...defaultNames(uses, outside), ...configNames };
  const keepsNames = isolation ? isolation.names === "same" : options.sameNames === true;
  requirePlainPaths([outside]);
  const endings = endingsFor(
    uses.files.map(({ source }) => source),
    options.hasConfig,
  );
  // Callers that keep their names need the module's own shape.
  const types = keepsNames ? "declared" : (isolation?.types ?? "used");
  const shared = { outside, root: project.root, keepsNames, types, names };
  return isolation
    ? { ...shared, ...configuredPlan(project, uses, isolation, endings) }
    : { ...shared, ...newPlan(project, uses, outside, options.into, endings) };
}

type PlannedFiles = Omit<Plan, "outside" | "root" | "keepsNames" | "types" | "names">;

/** The files of a module that the config isolates. */
function configuredPlan(
  project: OpenProject,
  { files }: OutsideUses,
  { target, adapter }: Isolation,
  endings: Endings,
): PlannedFiles {
  const { root } = project;
  const targetFile = relative(root, pathIn(root, target)).split(sep).join("/");
  const adapterFile = relative(root, pathIn(root, adapter)).split(sep).join("/");
  const base = stemOf(targetFile);
  const adapterSource = project.sourceAt(join(root, adapterFile));
  const scriptLanguage = adapterSource ? languageOf(adapterSource) : endings.language;
  return {
    targetFile,
    adapterFile,
    outsideTypesFile: `${base}-outside${targetFile.slice(base.length)}`,
    contractFile: `${base}${endings.contract}`,
    language: /tsx?$/.test(adapterFile) ? "typescript" : scriptLanguage,
    target: exportIn(target),
    object: exportIn(adapter),
    isInUse: filesReachedFrom(project, [join(root, adapterFile)]).size > 1,
    compilerConfig: project.program.configOf(files[0]?.source.path ?? ""),
  };
}

/** @throws {CliError} `BAD_OPTION`, `SEVERAL_PROJECTS` */
function newPlan(
  project: OpenProject,
  uses: OutsideUses,
  outside: string,
  into: string | undefined,
  endings: Endings,
): PlannedFiles {
  const { root } = project;
  const object = objectName(outside, new Set(uses.exports.map((exported) => exported.name)));
  if (into !== undefined && !isWithin(root, into))
    throw new CliError(
      "BAD_OPTION",
      `--into ${into} is outside the project's folder. Name a folder within it, relative to ${root}.`,
    );
  const placement = placementOf(project, outside, uses, into);
  const base = baseFor(project, outside, into, placement, endings);
  return {
    targetFile: `${base}${endings.types}`,
    adapterFile: `${base}-adapter${endings.source}`,
    outsideTypesFile: `${base}-outside${endings.types}`,
    contractFile: `${base}${endings.contract}`,
    language: endings.language,
    target: asTypeName(object),
    object,
    isInUse: false,
    compilerConfig: placement.config,
  };
}

/** Returns the path of the new files without their endings, in a folder that the compiler's config includes. */
function baseFor(
  project: OpenProject,
  outside: string,
  into: string | undefined,
  { importers, config }: ReturnType<typeof placementOf>,
  endings: Endings,
): string {
  const { root } = project;
  const plainName = kebabCase(valueName(outside));
  // With the oldest kind of resolution, the adapter would import a file of the package's name beside it.
  const name = project.modules.isClassic && plainName === outside ? `${plainName}-port` : plainName;
  const common = commonFolder(project, importers);
  const folders = into === undefined ? [join(common, name), common] : [relative(root, resolve(root, into))];
  const bases = folders.map((folder) => {
    const plain = folder.split(sep).join("/").replace(/\/+$/, "");
    return freeBase(project, outside, plain, name, endings);
  });
  const [firstBase = ""] = bases;
  const isListed = (base: string) =>
    project.program.wouldList(
      config,
      [endings.types, `-adapter${endings.source}`].map((ending) => join(root, `${base}${ending}`)),
    );
  // With path aliases, a file beside the callers could be taken for the package of its name.
  const candidates = project.program.hasPathAliases() ? [firstBase] : bases;
  return candidates.find(isListed) ?? firstBase;
}

/**
 * Returns the name that most callers give a module's default export. It may be left out if it is the module's
 * own name.
 */
function defaultNames({ files, exports }: OutsideUses, outside: string): Names {
  const names: Record<string, string> = {};
  for (const { specifier, name } of exports) {
    if (name !== "default") continue;
    const locals = files.flatMap(({ sites, imported }) => [
      ...imported.bindings
        .filter((binding) => binding.export === "default" && binding.site.specifier === specifier)
        .map(({ local }) => local),
      ...sites
        .filter((site) => site.specifier === specifier && site.forms.includes("re-export"))
        .flatMap((site) =>
          site.names.flatMap((name, index) => (name === "default" ? (site.locals[index] ?? []) : [])),
        ),
    ]);
    const counts = new Map<string, number>();
    for (const local of locals) if (local !== "default") counts.set(local, (counts.get(local) ?? 0) + 1);
    const [most] = [...counts].sort(([a, left], [b, right]) => right - left || compareText(a, b));
    if (most && most[0] !== valueName(specifier)) names[exportKey(outside, specifier, name)] = most[0];
  }
  return names;
}

/** Returns a path that no other file occupies; an earlier draft does not count. */
function freeBase(
  { root, imports }: OpenProject,
  outside: string,
  folder: string,
  name: string,
  { source: ending, types }: Endings,
): string {
  const within = folder === "" || folder === "." ? "" : `${folder}/`;
  for (let count = 1; ; count++) {
    const suffix = count === 1 ? "" : `-port${count === 2 ? "" : count - 1}`;
    const base = within === "" ? `${name}${suffix}` : `${folder}${suffix}/${name}`;
    const isDrafted = imports.some(
      ({ package: each, source }) => each === outside && source.file === `${base}-adapter${ending}`,
    );
    // It must not lie in the legacy module that it isolates.
    const isInside = outside.endsWith("/") && base.startsWith(outside);
    const isFree = [types, `-adapter${ending}`].every((end) => !existsSync(join(root, `${base}${end}`)));
    if (isDrafted || (isFree && !isInside)) return base;
  }
}

function kebabCase(name: string): string {
  return camelCase(name).replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
}

/** Returns the innermost folder that contains all of some files. */
function commonFolder(project: OpenProject, files: readonly string[]): string {
  const folders = files.map((file) => dirname(file).split("/"));
  const [firstFolder = []] = folders;
  const shared = firstFolder.findIndex((part, index) => folders.some((folder) => folder[index] !== part));
  const parts = shared < 0 ? firstFolder : firstFolder.slice(0, shared);
  const folder = parts.join("/") === "." ? "" : parts.join("/");
  // A config that excludes the project's own folder would exclude a folder next to it too.
  const isTakenIn = folder !== "" || project.sources.some(({ file }) => !file.includes("/"));
  return isTakenIn ? folder : mostOf(folders.map(([top = ""]) => top));
}

/** Returns the most frequent name; of several, the first. */
function mostOf(names: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  const most = Math.max(...counts.values());
  return [...counts].sort(([a], [b]) => compareText(a, b)).find(([, count]) => count === most)?.[0] ?? "";
}
