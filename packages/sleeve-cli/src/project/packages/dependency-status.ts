import { dirname, join } from "node:path";
import type { DependencyStatus } from "../../documents/survey-document.ts";
import { compareText } from "../../place.ts";
import type { ProjectSources } from "../project-sources.ts";
import { lockfileOver } from "./lockfile.ts";
import { manifestAt, Packages } from "./packages.ts";

const FIELDS = {
  dependencies: "dependency",
  peerDependencies: "peer",
  optionalDependencies: "optional",
  devDependencies: "development",
} as const;

/** Returns the dependency status of each imported package, by name. */
export function dependencyStatusesIn(project: ProjectSources): ReadonlyMap<string, DependencyStatus> {
  const packages = new Packages();
  const manifests = new Manifests();
  const lockfile = lockfileOver(project.root);
  const standings = new Map<string, DependencyStatus>();
  for (const { name, kind } of project.packages) {
    if (kind !== "package") continue;
    const importers = [
      ...new Set(project.imports.filter((site) => site.package === name).map(({ source }) => source.path)),
    ];
    const declarations = importers.flatMap((path) => manifests.declaring(name, path) ?? []);
    const installed = importers.flatMap((path) => packages.find(name, path)?.version ?? []);
    const [declaration] = declarations;
    const locked = lockfile.get(name) ?? [];
    standings.set(name, {
      declared: declaration?.declared ?? (locked.length > 0 ? "transitive" : "undeclared"),
      requested: [...new Set(declarations.map(({ requested }) => requested))].sort(compareText),
      installed: [...new Set([...installed, ...locked.flatMap(({ version }) => version ?? [])])].sort(
        compareText,
      ),
      deprecated: locked.find(({ deprecated }) => deprecated !== undefined)?.deprecated ?? null,
    });
  }
  return standings;
}

/** Returns the keywords in the manifest of each imported package, by name. */
export function keywordsIn(project: ProjectSources): ReadonlyMap<string, readonly string[]> {
  const packages = new Packages();
  const keywords = new Map<string, readonly string[]>();
  for (const { package: name, source } of project.imports) {
    if (keywords.has(name)) continue;
    const installed = packages.find(name, source.path);
    const manifest = installed && manifestAt(join(installed.folder, "package.json"));
    const words = [manifest?.["keywords"] ?? []].flat().filter((word) => typeof word === "string");
    if (installed) keywords.set(name, words);
  }
  return keywords;
}

class Manifests {
  readonly #read = new Map<string, Readonly<Record<string, unknown>> | undefined>();

  /** Finds where the manifests above a file declare a package; the nearest one counts. */
  declaring(
    name: string,
    path: string,
  ): { readonly declared: DependencyStatus["declared"]; readonly requested: string } | undefined {
    for (let folder = dirname(path); ; folder = dirname(folder)) {
      const manifest = this.#in(folder);
      for (const [field, declared] of Object.entries(FIELDS)) {
        const entries = manifest?.[field];
        const requested =
          typeof entries === "object" && entries !== null
            ? (entries as Record<string, unknown>)[name]
            : undefined;
        if (typeof requested === "string") return { declared, requested };
      }
      if (dirname(folder) === folder) return undefined;
    }
  }

  #in(folder: string): Readonly<Record<string, unknown>> | undefined {
    if (!this.#read.has(folder)) this.#read.set(folder, manifestAt(join(folder, "package.json")));
    return this.#read.get(folder);
  }
}
