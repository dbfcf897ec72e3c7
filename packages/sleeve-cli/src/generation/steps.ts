import type { Program } from "../compiler/program.ts";
import { CliError } from "../errors.ts";
import { type CompileError, errorsIn } from "../isolation/compile-errors.ts";
import type { OverlayProgram } from "../isolation/overlay-program.ts";

/**
 * The work on one file. It yields texts of the file, goes on when the program has it with that text, and gets a function that
 * returns the errors of the file.
 */
export type FileSteps<Result> = Generator<string, Result, () => readonly CompileError[]>;

/** The work on a file that is compiled together with others. */
export interface FileJob<Result> {
  readonly path: string;
  readonly steps: FileSteps<Result>;
}

/**
 * Does the work on several files, compiling all of their texts at the same time. Returns each result, or the error of that file.
 *
 * @param others texts of further files
 * @throws errors that are not of the class `CliError`
 */
export function runTogether<Result>(
  { program }: OverlayProgram,
  jobs: readonly FileJob<Result>[],
  others: ReadonlyMap<string, string> = new Map(),
): readonly (Result | CliError)[] {
  const results: (Result | CliError)[] = [];
  let pending = jobs.map((job, index) => ({ ...job, index }));
  let errors: ReadonlyMap<string, readonly CompileError[]> | undefined;
  while (pending.length > 0) {
    const paths = pending.map(({ path }) => path);
    const errorsOf = (path: string) => {
      errors ??= errorsByPath(program, paths);
      return errors.get(path) ?? [];
    };
    const texts = new Map(others);
    pending = pending.filter(({ path, steps, index }) => {
      try {
        const { done, value } = steps.next(() => errorsOf(path));
        if (done) results[index] = value;
        else texts.set(path, value);
        return !done;
      } catch (error) {
        if (!(error instanceof CliError)) throw error;
        results[index] = error;
        return false;
      }
    });
    if (pending.length > 0) program.propose(texts);
    errors = undefined;
  }
  return results;
}

function errorsByPath(
  program: Program,
  paths: readonly string[],
): ReadonlyMap<string, readonly CompileError[]> {
  const byPath = new Map<string, CompileError[]>();
  for (const error of errorsIn(program, paths)) {
    const list = byPath.get(error.path);
    if (list) list.push(error);
    else byPath.set(error.path, [error]);
  }
  return byPath;
}

/** Does the work on one file. @throws {CliError} */
export function runAlone<Result>(overlays: OverlayProgram, job: FileJob<Result>): Result {
  const [result] = runTogether(overlays, [job]);
  if (result instanceof CliError) throw result;
  return result as Result;
}
