import { join, relative, sep } from "node:path";
import { type ConfigEdit, configWithFiles } from "../compiler/settings/extended-config.ts";
import type { DraftFile } from "../documents/draft-document.ts";
import { CliError } from "../errors.ts";
import { type OpenIsolation, openIsolation, pathIn } from "../isolation/open-isolation.ts";
import { type OutsideUses, outsideUsesOf } from "../isolation/outside/outside-uses.ts";
import { requireCallersWithin } from "../isolation/verification/verify-writes.ts";
import { placeText } from "../place.ts";
import type { Config } from "../project/config.ts";
import { type Plan, planOf } from "./plan.ts";

/** What decides where a draft goes. */
export interface OpenDraftOptions {
  /** A package, a built-in module, or the path of a legacy module. */
  readonly module: string;
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** Folder of the new files, within the project. */
  readonly into?: string | undefined;
  /** Whether callers keep the outside names. */
  readonly sameNames?: boolean | undefined;
}

/** A project opened for a draft, and where the draft goes. */
export interface OpenDraft {
  readonly opened: OpenIsolation;
  readonly uses: OutsideUses;
  readonly plan: Plan;
  /** The compiler's config, with the new files listed; `undefined` if it lists them as it is. */
  readonly compilerConfig: ConfigEdit | undefined;
}

/** Opens a project with a compiler config that lists the files of the draft. */
export function openForDraft(options: OpenDraftOptions, config: Config): OpenDraft {
  const openDraft = openedWith(options, config, undefined);
  const { project, folder } = openDraft.opened;
  const { root, targetFile, adapterFile, outsideTypesFile, isInUse, compilerConfig: lists } = openDraft.plan;
  const paths = [targetFile, adapterFile, outsideTypesFile].map((file) => join(root, file));
  if (isInUse || folder.generatedConfig !== undefined || project.program.wouldList(lists, paths))
    return openDraft;
  project.close();
  return openedWith(options, config, configWithFiles(lists, paths.slice(0, 2)));
}

function openedWith(
  options: OpenDraftOptions,
  config: Config,
  compilerConfig: ConfigEdit | undefined,
): OpenDraft {
  const shown = compilerConfig && new Map([[compilerConfig.path, compilerConfig.text]]);
  const opened = openIsolation(options.module, options, config, shown);
  const { project, outside, isolation, folder } = opened;
  const { root } = project;
  try {
    const isAdapter = (file: string) =>
      isolation !== undefined && join(root, file) === pathIn(root, isolation.adapter);
    const uses = outsideUsesOf(project, outside, isAdapter);
    requireCallersWithin(
      outside,
      uses.files.map(({ source }) => source),
    );
    requireImports(outside, uses);
    const hasConfig = folder.generatedConfig === undefined;
    const plan = planOf(project, uses, outside, isolation, { ...options, hasConfig });
    return { opened, uses, plan, compilerConfig };
  } catch (error) {
    project.close();
    throw error;
  }
}

/**
 * A module that is used only through its global declarations has no import that could be moved.
 *
 * @throws {CliError} `NOT_IMPORTED`
 */
function requireImports(outside: string, { files }: OutsideUses): void {
  const [firstFile] = files;
  const isGlobal = files.every(({ sites }) =>
    sites.every(({ forms }) => forms.every((form) => form === "reference")),
  );
  if (!firstFile || !isGlobal) return;
  const { source, sites } = firstFile;
  const place = placeText({ file: source.file, ...source.lines.at(sites[0]?.offset ?? 0) });
  throw new CliError(
    "NOT_IMPORTED",
    `${outside} is used only through its global declarations, referenced in ${place}, so there is no import to move. Wrap the globals in a file of your own.`,
  );
}

export function editedConfig(root: string, { path, text }: ConfigEdit): DraftFile {
  const file = relative(root, path).split(sep).join("/");
  return { file, role: "compiler config", state: "added to", text };
}
