import { readFileSync } from "node:fs";
import { totalmem } from "node:os";
import { parentPort } from "node:worker_threads";

/** Message to the thread: watch a process, or stop watching. */
export type WatchdogMessage = {
  readonly pid: number;
  /** Time until the process is ended, in milliseconds. */
  readonly timeout: number;
  /** Its first number is set to 1 when the process was ended. */
  readonly hasEnded: SharedArrayBuffer;
} | null;

/** Time between two looks at the memory of the process, in milliseconds. */
const INTERVAL = 200;
/** Share of the machine's memory that the process may take. */
const MEMORY_SHARE = 0.5;
const PAGE_SIZE = 4096;

// A thread that ends a process while the main thread waits for its answer.
let timer: NodeJS.Timeout | undefined;
parentPort?.on("message", (message: WatchdogMessage) => {
  clearInterval(timer);
  if (!message) return;
  const { pid, timeout, hasEnded } = message;
  const end = performance.now() + timeout;
  timer = setInterval(() => {
    if (performance.now() < end && memoryOf(pid) < totalmem() * MEMORY_SHARE) return;
    clearInterval(timer);
    Atomics.store(new Int32Array(hasEnded), 0, 1);
    process.kill(pid, "SIGKILL");
  }, INTERVAL);
});

/** Returns the memory of a process in bytes, where the system has it in a file; otherwise 0. */
function memoryOf(pid: number): number {
  try {
    const [, pages] = readFileSync(`/proc/${pid}/statm`, "utf8").split(" ");
    return Number(pages) * PAGE_SIZE;
  } catch {
    return 0;
  }
}
