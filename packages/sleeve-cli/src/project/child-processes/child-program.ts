import { ChildProcess } from "node:child_process";
import { readFileSync, writeSync } from "node:fs";
import { Worker } from "node:worker_threads";
import { endStarted, MARK } from "./descendants.ts";

/** What a program reads from its standard input. */
export interface ProgramTask {
  /** The start of each line that the program itself writes. Project code does not know it. */
  readonly start: string;
  /** Limits of processor time and of time, in milliseconds. */
  readonly processorTime: number;
  readonly wallTime: number;
  readonly input: unknown;
}

/** What the guard of a program needs. */
export interface GuardTask extends Omit<ProgramTask, "input"> {
  readonly parent: number;
  readonly mark: string;
  /** Identifiers of the processes that the program has started, after their number. */
  readonly started: Int32Array;
}

/** A program that runs code of a project, in a process of its own. */
export interface ChildProgram<Input> {
  readonly input: Input;
  /** Writes one result. */
  readonly send: (result: unknown) => void;
}

/** Reads the task of the program, and guards the process. Call it before code of the project is loaded. */
export function startProgram<Input>(): ChildProgram<Input> {
  const { input, ...limits } = JSON.parse(readFileSync(0, "utf8")) as ProgramTask;
  const { start } = limits;
  const started = recordedProcesses();
  process.on("exit", () => endStarted(started));
  const workerData: GuardTask = {
    ...limits,
    started,
    parent: process.ppid,
    mark: process.env[MARK] ?? "",
  };
  new Worker(new URL("./child-guard.js", import.meta.url), { workerData }).unref();
  // Other text on the channel is ignored, also if it does not end with a line.
  return { input: input as Input, send: (result) => writeSync(3, `\n${start}${JSON.stringify(result)}\n`) };
}

/** Maximum number of started processes that are recorded. */
const MAX_RECORDED = 1000;

/** Records the processes that are started from now on, because they may be detached and have another environment. */
function recordedProcesses(): Int32Array {
  const started = new Int32Array(new SharedArrayBuffer(4 * (MAX_RECORDED + 1)));
  const prototype = ChildProcess.prototype as ChildProcess & { spawn(options: unknown): unknown };
  const { spawn } = prototype;
  prototype.spawn = function (this: ChildProcess, options: unknown) {
    const result = spawn.call(this, options);
    const count = started[0] ?? 0;
    if (this.pid !== undefined && count < MAX_RECORDED) {
      started[count + 1] = this.pid;
      started[0] = count + 1;
    }
    return result;
  };
  return started;
}

/** Returns the first line of the message of what was thrown. */
export function reasonOf(error: unknown): string {
  const message = (error as { message?: unknown } | undefined)?.message ?? error;
  return String(message).split("\n")[0] ?? "";
}
