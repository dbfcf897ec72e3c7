import { exportedFrom, targetTypeOf } from "../conformance/exported.ts";
import type { SurfaceDocument } from "../documents/surface-document.ts";
import { CliError, type Problem } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import { exportParts } from "../place.ts";
import { sourceNamed } from "../project/named-source.ts";
import { OpenProject } from "../project/open-project.ts";
import { outsideFilesIn } from "../project/ownership.ts";
import { findProject } from "../project/project.ts";
import { surfaceOf } from "../types/surface-document.ts";

export interface SurfaceOptions {
  /** The export to read, as `file#export`, relative to the project's folder. */
  readonly name: string;
  readonly folder: string;
  readonly tsconfig?: string | undefined;
}

/**
 * Reads the surface of an interface, a type, a class or a value.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`, and the errors of finding the project
 */
export function runSurface({ name, folder, tsconfig }: SurfaceOptions): {
  readonly surface: SurfaceDocument;
  readonly problems: readonly Problem[];
} {
  const [file, exportName] = exportParts(name);
  using project = OpenProject.open(findProject(folder, tsconfig));
  const source = sourceNamed(project, file);
  const exported = exportedFrom(project.program, source.path, exportName);
  const type = exported && targetTypeOf(exported);
  if (!exported || !type) {
    const names = [...project.program.exportsOf(source.path).keys()];
    const meant = nearestName(exportName, names);
    throw new CliError(
      "NO_SUCH_EXPORT",
      `${file} has no export ${exportName || "of that name"}; it exports ${names.join(", ") || "nothing"}.` +
        (meant ? ` Did you mean ${meant}?` : " Name one as file#export."),
    );
  }
  return {
    surface: surfaceOf(exported.checker, exportName, type, { isOutside: outsideFilesIn(project) }),
    problems: project.problems,
  };
}
