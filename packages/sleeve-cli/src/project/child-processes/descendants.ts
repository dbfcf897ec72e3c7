import { readdirSync, readFileSync } from "node:fs";

/** The environment variable that marks a process of project code, and all processes that it starts. */
export const MARK = "SLEEVE_PROJECT_CODE";

/**
 * Ends the processes with a mark in their environment, which they inherit also when they are detached. Without `/proc`,
 * as on other systems than Linux, only the process group is ended.
 */
export function endDescendants(mark: string): void {
  for (const pid of markedProcesses(mark)) end(pid);
}

/** Ends recorded processes and their groups. @param started their identifiers, after their number */
export function endStarted(started: Int32Array): void {
  for (const pid of started.subarray(1, 1 + (started[0] ?? 0))) {
    end(-pid);
    end(pid);
  }
}

/** Ends a process group. @param leader identifier of its first process, which may have ended */
export function endGroup(leader: number): void {
  end(-leader);
}

function end(pid: number): void {
  try {
    process.kill(pid, "SIGKILL");
  } catch {
    // It has ended already.
  }
}

function markedProcesses(mark: string): readonly number[] {
  return entriesOf("/proc")
    .filter((name) => /^\d+$/.test(name) && Number(name) !== process.pid)
    .filter((name) => environmentOf(name).includes(`${MARK}=${mark}\0`))
    .map(Number);
}

function entriesOf(folder: string): readonly string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}

function environmentOf(pid: string): string {
  try {
    return readFileSync(`/proc/${pid}/environ`, "latin1");
  } catch {
    return "";
  }
}
