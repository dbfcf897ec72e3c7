import { existsSync } from "node:fs";
import { dirname, join, relative, sep } from "node:path";
import { type Endings, endingsFor, type Language, languageOf, stemOf } from "../isolation/language.ts";
import { asTypeName, camelCase, exportKey, type Names, objectName, valueName } from "../isolation/naming.ts";
import { exportIn, pathIn } from "../isolation/open-isolation.ts";
import type { OutsideUses } from "../isolation/outside-uses.ts";
import { compareText } from "../place.ts";
import type { Isolation } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";
import { filesReachedFrom } from "../project/reach.ts";

/** Where the files of a draft go, and how it names things. */
export interface Plan {
  readonly outside: string;
  readonly root: string;
  readonly targetFile: string;
  readonly adapterFile: string;
  readonly surfaceFile: string;
  readonly contractFile: string;
  readonly language: Language;
  readonly target: string;
  readonly object: string;
  readonly keepsNames: boolean;
  readonly names: Names;
  /** Whether callers use the adapter already, so that only what is new can be drafted. */
  readonly isInUse: boolean;
}

export function planOf(
  project: OpenProject,
  uses: OutsideUses,
  outside: string,
  isolation: Isolation | undefined,
  options: {
    readonly into?: string | undefined;
    readonly sameNames?: boolean | undefined;
    /** Whether the project has a config of its own for the compiler. */
    readonly hasConfig: boolean;
  },
): Plan {
  const { into, sameNames, hasConfig } = options;
  const { root } = project;
  const given = typeof isolation?.names === "object" ? isolation.names : {};
  const names = { ...defaultNames(uses, outside), ...given };
  const keepsNames = isolation ? isolation.names === "same" : sameNames === true;
  const shared = { outside, root, keepsNames, names };
  const callers = uses.files.map(({ source }) => source);
  const endings = endingsFor(callers, hasConfig);
  if (isolation) {
    const targetFile = relative(root, pathIn(root, isolation.target)).split(sep).join("/");
    const adapterFile = relative(root, pathIn(root, isolation.adapter)).split(sep).join("/");
    const base = stemOf(targetFile);
    const written = project.sourceAt(join(root, adapterFile));
    return {
      ...shared,
      targetFile,
      adapterFile,
      surfaceFile: `${base}.surface.json`,
      contractFile: `${base}${endings.contract}`,
      language: /tsx?$/.test(adapterFile) ? "typescript" : written ? languageOf(written) : endings.language,
      target: exportIn(isolation.target),
      object: exportIn(isolation.adapter),
      isInUse: filesReachedFrom(project, [join(root, adapterFile)]).size > 1,
    };
  }
  const name = kebabCase(valueName(outside));
  const object = objectName(outside, new Set(uses.exports.map((each) => each.name)));
  const folder = (into ?? join(commonFolder(project, outside), name))
    .split(sep)
    .join("/")
    .replace(/\/+$/, "");
  const base = freeBase(project, outside, folder, name, endings);
  return {
    ...shared,
    targetFile: `${base}${endings.types}`,
    adapterFile: `${base}-adapter${endings.source}`,
    surfaceFile: `${base}.surface.json`,
    contractFile: `${base}${endings.contract}`,
    language: endings.language,
    target: asTypeName(object),
    object,
    isInUse: false,
  };
}

/**
 * What callers call a module's default export, which has no name of its own: mostly. Where that is the module's own name it
 * need not be given.
 */
function defaultNames({ files, exports }: OutsideUses, outside: string): Names {
  const names: Record<string, string> = {};
  for (const { specifier, name } of exports) {
    if (name !== "default") continue;
    const locals = files.flatMap(({ sites, imported }) => [
      ...imported.bindings
        .filter((each) => each.export === "default" && each.site.specifier === specifier)
        .map(({ local }) => local),
      ...sites
        .filter((site) => site.specifier === specifier && site.forms.includes("re-export"))
        .flatMap((site) =>
          site.names.flatMap((each, index) => (each === "default" ? (site.locals[index] ?? []) : [])),
        ),
    ]);
    const counts = new Map<string, number>();
    for (const local of locals) if (local !== "default") counts.set(local, (counts.get(local) ?? 0) + 1);
    const [most] = [...counts].sort(([a, left], [b, right]) => right - left || compareText(a, b));
    if (most && most[0] !== valueName(specifier)) names[exportKey(outside, specifier, name)] = most[0];
  }
  return names;
}

/** A path that no file of somebody's is in the way of; one that is drafted already is not in the way. */
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
    // Nor may it lie in the legacy module that it stands before.
    const isInside = outside.endsWith("/") && base.startsWith(outside);
    const isFree = [types, `-adapter${ending}`].every((end) => !existsSync(join(root, `${base}${end}`)));
    if (isDrafted || (isFree && !isInside)) return base;
  }
}

function kebabCase(name: string): string {
  return camelCase(name).replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
}

/** The innermost folder that holds all files which import the module. */
function commonFolder(project: OpenProject, outside: string): string {
  const folders = project.imports
    .filter((each) => each.package === outside)
    .map(({ source }) => dirname(source.file).split("/"));
  const [first = []] = folders;
  const shared = first.findIndex((part, index) => folders.some((each) => each[index] !== part));
  const parts = shared < 0 ? first : first.slice(0, shared);
  const folder = parts.join("/") === "." ? "" : parts.join("/");
  // A config that takes in no file of the project's own folder would not take in one of a folder beside.
  const isTakenIn = folder !== "" || project.sources.some(({ file }) => !file.includes("/"));
  return isTakenIn ? folder : mostOf(folders.map(([top = ""]) => top));
}

/** The one that is there most often; of several, the first. */
function mostOf(names: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  const most = Math.max(...counts.values());
  return [...counts].sort(([a], [b]) => compareText(a, b)).find(([, count]) => count === most)?.[0] ?? "";
}
