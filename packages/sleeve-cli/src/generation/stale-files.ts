import { CliError } from "../errors.ts";
import { OverlayProgram } from "../isolation/overlay-program.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { optionsIn } from "./command-line.ts";
import { generate } from "./generate.ts";
import { type FoundFile, foundFile } from "./generated-file.ts";

/** A generated file that is not what its command writes now. */
export interface StaleFile {
  readonly file: string;
  /** What it is: edited, older than its type, or one that cannot be generated any more. */
  readonly found: string;
  readonly remedy: string;
}

/**
 * Finds generated files that were edited, or whose types have changed since.
 *
 * @param files texts of the project's files, by their names
 */
export function staleFilesIn(
  files: ReadonlyMap<string, string>,
  {
    root,
    tsconfig,
    synonyms,
  }: {
    readonly root: string;
    readonly tsconfig: string | undefined;
    readonly synonyms: readonly (readonly string[])[] | undefined;
  },
): readonly StaleFile[] {
  const generated = [...files].flatMap(([file, text]) => {
    const found = foundFile(text);
    return found.kind === "foreign" ? [] : [{ file, found }];
  });
  if (generated.length === 0) return [];
  using project = OpenProject.open(findProject(root, tsconfig), { canOverlay: true });
  using overlays = OverlayProgram.open(project);
  return generated.flatMap(({ file, found }) => {
    const why = whyStale(project, overlays, file, found, synonyms);
    const { command } = found.header;
    const remedy =
      found.kind === "edited"
        ? `Move the changes to another file, delete this one, and run ${command}`
        : `Run ${command}`;
    return why === undefined ? [] : [{ file, found: why, remedy: `${remedy}.` }];
  });
}

function whyStale(
  project: OpenProject,
  overlays: OverlayProgram,
  file: string,
  { kind, header }: Exclude<FoundFile, { readonly kind: "foreign" }>,
  synonyms: readonly (readonly string[])[] | undefined,
): string | undefined {
  // An adapter is edited to complete it.
  if (kind === "edited")
    return / --as adapter /.test(header.command) ? undefined : "it was edited after it was generated";
  const options = optionsIn(header.command);
  if (!options) return "its command is not one of this version";
  try {
    const [wrapper] = generate(project, overlays, { ...options, synonyms }).wrappers;
    if (wrapper?.file !== file) return `its command writes ${wrapper?.file ?? "no file"}`;
    return wrapper.state === "the same" ? undefined : "its type has changed since it was generated";
  } catch (error) {
    if (!(error instanceof CliError)) throw error;
    return `it cannot be generated any more: ${error.message}`;
  }
}
