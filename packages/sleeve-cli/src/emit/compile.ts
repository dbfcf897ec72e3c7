import type { Program } from "../compiler/program.ts";
import { CliError } from "../errors.ts";
import { type CompileError, errorsIn } from "./compile-errors.ts";
import type { Module } from "./module.ts";
import { type PrintedModule, printed } from "./printed.ts";
import type { Style } from "./style.ts";

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

/** An error, and the branch of the tree that it is in. */
export interface OwnedError extends CompileError {
  /** `undefined` if it belongs to the file as a whole. */
  readonly owner: string | undefined;
}

/** How a file is written, and what replaces what does not compile. */
export interface Attempts<State> {
  readonly style: Style;
  readonly first: State;
  readonly moduleOf: (state: State) => Module;
  /** Returns how the file is written next; `undefined` if the errors remain. @throws {CliError} */
  readonly next: (state: State, errors: readonly OwnedError[]) => State | undefined;
}

/** Maximum number of texts of one file that are compiled. */
const MAX_ATTEMPTS = 400;

/**
 * Prints a file and compiles it; attributes each error to a branch of the tree, which falls back to another form; and repeats.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`
 */
export function* compiled<State>({
  style,
  first,
  moduleOf,
  next,
}: Attempts<State>): FileSteps<{ readonly state: State; readonly module: Module }> {
  let state = first;
  for (let attempt = 1; attempt <= MAX_ATTEMPTS; attempt++) {
    const module = moduleOf(state);
    const { text, ownersAt } = printed(module, { language: "typescript", style });
    const errors = (yield text)();
    const following =
      errors.length === 0
        ? undefined
        : next(
            state,
            errors.map((error) => ownedBy(error, ownersAt)),
          );
    if (following === undefined) return { state, module };
    state = following;
  }
  throw new CliError("DOES_NOT_COMPILE", "No form of the file compiles. Nothing was written.");
}

/** Compiles a file once, as the tree lays it out. Returns the errors. */
export function* errorsOf(module: Module): FileSteps<readonly OwnedError[]> {
  const { text, ownersAt } = printed(module, { language: "typescript" });
  const errors = (yield text)();
  return errors.map((error) => ownedBy(error, ownersAt));
}

function ownedBy(error: CompileError, ownersAt: PrintedModule["ownersAt"]): OwnedError {
  return { ...error, owner: ownersAt(error.offset)[0] };
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
  program: Program,
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
    const advanced = new Map(running.map((job) => [job, stepped(job, results, errorsOf)]));
    pending = pending.flatMap((job) => (advanced.has(job) ? (advanced.get(job) ?? []) : job));
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
    byPath ??= groupedErrors(program, paths);
    return byPath.get(path) ?? [];
  };
}

function groupedErrors(program: Program, paths: readonly string[]): Map<string, CompileError[]> {
  const byPath = new Map<string, CompileError[]>();
  for (const error of errorsIn(program, paths)) {
    const list = byPath.get(error.path);
    if (list) list.push(error);
    else byPath.set(error.path, [error]);
  }
  return byPath;
}

/** Does the work on one file. @throws {CliError} */
export function runAlone<Result>(program: Program, job: FileJob<Result>): Result {
  const [result] = runTogether(program, [job]);
  if (result instanceof CliError) throw result;
  return result as Result;
}
