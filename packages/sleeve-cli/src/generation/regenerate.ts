import { existsSync } from "node:fs";
import { dirname, join } from "node:path";
import type { WrapperFile } from "../documents/wrap-document.ts";
import { runTogether } from "../emit/compile.ts";
import { CliError } from "../errors.ts";
import { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import { exportParts } from "../place.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { optionsIn } from "./command-line.ts";
import { jobFor } from "./generate.ts";
import type { GenerateOptions } from "./generate-options.ts";
import { foundFile } from "./generated-file.ts";

/** A generated file of a project, and what its command writes now. */
export interface RegeneratedFile {
  readonly file: string;
  /** The command that writes it again. */
  readonly command: string;
  readonly now: WrapperFile | CliError;
}

/** Synonyms for proposals, as the config has them. */
type Synonyms = readonly (readonly string[])[] | undefined;

/** Generates all generated files of a project again. An adapter or a facade that was edited is complete, and is left out. */
export function regenerate(
  project: OpenProject,
  overlays: OverlayProgram,
  synonyms: Synonyms,
): readonly RegeneratedFile[] {
  const files = project.sources.flatMap(({ file, text }) => {
    const existing = foundFile(text);
    if (existing.kind === "foreign") return [];
    const options = optionsIn(existing.header.command);
    if (existing.kind === "edited" && options && COMPLETED.has(options.kind)) return [];
    if (options && isOfInnerProject(project.root, file, options)) return [];
    return [{ file, command: existing.header.command, options }];
  });
  const jobs = files.map(({ command, options }) => {
    if (!options) return new CliError("BAD_OPTION", `${command} is not a command of this version.`);
    try {
      return jobFor(project, overlays, { ...options, synonyms });
    } catch (error) {
      if (!(error instanceof CliError)) throw error;
      return error;
    }
  });
  const waiting = jobs.flatMap((job) => (job instanceof CliError ? [] : [job]));
  const results = runTogether(overlays.program, waiting);
  const done = new Map(waiting.map((job, index) => [job, results[index]]));
  return files.map(({ file, command }, index) => {
    const job = jobs[index];
    const now = job instanceof CliError ? job : job && done.get(job);
    return { file, command, now: now ?? new CliError("NOTHING_TO_WRAP", `${file} has no command.`) };
  });
}

/** Kinds whose open members the developer completes. */
const COMPLETED: ReadonlySet<string> = new Set(["adapter", "facade"]);

/** Whether a file was generated in a project within this one, from which its paths start. */
function isOfInnerProject(root: string, file: string, { type, to }: GenerateOptions): boolean {
  const [module] = exportParts(type);
  const path = to ?? (/\.[cm]?[jt]sx?$/.test(module) ? module : undefined);
  if (path === undefined || existsSync(join(root, path))) return false;
  for (let folder = dirname(file); folder !== "."; folder = dirname(folder))
    if (existsSync(join(root, folder, path))) return true;
  return false;
}

/** A generated file that is not what its command writes now. */
export interface StaleFile {
  readonly file: string;
  /** What it is: edited, older than its type, or one that cannot be generated any more. */
  readonly found: string;
  readonly remedy: string;
}

/** Finds generated files that were edited, or whose types have changed since. */
export function staleFilesIn(
  checked: OpenProject,
  { tsconfig, synonyms }: { readonly tsconfig: string | undefined; readonly synonyms: Synonyms },
): readonly StaleFile[] {
  // Most projects have none, and are not opened again.
  if (checked.sources.every(({ text }) => foundFile(text).kind === "foreign")) return [];
  using project = OpenProject.open(findProject(checked.root, tsconfig), { canOverlay: true });
  using overlays = OverlayProgram.open(project);
  return regenerate(project, overlays, synonyms).flatMap((regenerated) => {
    const why = whyStale(regenerated);
    return why === undefined ? [] : [{ file: regenerated.file, ...why }];
  });
}

function whyStale({ file, command, now }: RegeneratedFile): Omit<StaleFile, "file"> | undefined {
  const remedy = `Run ${command}.`;
  if (now instanceof CliError)
    return {
      found: `it cannot be generated any more: ${now.message}`,
      remedy: "Delete it, or generate another one.",
    };
  if (now.file !== file) return { found: `its command writes ${now.file}`, remedy: `Delete it. ${remedy}` };
  switch (now.state) {
    case "the same":
      return undefined;
    case "edited":
    case "kept":
      return {
        found: "it was edited after it was generated",
        remedy: `Move the changes to another file, and delete this one. ${remedy}`,
      };
    default:
      return { found: "its type has changed since it was generated", remedy };
  }
}
