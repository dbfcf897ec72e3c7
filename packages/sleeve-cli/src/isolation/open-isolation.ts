import { existsSync, statSync } from "node:fs";
import { join, relative, resolve, sep } from "node:path";
import { ProblemError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import type { Config, Isolation } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { builtInOf } from "../project/packages.ts";
import { findProject, type ProjectFolder } from "../project/project.ts";

/** A project that is open to have one outside module isolated. */
export interface OpenIsolation {
  readonly folder: ProjectFolder;
  readonly project: OpenProject;
  /** The module as the project counts it: `crane`, `node:fs`, `src/legacy/`. */
  readonly outside: string;
  readonly isolation: Isolation | undefined;
}

/**
 * Opens a project for isolating a package, a built-in, or a legacy module of its own, which is named by its path.
 *
 * @throws {ProblemError} `NOT_IMPORTED`, `NOT_INSTALLED`, and what finding the project throws
 */
export function openIsolation(
  module: string,
  { folder, tsconfig }: { readonly folder: string; readonly tsconfig?: string | undefined },
  config: Config,
): OpenIsolation {
  const found = findProject(folder, tsconfig ?? config.tsconfig);
  const legacy = legacyEntry(found.root, folder, module);
  const outside = legacy ?? builtInOf(module) ?? module;
  const project = OpenProject.open(found, {
    legacy: [...new Set([...(config.legacy ?? []), ...(legacy === undefined ? [] : [legacy])])],
    builtIns: builtInOf(module) !== undefined,
  });
  if (!project.packages.some(({ name }) => name === outside)) {
    project.close();
    const names = project.packages.map(({ name }) => name);
    const meant = nearestName(outside, names);
    throw new ProblemError(
      "NOT_IMPORTED",
      `No file of the project imports ${outside}.${meant ? ` Did you mean ${meant}?` : ` It imports ${listed(names)}.`}`,
    );
  }
  if (!project.packages.some(({ name, isInstalled }) => name === outside && isInstalled)) {
    project.close();
    throw new ProblemError(
      "NOT_INSTALLED",
      `The package ${outside} is not installed, so that nothing is known of it. Install it and run again.`,
    );
  }
  return { folder: found, project, outside, isolation: config.isolated?.[outside] };
}

function listed(names: readonly string[]): string {
  if (names.length === 0) return "nothing from outside";
  const rest = names.length > 6 ? ` and ${names.length - 6} more` : "";
  return `${names.slice(0, 6).join(", ")}${rest}`;
}

/** A module of the project's own that is named by its path, as a config would write it: a folder ends in a slash. */
function legacyEntry(root: string, folder: string, module: string): string | undefined {
  if (!/^\.|\//.test(module) && !/\.[cm]?[jt]sx?$/.test(module)) return undefined;
  if (module.startsWith("@") || module.startsWith("node:")) return undefined;
  const path = [resolve(root, module), resolve(folder, module)].find(existsSync);
  if (path === undefined || path.includes(`${sep}node_modules${sep}`)) return undefined;
  const entry = relative(root, path).split(sep).join("/");
  if (entry === "" || entry.startsWith("..")) return undefined;
  return statSync(path).isDirectory() ? `${entry}/` : entry;
}

/** The path of the file in `file#export`. */
export function pathIn(root: string, place: string): string {
  return join(root, place.split("#")[0] ?? "");
}

/** The export in `file#export`. */
export function exportIn(place: string): string {
  return place.split("#")[1] ?? "";
}
