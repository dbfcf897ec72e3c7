import { existsSync, statSync } from "node:fs";
import { join } from "node:path";
import { CliError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import type { OpenProject } from "./open-project.ts";
import type { SourceText } from "./source-text.ts";

/**
 * Returns a file of the project by its path from the project's folder.
 *
 * @throws {CliError} `NO_SUCH_FILE` if there is none, or if the compiler's config does not include it
 */
export function sourceNamed(project: OpenProject, path: string): SourceText {
  const file = path.replace(/^\.\//, "");
  const source = project.sources.find((candidate) => candidate.file === file);
  if (source) return source;
  const onDisk = join(project.root, file);
  if (existsSync(onDisk) && statSync(onDisk).isFile())
    throw new CliError(
      "NO_SUCH_FILE",
      `The compiler's config does not include ${file}. Add it to \`include\`, or name a file that is included.`,
    );
  const similar = nearestName(
    file,
    project.sources.map((candidate) => candidate.file),
  );
  throw new CliError(
    "NO_SUCH_FILE",
    `There is no file ${file} in the project.${similar ? ` Did you mean ${similar}?` : " Give its path from the project's folder."}`,
  );
}
