import type { Program } from "../compiler/program.ts";
import { CliError } from "../errors.ts";
import { type CompileError, errorsIn } from "../isolation/verification/compile-errors.ts";
import type { OverlayProgram } from "../isolation/verification/overlay-program.ts";

/**
 * The work on one file. It yields texts of the file, goes on when the program has it with that text, and gets a function that
 * returns the errors of the file.
 */
export type FileSteps<Result> = Generator<string | FinalText, Result, () => readonly CompileError[]>;

/** A file as it will be written, at its final path. It is compiled together with the final texts of the other files. */
export interface FinalText {
  readonly path: string;
  readonly text: string;
}

/** The work on a file that is compiled together with others. */
export interface FileJob<Result> {
  readonly path: string;
  readonly steps: FileSteps<Result>;
}

/** A job that is not done, with what it has yielded last. */
interface PendingJob<Result> extends FileJob<Result> {
  readonly index: number;
  readonly yielded: string | FinalText | undefined;
}

/**
 * Does the work on several files, compiling all of their texts at the same time. Final texts are compiled when all files have
 * one. Returns each result, or the error of that file.
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
  const finalTexts = new Map<string, string>();
  let pending: readonly PendingJob<Result>[] = jobs.map((job, index) => ({
    ...job,
    index,
    yielded: undefined,
  }));
  while (pending.length > 0) {
    const unfinished = pending.filter(({ yielded }) => !isFinal(yielded));
    const running = unfinished.length > 0 ? unfinished : pending;
    const texts = textsOf(running);
    if (texts.size > 0) {
      const files = new Map([...others, ...(unfinished.length > 0 ? [] : finalTexts), ...texts]);
      program.propose(files);
    }
    const errorsOf = errorsByPath(program, [...texts.keys()]);
    const next = new Map(running.map((job) => [job, stepped(job, results, errorsOf)]));
    pending = pending.flatMap((job) => (next.has(job) ? (next.get(job) ?? []) : job));
    for (const { yielded } of pending) if (isFinal(yielded)) finalTexts.set(yielded.path, yielded.text);
  }
  return results;
}

function isFinal(yielded: PendingJob<unknown>["yielded"]): yielded is FinalText {
  return typeof yielded === "object";
}

function textsOf(jobs: readonly PendingJob<unknown>[]): Map<string, string> {
  const texts = new Map<string, string>();
  for (const { path, yielded } of jobs) {
    if (isFinal(yielded)) texts.set(yielded.path, yielded.text);
    else if (yielded !== undefined) texts.set(path, yielded);
  }
  return texts;
}

/** Does the next step of a job; `undefined` if it is done or has failed. */
function stepped<Result>(
  job: PendingJob<Result>,
  results: (Result | CliError)[],
  errorsOf: (path: string) => readonly CompileError[],
): PendingJob<Result> | undefined {
  const { path, steps, index, yielded } = job;
  try {
    const { done, value } = steps.next(() => errorsOf(isFinal(yielded) ? yielded.path : path));
    if (!done) return { ...job, yielded: value };
    results[index] = value;
  } catch (error) {
    if (!(error instanceof CliError)) throw error;
    results[index] = error;
  }
  return undefined;
}

/** Returns a function for the errors of a file. The files are compiled when it is first called. */
function errorsByPath(program: Program, paths: readonly string[]): (path: string) => readonly CompileError[] {
  let byPath: Map<string, CompileError[]> | undefined;
  return (path) => {
    if (!byPath) {
      byPath = new Map();
      for (const error of errorsIn(program, paths)) {
        const list = byPath.get(error.path);
        if (list) list.push(error);
        else byPath.set(error.path, [error]);
      }
    }
    return byPath.get(path) ?? [];
  };
}

/** Does the work on one file. @throws {CliError} */
export function runAlone<Result>(overlays: OverlayProgram, job: FileJob<Result>): Result {
  const [result] = runTogether(overlays, [job]);
  if (result instanceof CliError) throw result;
  return result as Result;
}
