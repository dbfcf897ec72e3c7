import { type SpawnSyncOptionsWithBufferEncoding, spawnSync } from "node:child_process";
import { randomUUID } from "node:crypto";
import { fileURLToPath } from "node:url";
import { z } from "zod";
import type { ProgramTask } from "./child-program.ts";
import { endDescendants, endGroup, MARK } from "./descendants.ts";

/** A program of ours that runs code of a project. */
export interface ProgramRun<Result> {
  /** File of the program, beside this one when both are built. */
  readonly program: string;
  readonly input: unknown;
  /** Each result is validated, because code of the project may have written it. */
  readonly result: z.ZodType<Result>;
  /** Its current folder. Default: that of the command. */
  readonly folder?: string | undefined;
  /** Limit of processor time, in milliseconds. A busy machine does not count. */
  readonly processorTime: number;
}

/** What a program has returned until it ended. */
export interface ProgramResult<Result> {
  readonly results: readonly Result[];
  /** Why it did not end by itself; `undefined` if it did. */
  readonly failure: string | undefined;
}

/** Time that a program may take for each second of processor time, because it may wait and the machine may be busy. */
const WALL_FACTOR = 12;

/** Time after the limit at which the process is ended from outside, in milliseconds. */
const GRACE = 5_000;

const limitSchema = z.strictObject({ limit: z.enum(["processor time", "time"]) });

/**
 * Runs a program in a process of its own, without standard output and standard error. When it ends, or when the command
 * ends, so do all processes that it has started.
 */
export function runProgram<Result>(run: ProgramRun<Result>): ProgramResult<Result> {
  const { program, input, result, folder, processorTime } = run;
  const script = fileURLToPath(new URL(program, import.meta.url));
  const mark = randomUUID();
  const wallTime = processorTime * WALL_FACTOR;
  const task: ProgramTask = { start: randomUUID(), processorTime, wallTime, input };
  const options: SpawnSyncOptionsWithBufferEncoding & { readonly detached: true } = {
    ...(folder === undefined ? {} : { cwd: folder }),
    env: { ...process.env, [MARK]: mark },
    input: JSON.stringify(task),
    maxBuffer: 1 << 28,
    timeout: wallTime + GRACE,
    killSignal: "SIGKILL",
    // Project code may print; results have a channel of their own.
    stdio: ["pipe", "ignore", "ignore", "pipe"],
    // A group of its own, which can be ended as a whole. The declarations of Node.js omit it for `spawnSync`.
    detached: true,
  };
  const { pid, status, error, output } = spawnSync(process.execPath, [script], options);
  if (pid > 0) endGroup(pid);
  endDescendants(mark);
  const { results, limit, isBroken } = resultsIn(String(output?.[3] ?? ""), task.start, result);
  if (limit !== undefined)
    return { results, failure: limitText(limit, limit === "time" ? wallTime : processorTime) };
  if (isBroken) return { results, failure: "it interferes with the result" };
  return { results, failure: failureOf(status, error as NodeJS.ErrnoException | undefined, wallTime) };
}

type Limit = z.infer<typeof limitSchema>["limit"];

function limitText(limit: Limit, milliseconds: number): string {
  const seconds = milliseconds / 1000;
  return limit === "time"
    ? `it does not end within ${seconds} seconds`
    : `it uses more than ${seconds} seconds of processor time`;
}

function failureOf(
  status: number | null,
  error: NodeJS.ErrnoException | undefined,
  wallTime: number,
): string | undefined {
  if (error?.code === "ETIMEDOUT") return limitText("time", wallTime);
  if (error) return error.message;
  if (status === UNSETTLED) return "it waits for something that never happens";
  return status === 0 ? undefined : "it ends the process";
}

/** The exit code of Node.js when a module waits at its top level, and nothing is left to wait for. */
const UNSETTLED = 13;

function resultsIn<Result>(
  text: string,
  start: string,
  schema: z.ZodType<Result>,
): { readonly results: readonly Result[]; readonly limit: Limit | undefined; readonly isBroken: boolean } {
  const results: Result[] = [];
  let limit: Limit | undefined;
  let isBroken = false;
  for (const line of text.split("\n")) {
    if (!line.startsWith(start)) continue;
    const value = parsedJson(line.slice(start.length));
    const parsed = schema.safeParse(value);
    const reached = limitSchema.safeParse(value);
    if (reached.success) limit = reached.data.limit;
    else if (parsed.success) results.push(parsed.data);
    else isBroken = true;
  }
  return { results, limit, isBroken };
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
