import { existsSync } from "node:fs";
import { dirname, join } from "node:path";
import { manifestAt } from "./packages.ts";

/** The manifest that applies to a folder. */
export interface NearestManifest {
  readonly folder: string;
  readonly name: string | undefined;
  /** Its subpath imports: `{ "#crane": "crane" }`. */
  readonly imports: Readonly<Record<string, unknown>>;
}

/** Finds the manifests that apply to folders, and remembers them. */
export class NearestManifests {
  readonly #byFolder = new Map<string, NearestManifest | undefined>();

  /** Returns the manifest in a folder or in the nearest folder above it. */
  of(folder: string): NearestManifest | undefined {
    if (!this.#byFolder.has(folder)) this.#byFolder.set(folder, this.#read(folder));
    return this.#byFolder.get(folder);
  }

  #read(folder: string): NearestManifest | undefined {
    const path = join(folder, "package.json");
    if (!existsSync(path)) return dirname(folder) === folder ? undefined : this.of(dirname(folder));
    const { name, imports } = manifestAt(path) ?? {};
    return {
      folder,
      name: typeof name === "string" ? name : undefined,
      imports: typeof imports === "object" && imports !== null ? (imports as Record<string, unknown>) : {},
    };
  }
}

/**
 * Returns what a specifier such as `#crane` or `#vendor/crane` can lead to under any condition, in the order of the
 * manifest. See "Subpath imports" in the documentation of Node.js.
 */
export function importTargets(imports: NearestManifest["imports"], specifier: string): readonly string[] {
  const exact = imports[specifier];
  if (exact !== undefined && !specifier.includes("*")) return textsIn(exact);
  const patterns = Object.keys(imports)
    .filter((key) => key.includes("*"))
    .map((key) => ({ key, start: key.slice(0, key.indexOf("*")), end: key.slice(key.indexOf("*") + 1) }))
    .filter(
      ({ start, end }) =>
        specifier.startsWith(start) &&
        specifier.endsWith(end) &&
        specifier.length >= start.length + end.length,
    )
    // The most specific pattern applies.
    .sort((left, right) => right.start.length - left.start.length || right.key.length - left.key.length);
  const [pattern] = patterns;
  if (!pattern) return [];
  const part = specifier.slice(pattern.start.length, specifier.length - pattern.end.length);
  return textsIn(imports[pattern.key]).map((target) => target.replaceAll("*", () => part));
}

/** Returns the texts in a target with conditions or alternatives. */
function textsIn(target: unknown): readonly string[] {
  if (typeof target === "string") return [target];
  if (typeof target !== "object" || target === null) return [];
  return Object.values(target).flatMap(textsIn);
}
