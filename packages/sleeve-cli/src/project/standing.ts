import { existsSync, readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { compareText } from "../place.ts";
import { lockfileOver } from "./lockfile.ts";
import { Packages } from "./packages.ts";
import type { ProjectSources } from "./project-sources.ts";

/** How a package stands in a project: who asked for it, and what there is of it. */
export interface Standing {
  /** As the manifest nearest to the importing files has it; `transitive` where only another package asked for it. */
  readonly declared: "dependency" | "development" | "peer" | "optional" | "transitive" | "undeclared";
  /** The version that the manifests ask for, each once. */
  readonly asked: readonly string[];
  /** The versions that importing files get, each once. */
  readonly installed: readonly string[];
  /** What the lockfile records of its being deprecated. */
  readonly deprecated: string | null;
}

const FIELDS = {
  dependencies: "dependency",
  peerDependencies: "peer",
  optionalDependencies: "optional",
  devDependencies: "development",
} as const;

/** The standing of each package that a project imports, by name. */
export function standingsIn(project: ProjectSources): ReadonlyMap<string, Standing> {
  const packages = new Packages();
  const manifests = new Manifests();
  const lockfile = lockfileOver(project.root);
  const standings = new Map<string, Standing>();
  for (const { name, kind } of project.packages) {
    if (kind !== "package") continue;
    const importers = [
      ...new Set(project.imports.filter((each) => each.package === name).map(({ source }) => source.path)),
    ];
    const found = importers.flatMap((path) => manifests.declaring(name, path) ?? []);
    const installed = importers.flatMap((path) => packages.find(name, path)?.version ?? []);
    const [first] = found;
    const locked = lockfile.get(name) ?? [];
    standings.set(name, {
      declared: first?.declared ?? (locked.length > 0 ? "transitive" : "undeclared"),
      asked: [...new Set(found.map(({ asked }) => asked))].sort(compareText),
      installed: [...new Set([...installed, ...locked.flatMap(({ version }) => version ?? [])])].sort(
        compareText,
      ),
      deprecated: locked.find(({ deprecated }) => deprecated !== undefined)?.deprecated ?? null,
    });
  }
  return standings;
}

class Manifests {
  readonly #read = new Map<string, Readonly<Record<string, unknown>> | undefined>();

  /** Where the manifests of a file's folder, and of those above it, declare a package: the nearest one counts. */
  declaring(
    name: string,
    path: string,
  ): { readonly declared: Standing["declared"]; readonly asked: string } | undefined {
    for (let folder = dirname(path); ; folder = dirname(folder)) {
      const manifest = this.#in(folder);
      for (const [field, declared] of Object.entries(FIELDS)) {
        const entries = manifest?.[field];
        const asked =
          typeof entries === "object" && entries !== null
            ? (entries as Record<string, unknown>)[name]
            : undefined;
        if (typeof asked === "string") return { declared, asked };
      }
      if (dirname(folder) === folder) return undefined;
    }
  }

  #in(folder: string): Readonly<Record<string, unknown>> | undefined {
    if (!this.#read.has(folder)) this.#read.set(folder, readJson(join(folder, "package.json")));
    return this.#read.get(folder);
  }
}

function readJson(path: string): Readonly<Record<string, unknown>> | undefined {
  if (!existsSync(path)) return undefined;
  try {
    const read: unknown = JSON.parse(readFileSync(path, "utf8"));
    return typeof read === "object" && read !== null ? (read as Record<string, unknown>) : undefined;
  } catch {
    return undefined;
  }
}
