import { readFileSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import type { Place } from "../../documents/place.ts";
import type { ImportSite } from "../../parser/module-record.ts";
import { compareText } from "../../place.ts";
import type { Modules } from "../project-sources.ts";
import type { SourceText } from "../source-text.ts";
import { builtInOf, Packages, packageNameOf, packageNameOfPath, typesPackageOf } from "./packages.ts";

/** A place where the project imports a package. */
export interface PackageImport {
  readonly package: string;
  readonly site: ImportSite;
  readonly source: SourceText;
  readonly place: Place;
}

/** A module that the project imports without having its sources, or that it declares as legacy. */
export interface OutsidePackage {
  /** Its name in imports: `crane`, `node:fs`; for a legacy module, as in the config: `src/legacy/`. */
  readonly name: string;
  readonly kind: "package" | "built-in" | "legacy";
  /** `undefined` if it is not installed or its manifest has no version. */
  readonly version: string | undefined;
  readonly isInstalled: boolean;
}

/** What counts as outside besides packages. */
export interface OutsideOptions {
  /** Files, and folders with a trailing slash, of the project that are not ours: legacy modules. */
  readonly legacy?: readonly string[] | undefined;
  /** Whether built-in modules of the runtime count as outside. */
  readonly builtIns?: boolean | undefined;
}

export interface ResolvedImports {
  readonly imports: readonly PackageImport[];
  readonly packages: readonly OutsidePackage[];
  /** Folders of linked packages. */
  readonly folders: ReadonlyMap<string, string>;
  /** Whether any imported package is linked, including the project's own. */
  readonly hasLinked: boolean;
  /** Paths of manifests that are not JSON objects. */
  readonly brokenManifests: readonly string[];
}

/** Decides which imports lead outside: to a package, installed or not, without sources in the project. */
export function resolveImports(
  modules: Modules,
  root: string,
  sources: readonly SourceText[],
  candidates: ReadonlySet<string>,
  options: OutsideOptions,
): ResolvedImports {
  const installed = new Packages();
  const folders = new Map<string, string>();
  const packages = new Map<string, OutsidePackage>();
  const known = new Map<string, string | undefined>();
  let hasLinked = false;
  const imports: PackageImport[] = [];
  const isCandidate = (path: string) => candidates.has(path);
  const elsewhere = (source: SourceText, site: ImportSite): string | undefined => {
    const { legacy = [], builtIns = false } = options;
    const builtIn = builtIns ? builtInOf(site.specifier) : undefined;
    if (builtIn !== undefined) {
      packages.set(builtIn, { name: builtIn, kind: "built-in", version: undefined, isInstalled: true });
      return builtIn;
    }
    const within = packageIn(site.specifier, source.path, root);
    if (within !== undefined) {
      const pkg = installed.find(within, source.path) ?? installed.find(typesPackageOf(within), source.path);
      packages.set(within, {
        name: within,
        kind: "package",
        version: pkg?.version,
        isInstalled: pkg !== undefined,
      });
      return within;
    }
    if (legacy.length === 0 || legacyOf(source.path, root, options) !== undefined) return undefined;
    const target =
      guessedTarget(source.path, site.specifier, isCandidate) ?? modules.resolveModule(source.path, site);
    const name = target === undefined ? undefined : legacyOf(target, root, options);
    if (name !== undefined)
      packages.set(name, { name, kind: "legacy", version: undefined, isInstalled: true });
    return name;
  };
  /** Returns the outside package that a bare name leads to; `undefined` if it leads to our own files. */
  const packageNamed = (name: string, source: SourceText, site: ImportSite): string | undefined => {
    if (known.has(name)) return known.get(name);
    const found = installed.find(name, source.path) ?? installed.find(typesPackageOf(name), source.path);
    const isLinked = found !== undefined && packageNameOfPath(found.folder, root) === undefined;
    const holdsSources = isLinked && [...candidates].some((path) => isSourceIn(path, found.folder));
    const target = isLinked ? undefined : modules.resolveModule(source.path, site);
    hasLinked ||= isLinked;
    const owner = target === undefined ? undefined : packageNameOfPath(target, root);
    const isOwnFile = target !== undefined && owner === undefined;
    // Declarations of our own only describe a package that is installed; sources of our own replace it.
    const isDescribed = found && isOwnFile && (/\.d\.[cm]?ts$/.test(target) || declaresModule(target, name));
    if (holdsSources || (isOwnFile && !isDescribed)) {
      known.set(name, undefined);
      return undefined;
    }
    // Without a package of that name, an alias of the config may lead to one of another name.
    const isAlias = !found && owner !== undefined && target !== undefined && !declaresModule(target, name);
    const actual = isAlias ? owner : name;
    known.set(name, actual);
    const pkg = actual === name ? found : installed.find(actual, source.path);
    if (isLinked) folders.set(found.folder, actual);
    const isInstalled = pkg !== undefined || target !== undefined;
    packages.set(actual, { name: actual, kind: "package", version: pkg?.version, isInstalled });
    return actual;
  };
  for (const source of sources) {
    for (const site of source.sites) {
      const bare = packageNameOf(site.specifier);
      const named = bare === undefined ? undefined : packageNamed(bare, source, site);
      const name = named ?? elsewhere(source, site);
      if (name === undefined) continue;
      const place = { file: source.file, ...source.lines.at(site.offset) };
      imports.push({ package: name, site, source, place });
    }
  }
  // Imports within an outside package do not count.
  const isOutside = ({ source }: PackageImport) =>
    legacyOf(source.path, root, options) === undefined &&
    ![...folders.keys()].some((folder) => source.path.startsWith(`${folder}/`));
  const kept = imports.filter(isOutside);
  const used = new Set(kept.map((packageImport) => packageImport.package));
  return {
    imports: kept,
    packages: [...packages.values()]
      .filter(({ name }) => used.has(name))
      .sort((a, b) => compareText(a.name, b.name)),
    folders,
    hasLinked,
    brokenManifests: installed.broken,
  };
}

/** Returns the package that a path leads into: `../node_modules/kit/v3.js`. */
function packageIn(specifier: string, importer: string, root: string): string | undefined {
  if (!specifier.includes("node_modules/") || !/^(\.|\/|file:)/.test(specifier)) return undefined;
  return packageNameOfPath(resolve(dirname(importer), specifier.replace(/^file:\/\//, "")), root);
}

/** Whether a file declares a module by its name, so that the name leads to no file. */
function declaresModule(path: string, name: string): boolean {
  const quoted = name.replace(/[\\^$.*+?()[\]{}|]/g, "\\$&");
  return new RegExp(`\\bdeclare\\s+module\\s*["']${quoted}(?:["'/])`).test(readFileSync(path, "utf8"));
}

/** Whether a file is a source, not a declaration, in a folder. */
function isSourceIn(path: string, folder: string): boolean {
  return path.startsWith(`${folder}/`) && /(?<!\.d)\.[cm]?tsx?$/.test(path);
}

/** Returns the legacy module of a file, as the config names it. */
export function legacyOf(path: string, root: string, { legacy = [] }: OutsideOptions): string | undefined {
  return legacy.find((entry) => {
    const whole = join(root, entry);
    return entry.endsWith("/") ? path.startsWith(whole) : path === whole;
  });
}

/** Endings that a specifier may omit, in lookup order. */
const ENDINGS = [".ts", ".tsx", ".js", ".jsx", "/index.ts", "/index.tsx", "/index.js", "/index.jsx"];

/** Returns the file that a relative import leads to, if it can be found without the compiler. */
export function guessedTarget(
  importer: string,
  specifier: string,
  exists: (path: string) => boolean,
): string | undefined {
  if (!specifier.startsWith(".")) return undefined;
  const target = join(dirname(importer), specifier);
  const bare = target.replace(/\.([cm]?)jsx?$/, ".$1ts");
  if (exists(bare)) return bare;
  if (exists(target)) return target;
  const ending = ENDINGS.find((name) => exists(`${target}${name}`));
  return ending === undefined ? undefined : `${target}${ending}`;
}
