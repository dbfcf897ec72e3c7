import { relative, sep } from "node:path";
import { CliError, type Problem } from "../../errors.ts";
import { refusesConfigCode } from "../../no-config-code.ts";
import { Lines, placeText } from "../../place.ts";
import type { OpenProject } from "../../project/open-project.ts";
import type { SourceText } from "../../project/source-text.ts";
import { type FileWrite, requireWritable } from "../../project/writing/transaction.ts";
import { surplusOf } from "../../surplus.ts";
import { ownCompilerErrors } from "./own-compiler.ts";
import { unresolvedSpecifiers } from "./written-files.ts";

/** A file that a command writes, or would write. */
export interface PlannedText {
  readonly path: string;
  readonly before: string | undefined;
  readonly after: string;
}

/**
 * Checks that the specifiers of written scripts lead somewhere, which no compiler does for `require`.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`
 */
export function refuseUnresolved({ root }: OpenProject, texts: readonly PlannedText[], what: string): void {
  const files = new Map(texts.map(({ path, after }) => [path, after]));
  const none = new Map<string, string>();
  for (const { path, before, after } of texts) {
    const existing = before === undefined ? [] : unresolvedSpecifiers(path, before, none);
    const [error] = surplusOf(unresolvedSpecifiers(path, after, files), existing.map(textOf), textOf);
    if (!error) continue;
    const file = relative(root, path).split(sep).join("/");
    const place = placeText({ file, ...new Lines(after).at(error.offset) });
    throw new CliError(
      "DOES_NOT_COMPILE",
      `${what} would not run: ${place}: ${error.text} Nothing was written.`,
    );
  }
}

function textOf({ text }: { readonly text: string }): string {
  return text;
}

/**
 * Compiles the project with its own TypeScript, if that is another one. Returns a note if it does not run.
 *
 * @throws {CliError} `DOES_NOT_COMPILE` if it reports new errors
 */
export function refuseOwnErrors(
  { program, root }: OpenProject,
  files: ReadonlyMap<string, string>,
  what: string,
): readonly Problem[] {
  if (refusesConfigCode()) return [];
  const compiled = ownCompilerErrors(program, files);
  if (compiled && !compiled.errors)
    return [
      {
        code: "COMPILER_FAILED",
        isNote: true,
        message: `TypeScript ${compiled.version} of the project did not run, so that only the native compiler has checked ${what}. Compile the project yourself.`,
      },
    ];
  const [firstError, ...others] = compiled?.errors ?? [];
  if (!compiled || firstError === undefined) return [];
  const more = others.length > 0 ? ` And ${others.length} more.` : "";
  throw new CliError(
    "DOES_NOT_COMPILE",
    `After ${what}, TypeScript ${compiled.version} of the project would report a new error: ` +
      `${firstError.replace(`${root}/`, "").replace(/\.?$/, ".")}${more} Nothing was written.`,
  );
}

/**
 * Checks that the callers of a module can be rewritten: they lie in the project's folder, are UTF-8, and are writable.
 *
 * @throws {CliError} `NOT_WRITABLE`
 */
export function requireRewritable(root: string, writes: readonly FileWrite[]): void {
  for (const { path, before } of writes) requireWritable(root, path, before);
}

/**
 * Checks that the callers lie in the project's folder, because nothing is written outside.
 *
 * @throws {CliError} `NOT_WRITABLE`
 */
export function requireCallersWithin(outside: string, callers: readonly SourceText[]): void {
  const stranger = callers.find(({ file }) => file.startsWith("../"));
  if (!stranger) return;
  const steps = /^(?:\.\.\/)+/.exec(stranger.file)?.[0].replace(/\/$/, "") ?? "..";
  throw new CliError(
    "NOT_WRITABLE",
    `${stranger.file} imports ${outside} and lies outside the folder of the project, where nothing is written. ` +
      `Run in a folder that contains all files, such as \`${steps}\`.`,
  );
}
