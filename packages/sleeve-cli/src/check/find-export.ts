import type { Node } from "../compiler/syntax.ts";
import { type Exported, exportedFrom } from "../conformance/exported.ts";
import type { Place } from "../documents/place.ts";
import { CliError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import { exportParts } from "../place.ts";
import { sourceNamed } from "../project/named-source.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { SourceText } from "../project/source-text.ts";
import { placeOfNode } from "./checked-wrapper.ts";

/** An export named in the config, and its file. */
export interface FoundExport {
  readonly source: SourceText;
  readonly exported: Exported;
}

/**
 * Finds an export named as `file#export` in the config.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`
 */
export function findExport(project: OpenProject, name: string): FoundExport {
  const [file, exportName] = exportParts(name);
  const source = sourceNamed(project, file);
  const exported = exportedFrom(project.program, source.path, exportName);
  if (exported) return { source, exported };
  const names = [...project.program.exportsOf(source.path).keys()];
  const meant = nearestName(exportName, names);
  throw new CliError(
    "NO_SUCH_EXPORT",
    `The config names ${exportName} of ${file}, which exports ${names.join(", ") || "nothing"}.` +
      (meant ? ` Did you mean ${meant}?` : " Correct the name."),
  );
}

/** Returns the place of an export's declaration, or the start of its file if it is declared elsewhere. */
export function placeOfExport(project: OpenProject, { source, exported }: FoundExport): Place {
  const { name } = (exported.declaration ?? {}) as { name?: Node };
  const node = name ?? exported.declaration;
  return (node && placeOfNode(project, node)) ?? project.placeOf(source, 0);
}
