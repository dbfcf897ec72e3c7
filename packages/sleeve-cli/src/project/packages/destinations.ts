import { existsSync, readFileSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import type { ImportSite } from "../../parser/module-record.ts";
import type { Modules } from "../modules.ts";
import { fileAt, typesAt } from "./file-lookup.ts";
import { importTargets, NearestManifests } from "./manifest-imports.ts";
import {
  builtInOf,
  type InstalledPackage,
  manifestAt,
  Packages,
  packageNameOf,
  packageNameOfPath,
  typesPackageOf,
} from "./packages.ts";
import { runtimeFileOf } from "./runtime-file.ts";

/** Where a specifier leads that leaves the project's own files. */
export type OutsideDestination =
  | { readonly kind: "built-in"; readonly name: string; readonly specifier: string }
  | PackageDestination;

export interface PackageDestination {
  readonly kind: "package";
  readonly name: string;
  /** A specifier of the same module that any file of the project can use. */
  readonly specifier: string;
  readonly version: string | undefined;
  readonly isInstalled: boolean;
  /** Its folder, if it is a linked package. */
  readonly linkedFolder: string | undefined;
  /** The declaration file of the project that describes the package. */
  readonly describedBy: string | undefined;
}

type Site = Pick<ImportSite, "specifier" | "offset"> & Partial<Pick<ImportSite, "forms">>;

/**
 * Decides where the specifiers of a project lead: to a package, a built-in module, or a file of the project. Survey,
 * borders, `draft`, `move` and `drift` all use it. It considers installed and linked packages, `imports` of
 * `package.json`, path aliases, paths into packages, and declarations of modules.
 */
export class Destinations {
  /** Finds installed packages; it also lists broken manifests. */
  readonly installed = new Packages();
  readonly #modules: Modules;
  readonly #root: string;
  readonly #ownPaths: ReadonlySet<string>;
  readonly #manifests = new NearestManifests();
  readonly #named = new Map<string, PackageDestination | undefined>();
  readonly #files = new Map<string, string | undefined>();
  #hasLinked = false;

  /** @param ownPaths the sources of the project, including those of linked packages */
  constructor(modules: Modules, root: string, ownPaths: ReadonlySet<string>) {
    this.#modules = modules;
    this.#root = root;
    this.#ownPaths = ownPaths;
  }

  /** Whether any imported package is linked, including the project's own. */
  get hasLinked(): boolean {
    return this.#hasLinked;
  }

  /** Returns the declarations that the manifest of a package names, if they do not exist. */
  missingTypesOf(name: string, importer: string, site: Site): string | undefined {
    const installed = this.installed.find(name, importer);
    if (!installed || this.installed.find(typesPackageOf(name), importer)) return undefined;
    const { types, typings } = manifestAt(join(installed.folder, "package.json")) ?? {};
    const file = types ?? typings;
    if (typeof file !== "string") return undefined;
    const path = join(installed.folder, file);
    const exists = ["", ".d.ts", ".ts", "/index.d.ts"].some((ending) => existsSync(`${path}${ending}`));
    if (exists) return undefined;
    // Its `exports` may lead to others.
    const target = this.#modules.resolveModule(importer, site);
    return target !== undefined && /\.d\.[cm]?ts$/.test(target) ? undefined : file;
  }

  /** Returns the file that loads packages from archives rather than from `node_modules`, in or above a file's folder. */
  archiveLoaderOver(importer: string): string | undefined {
    for (let folder = dirname(importer); ; folder = dirname(folder)) {
      const loader = [".pnp.cjs", ".pnp.js"]
        .map((name) => join(folder, name))
        .find((path) => existsSync(path));
      if (loader !== undefined || dirname(folder) === folder) return loader;
    }
  }

  /** Returns the package or built-in module that a specifier leads to; `undefined` if it leads to a file of the project. */
  outsideOf(importer: string, site: Site): OutsideDestination | undefined {
    const { specifier } = site;
    const builtIn = builtInOf(specifier);
    if (builtIn !== undefined) return { kind: "built-in", name: builtIn, specifier: builtIn };
    if (specifier.startsWith("#")) return this.#mapped(importer, site);
    const name = packageNameOf(specifier);
    if (name !== undefined) {
      const destination = this.#packageNamed(name, importer, site);
      return destination && { ...destination, specifier: this.#specifierFor(destination, importer, site) };
    }
    return this.#behindPath(importer, specifier);
  }

  /** Returns the file of the project that a specifier leads to; `undefined` if it leads outside, or nowhere. */
  fileOf(importer: string, site: Site): string | undefined {
    const { specifier } = site;
    const guess = guessedTarget(importer, specifier, (path) => this.#ownPaths.has(path));
    if (guess !== undefined) return guess;
    const key = `${importer}\0${specifier}`;
    if (!this.#files.has(key)) this.#files.set(key, this.#findFile(importer, site));
    return this.#files.get(key);
  }

  #findFile(importer: string, site: Site): string | undefined {
    const beside = this.#classicFile(importer, site.specifier);
    if (beside !== undefined) return beside;
    const declared = this.#modules.resolveModule(importer, site);
    if (declared !== undefined) return declared;
    if (site.specifier.startsWith("#")) {
      const manifest = this.#manifests.of(dirname(importer));
      const targets = manifest ? importTargets(manifest.imports, site.specifier) : [];
      const [path] = targets.filter((target) => target.startsWith("."));
      return path && manifest && fileAt(join(manifest.folder, "package.json"), path);
    }
    // The compiler resolves `require` in scripts only where it declares a name.
    return fileAt(importer, site.specifier);
  }

  /** Follows `imports` of `package.json`. If any condition leads to a package, the specifier leads there. */
  #mapped(importer: string, site: Site): OutsideDestination | undefined {
    const manifest = this.#manifests.of(dirname(importer));
    if (!manifest) return undefined;
    for (const target of importTargets(manifest.imports, site.specifier)) {
      const builtIn = builtInOf(target);
      if (builtIn !== undefined) return { kind: "built-in", name: builtIn, specifier: builtIn };
      const name = packageNameOf(target);
      const from = join(manifest.folder, "package.json");
      const destination =
        name === undefined ? this.#behindPath(from, target) : this.#installedPackage(name, target, from);
      if (destination) return destination;
    }
    return undefined;
  }

  #installedPackage(name: string, specifier: string, importer: string): PackageDestination {
    const installed = this.#find(name, importer);
    const isLinked = installed !== undefined && packageNameOfPath(installed.folder, this.#root) === undefined;
    this.#hasLinked ||= isLinked;
    return {
      kind: "package",
      name,
      specifier,
      version: installed?.version,
      isInstalled: installed !== undefined,
      linkedFolder: isLinked ? installed.folder : undefined,
      describedBy: undefined,
    };
  }

  #find(name: string, importer: string): InstalledPackage | undefined {
    return this.installed.find(name, importer) ?? this.installed.find(typesPackageOf(name), importer);
  }

  /** Returns the package that a name leads to; `undefined` if it leads to our own files. */
  #packageNamed(name: string, importer: string, site: Site): PackageDestination | undefined {
    if (this.#classicFile(importer, site.specifier) !== undefined) return undefined;
    const installed = this.#find(name, importer);
    // An alias may be one of a part of a package, or of one module among several.
    const isWhole = installed !== undefined && !this.#modules.hasPathAliases();
    const key = `${isWhole ? name : site.specifier}\0${installed?.folder ?? ""}`;
    if (!this.#named.has(key)) this.#named.set(key, this.#readPackage(name, installed, importer, site));
    return this.#named.get(key);
  }

  #readPackage(
    name: string,
    installed: InstalledPackage | undefined,
    importer: string,
    site: Site,
  ): PackageDestination | undefined {
    const plain = this.#installedPackage(name, site.specifier, importer);
    if (plain.linkedFolder !== undefined) return this.#holdsSources(plain.linkedFolder) ? undefined : plain;
    // A comment such as `/// <reference types="crane" />` has no symbol.
    const isReference = site.forms?.includes("reference") === true;
    const target = isReference ? undefined : this.#modules.resolveModule(importer, site);
    if (target === undefined) return plain;
    const owner = packageNameOfPath(target, this.#root);
    if (owner === undefined) {
      // Declarations of our own only describe a package that is installed; sources of our own replace it.
      const describes = /\.d\.[cm]?ts$/.test(target) || declaresModule(target, name);
      return installed && describes ? { ...plain, describedBy: target } : undefined;
    }
    // Without a package of that name, an alias of the config may lead to one of another name.
    if (installed || owner === name || declaresModule(target, name)) return { ...plain, isInstalled: true };
    return { ...this.#installedPackage(owner, site.specifier, importer), isInstalled: true };
  }

  /** Whether the project contains sources, not only declarations, in a folder. */
  #holdsSources(folder: string): boolean {
    return [...this.#ownPaths].some(
      (path) => path.startsWith(`${folder}/`) && /(?<!\.d)\.[cm]?tsx?$/.test(path),
    );
  }

  /** An alias of the entry of a package is replaced by the package's name. */
  #specifierFor({ name }: PackageDestination, importer: string, site: Site): string {
    const { specifier } = site;
    if (packageNameOf(specifier) === name) return specifier;
    const target = this.#modules.resolveModule(importer, site);
    const entry = typesAt(importer, name);
    return entry !== undefined && entry === target ? name : specifier;
  }

  /** Returns the package that a path leads into: `../node_modules/kit/v3.js`, or the folder of a linked package. */
  #behindPath(importer: string, specifier: string): PackageDestination | undefined {
    if (!/^(?:\.|\/|file:)/.test(specifier)) return undefined;
    if (guessedTarget(importer, specifier, (path) => this.#ownPaths.has(path)) !== undefined)
      return undefined;
    const path = specifier.startsWith("file:") ? pathOfUrl(specifier) : resolve(dirname(importer), specifier);
    const name = path === undefined ? undefined : packageNameOfPath(path, this.#root);
    if (path === undefined) return undefined;
    if (name !== undefined)
      return this.#installedPackage(name, nameWithin(path, importer) ?? specifier, importer);
    // Everything in the project's folder is its own, unless a link leads there.
    const linked = this.#linkedPackageAt(path, importer);
    const { folder = "" } = this.#manifests.of(dirname(path)) ?? {};
    const within = exportedName(`${linked}${path.slice(folder.length)}`, path, importer);
    return linked === undefined ? undefined : this.#installedPackage(linked, within ?? specifier, importer);
  }

  /** Returns the name of the linked package whose folder contains a path. */
  #linkedPackageAt(path: string, importer: string): string | undefined {
    const manifest = this.#manifests.of(dirname(path));
    const { name, folder } = manifest ?? {};
    if (name === undefined || folder === undefined || `${this.#root}/`.startsWith(`${folder}/`))
      return undefined;
    const isLinked = this.installed.find(name, importer)?.folder === folder;
    return isLinked && !this.#holdsSources(folder) ? name : undefined;
  }

  /** With the oldest kind of resolution, a file in the importer's folder, or in one above it, comes before a package. */
  #classicFile(importer: string, specifier: string): string | undefined {
    if (!this.#modules.isClassic || packageNameOf(specifier) === undefined) return undefined;
    for (let folder = dirname(importer); ; folder = dirname(folder)) {
      for (const ending of [".ts", ".tsx", ".d.ts"]) {
        const path = join(folder, `${specifier}${ending}`);
        if (existsSync(path)) return path;
      }
      if (folder === this.#root || dirname(folder) === folder) return undefined;
    }
  }
}

function pathOfUrl(url: string): string | undefined {
  try {
    return fileURLToPath(url);
  } catch {
    return undefined;
  }
}

/**
 * Returns the name by which a package's file can be imported from anywhere: `kit/v3.js` for a path into
 * `node_modules/kit`, and `kit` for its entry. `undefined` if the package does not export the file.
 */
function nameWithin(path: string, importer: string): string | undefined {
  const within = path.slice(path.lastIndexOf("/node_modules/") + "/node_modules/".length);
  return exportedName(within, path, importer);
}

/** Returns the package's name if it leads to a file as well, or else `within` if that leads to the file. */
function exportedName(within: string, path: string, importer: string): string | undefined {
  const name = packageNameOf(within);
  const file = runtimeFileOf(importer, within) ?? runtimeFileOf(importer, path);
  if (name === undefined || file === undefined) return undefined;
  if (runtimeFileOf(importer, name) === file) return name;
  return runtimeFileOf(importer, within) === file ? within : undefined;
}

/** Whether a file declares a module by its name, so that the name leads to no file. */
export function declaresModule(path: string, name: string): boolean {
  return modulesDeclaredIn(readFileSync(path, "utf8")).some(
    (declared) => declared === name || declared.startsWith(`${name}/`),
  );
}

/** Returns the modules that a file declares or augments by name. */
export function modulesDeclaredIn(text: string): readonly string[] {
  return [...text.matchAll(/\bdeclare\s+module\s*(["'])([^"'\n]+)\1/g)].map(([, , name = ""]) => name);
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
