import { existsSync, readFileSync, realpathSync } from "node:fs";
import { isBuiltin } from "node:module";
import { dirname, join } from "node:path";

/** A package that the project can import. */
export interface InstalledPackage {
  readonly name: string;
  readonly version: string | undefined;
  /** Its real path, with symbolic links resolved. */
  readonly folder: string;
}

/** Returns the package name of a bare specifier; `undefined` for paths, built-in modules and `#` imports. */
export function packageNameOf(specifier: string): string | undefined {
  if (/^([./#]|[a-z][a-z+.-]+:|[A-Za-z]:\\)/.test(specifier) || specifier === "" || isBuiltin(specifier))
    return undefined;
  const [scopeOrName = "", second = ""] = specifier.split("/");
  return scopeOrName.startsWith("@") ? `${scopeOrName}/${second}` : scopeOrName;
}

/** Returns the built-in module of a specifier, always as `node:fs`. */
export function builtInOf(specifier: string): string | undefined {
  if (!isBuiltin(specifier)) return undefined;
  return specifier.startsWith("node:") ? specifier : `node:${specifier}`;
}

/**
 * Returns the built-in module declared by a file of the runtime's types: `node:fs/promises` for
 * `fs/promises.d.ts` of `@types/node`.
 */
export function builtInOfPath(path: string): string | undefined {
  const [, name] = /\/node_modules\/@types\/node\/(.+)\.d\.[cm]?ts$/.exec(path) ?? [];
  return name === undefined ? undefined : builtInOf(name);
}

/**
 * Returns the package of a file under `node_modules`. `@types/x` counts as `x`. A project may itself lie
 * under `node_modules`, so folders above its root do not count.
 */
export function packageNameOfPath(path: string, root: string): string | undefined {
  const at = path.lastIndexOf("/node_modules/");
  if (at < 0 || (path.startsWith(`${root}/`) && at < root.length)) return undefined;
  const [scopeOrName = "", second = ""] = path.slice(at + "/node_modules/".length).split("/");
  if (scopeOrName === "@types") return second.includes("__") ? `@${second.replace("__", "/")}` : second;
  return scopeOrName.startsWith("@") ? `${scopeOrName}/${second}` : scopeOrName;
}

export function typesPackageOf(name: string): string {
  return `@types/${name.startsWith("@") ? name.slice(1).replace("/", "__") : name}`;
}

/** Finds packages as Node.js does: in `node_modules` of the importing file's folder and of those above it. */
export class Packages {
  readonly #found = new Map<string, InstalledPackage | undefined>();
  /** Paths of the manifests that were found and are not JSON objects. */
  readonly broken: string[] = [];

  find(name: string, importer: string): InstalledPackage | undefined {
    const folder = dirname(importer);
    const key = `${folder}\0${name}`;
    if (!this.#found.has(key)) this.#found.set(key, this.#lookUp(name, folder));
    return this.#found.get(key);
  }

  #lookUp(name: string, folder: string): InstalledPackage | undefined {
    const here = join(folder, "node_modules", name);
    const manifest = join(here, "package.json");
    if (existsSync(manifest)) {
      const read = manifestAt(manifest);
      if (!read) this.broken.push(manifest);
      const version = typeof read?.["version"] === "string" ? read["version"] : undefined;
      return { name, version, folder: realpathSync(here) };
    }
    const parent = dirname(folder);
    if (parent === folder) return undefined;
    return this.find(name, join(parent, "_"));
  }
}

/** Returns the content of a manifest; `undefined` if it is not a JSON object. */
export function manifestAt(path: string): Readonly<Record<string, unknown>> | undefined {
  try {
    const read: unknown = JSON.parse(readFileSync(path, "utf8").replace(/^\uFEFF/, ""));
    const isObject = typeof read === "object" && read !== null && !Array.isArray(read);
    return isObject ? (read as Record<string, unknown>) : undefined;
  } catch {
    return undefined;
  }
}
