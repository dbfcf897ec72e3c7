import { writeSync } from "node:fs";
import { workerData } from "node:worker_threads";
import { PROGRESS, type ProgressTask } from "./progress.ts";

// The thread that prints progress while the main thread waits for the compiler.
const { state, isTerminal, unit } = workerData as ProgressTask;
const STANDARD_ERROR = 2;
/** Time between two lines, in milliseconds. */
const INTERVAL = isTerminal ? 200 : 3000;
const start = performance.now();

if (isTerminal) print();
setInterval(print, INTERVAL);

function print(): void {
  if (Atomics.load(state, PROGRESS.isOver) === 1) return;
  const [done, total] = [Atomics.load(state, PROGRESS.done), Atomics.load(state, PROGRESS.all)];
  const what = total === 0 ? "working" : `${done} of ${total} ${unit}`;
  const text = `sleeve: ${what}, ${Math.round((performance.now() - start) / 1000)} s`;
  try {
    writeSync(STANDARD_ERROR, isTerminal ? `\r${text}\x1b[K` : `${text}\n`);
  } catch {
    // The stream is closed.
  }
}
