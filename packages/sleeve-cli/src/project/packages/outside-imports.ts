import { join, relative, sep } from "node:path";
import type { Place } from "../../documents/place.ts";
import type { ImportSite } from "../../parser/module-record.ts";
import { compareText } from "../../place.ts";
import type { SourceText } from "../source-text.ts";
import type { Destinations } from "./destinations.ts";

/** A place where the project imports a package. */
export interface PackageImport {
  readonly package: string;
  /** A specifier of the same module that any file of the project can use; a path from the project's folder if it is legacy. */
  readonly specifier: string;
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
  /** Declaration files of the project that describe packages, by path. */
  readonly described: ReadonlyMap<string, ReadonlySet<string>>;
  /** Whether any imported package is linked, including the project's own. */
  readonly hasLinked: boolean;
  /** Paths of manifests that are not JSON objects. */
  readonly brokenManifests: readonly string[];
}

/** Decides which imports lead outside: to a package, installed or not, without sources in the project. */
export function resolveImports(
  destinations: Destinations,
  root: string,
  sources: readonly SourceText[],
  options: OutsideOptions,
): ResolvedImports {
  const folders = new Map<string, string>();
  const packages = new Map<string, OutsidePackage>();
  const described = new Map<string, Set<string>>();
  const imports: PackageImport[] = [];
  const isLegacy = (path: string) => legacyOf(path, root, options) !== undefined;
  const outsideOf = (source: SourceText, site: ImportSite): Outside | undefined => {
    const destination = destinations.outsideOf(source.path, site);
    if (destination?.kind === "built-in") {
      const { name, specifier } = destination;
      return options.builtIns
        ? { name, specifier, pkg: { name, kind: "built-in", version: undefined, isInstalled: true } }
        : undefined;
    }
    if (destination) {
      const { name, specifier, version, isInstalled, linkedFolder, describedBy } = destination;
      if (linkedFolder !== undefined) folders.set(linkedFolder, name);
      if (describedBy !== undefined)
        described.set(describedBy, (described.get(describedBy) ?? new Set()).add(name));
      return { name, specifier, pkg: { name, kind: "package", version, isInstalled } };
    }
    if (!options.legacy || options.legacy.length === 0 || isLegacy(source.path)) return undefined;
    const target = destinations.fileOf(source.path, site);
    const name = target === undefined ? undefined : legacyOf(target, root, options);
    if (name === undefined || target === undefined) return undefined;
    const specifier = relative(root, target).split(sep).join("/");
    return { name, specifier, pkg: { name, kind: "legacy", version: undefined, isInstalled: true } };
  };
  for (const source of sources) {
    for (const site of source.sites) {
      const outside = outsideOf(source, site);
      if (!outside) continue;
      const { name, specifier, pkg } = outside;
      const before = packages.get(name);
      packages.set(name, before?.isInstalled ? before : pkg);
      const place = { file: source.file, ...source.lines.at(site.offset) };
      imports.push({ package: name, specifier, site, source, place });
    }
  }
  // Imports within an outside package do not count.
  const isOutside = ({ source }: PackageImport) =>
    !isLegacy(source.path) && ![...folders.keys()].some((folder) => source.path.startsWith(`${folder}/`));
  const importsOfOwn = imports.filter(isOutside);
  const imported = new Set(importsOfOwn.map((packageImport) => packageImport.package));
  return {
    imports: importsOfOwn,
    packages: [...packages.values()]
      .filter(({ name }) => imported.has(name))
      .sort((a, b) => compareText(a.name, b.name)),
    folders,
    described,
    hasLinked: destinations.hasLinked,
    brokenManifests: destinations.installed.broken,
  };
}

/** Where one import leads. */
interface Outside {
  readonly name: string;
  readonly specifier: string;
  readonly pkg: OutsidePackage;
}

/** Returns the legacy module of a file, as the config names it. */
export function legacyOf(path: string, root: string, { legacy = [] }: OutsideOptions): string | undefined {
  return legacy.find((entry) => {
    const entryPath = join(root, entry);
    return entry.endsWith("/") ? path.startsWith(entryPath) : path === entryPath;
  });
}
