import { existsSync, statSync } from "node:fs";
import { join, relative, resolve, sep } from "node:path";
import { CliError, type Problem } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import { exportParts } from "../place.ts";
import type { Config, Isolation } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { builtInOf } from "../project/packages/packages.ts";
import { findProject, type ProjectFolder } from "../project/project.ts";
import { declarationsFromUse } from "./outside/types-from-use.ts";

/** A project opened to isolate one outside module. */
export interface OpenIsolation {
  readonly folder: ProjectFolder;
  readonly project: OpenProject;
  /** The module's name in the project: `crane`, `node:fs`, `src/legacy/`. */
  readonly outside: string;
  readonly isolation: Isolation | undefined;
  readonly notes: readonly Problem[];
}

/**
 * Opens a project to isolate a package, a built-in module, or a legacy module, which is named by its path.
 *
 * @throws {CliError} `NOT_IMPORTED`, `NOT_INSTALLED`, and the errors of finding the project
 */
export function openIsolation(
  module: string,
  { folder, tsconfig }: { readonly folder: string; readonly tsconfig?: string | undefined },
  config: Config,
  /** Overlay files. */
  shown: ReadonlyMap<string, string> = new Map(),
): OpenIsolation {
  const foundProject = findProject(folder, tsconfig ?? config.tsconfig);
  const legacy = legacyEntry(foundProject.root, folder, module);
  const outside = legacy ?? builtInOf(module) ?? module;
  const options = {
    legacy: [...new Set([...(config.legacy ?? []), ...(legacy === undefined ? [] : [legacy])])],
    builtIns: builtInOf(module) !== undefined,
    canOverlay: true,
    files: shown,
  };
  const project = OpenProject.open(foundProject, options);
  if (!project.packages.some(({ name }) => name === outside)) {
    project.close();
    const broken = project.problems.find(({ code }) => code === "BROKEN_TSCONFIG");
    if (broken) throw new CliError(broken.code, broken.message);
    if (legacy !== undefined)
      throw new CliError(
        "NOT_IMPORTED",
        `No other file of the project imports ${outside}. Name a package, or legacy code that other files import.`,
      );
    const names = project.packages.map(({ name }) => name);
    const meant = nearestName(outside, names);
    throw new CliError(
      "NOT_IMPORTED",
      `No file of the project imports ${outside}.${meant ? ` Did you mean ${meant}?` : ` It imports ${listed(names)}.`}`,
    );
  }
  if (!project.packages.some(({ name, isInstalled }) => name === outside && isInstalled)) {
    project.close();
    throw new CliError(
      "NOT_INSTALLED",
      `The package ${outside} is not installed, so its types are unknown. Install it and run again.`,
    );
  }
  const isolation = config.isolated?.[outside];
  const files = declarationsFromUse(project, outside);
  if (files.size === 0) return { folder: foundProject, project, outside, isolation, notes: [] };
  project.close();
  const typed = OpenProject.open(foundProject, { ...options, files: new Map([...shown, ...files]) });
  return { folder: foundProject, project: typed, outside, isolation, notes: [typesFromUse(outside)] };
}

function typesFromUse(outside: string): Problem {
  return {
    code: "TYPES_FROM_USE",
    isNote: true,
    message: `${outside} has no types, so they are inferred from how the project uses it. Review them in the target, or install types and draft again.`,
  };
}

function listed(names: readonly string[]): string {
  if (names.length === 0) return "nothing from outside";
  const others = names.length > 6 ? ` and ${names.length - 6} more` : "";
  return `${names.slice(0, 6).join(", ")}${others}`;
}

/** Returns a legacy module as a config names it: a folder has a trailing slash. */
function legacyEntry(root: string, folder: string, module: string): string | undefined {
  if (!/^\.|\//.test(module) && !/\.[cm]?[jt]sx?$/.test(module)) return undefined;
  if (module.startsWith("@") || module.startsWith("node:")) return undefined;
  const path = [resolve(root, module), resolve(folder, module)].find(existsSync);
  if (path === undefined || path.includes(`${sep}node_modules${sep}`)) return undefined;
  const entry = relative(root, path).split(sep).join("/");
  if (entry === "" || entry.startsWith("..")) return undefined;
  return statSync(path).isDirectory() ? `${entry}/` : entry;
}

/** Returns the file in `file#export`. */
export function pathIn(root: string, place: string): string {
  return join(root, exportParts(place)[0]);
}

/** Returns the export in `file#export`. */
export function exportIn(place: string): string {
  return exportParts(place)[1];
}
