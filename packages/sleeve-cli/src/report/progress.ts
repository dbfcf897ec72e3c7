import { Worker } from "node:worker_threads";

/** What the thread that prints progress is given. */
export interface ProgressTask {
  /** The numbers that `PROGRESS` names. */
  readonly state: Int32Array;
  readonly isTerminal: boolean;
  /** What is counted, in the plural. */
  readonly unit: string;
}

/** Indices of the shared numbers. */
export const PROGRESS = { done: 0, all: 1, isOver: 2 } as const;

/** The environment variable that turns progress off. */
export const NO_PROGRESS = "SLEEVE_NO_PROGRESS";

/** Shows how many of a number of files are done. */
export type ShowProgress = (done: number, all: number) => void;

/**
 * Runs a command, and prints its progress on standard error until it ends.
 *
 * @param unit what is counted, in the plural. Default: files.
 */
export async function withProgress<Result>(
  run: (show: ShowProgress) => Promise<Result>,
  unit = "files",
): Promise<Result> {
  const { show, clear } = startProgress(process.stderr, unit);
  try {
    return await run(show);
  } finally {
    clear();
  }
}

/**
 * Starts to print progress: at once in one line of a terminal, elsewhere in a line every three
 * seconds. Another thread prints it, because this one waits for the compiler.
 */
function startProgress(
  stream: NodeJS.WriteStream,
  unit: string,
): { readonly show: ShowProgress; clear(): void } {
  if (process.env[NO_PROGRESS]) return { show: () => {}, clear: () => {} };
  const isTerminal = stream.isTTY === true;
  const state = new Int32Array(new SharedArrayBuffer(3 * Int32Array.BYTES_PER_ELEMENT));
  const workerData: ProgressTask = { state, isTerminal, unit };
  const thread = new Worker(new URL("./progress-thread.js", import.meta.url), { workerData });
  thread.unref();
  // A command does not need its progress.
  thread.on("error", () => {});
  return {
    show: (done, total) => {
      Atomics.store(state, PROGRESS.done, done);
      Atomics.store(state, PROGRESS.all, total);
    },
    clear: () => {
      Atomics.store(state, PROGRESS.isOver, 1);
      void thread.terminate();
      if (isTerminal) stream.write("\r\x1b[K");
    },
  };
}
