import { writeSync } from "node:fs";
import { workerData } from "node:worker_threads";
import type { GuardTask } from "./child-program.ts";
import { endDescendants, endStarted } from "./descendants.ts";

// A worker that ends the process of project code, which may never yield its main thread: when its parent has ended,
// and when it has reached a limit.

/** Time between two looks, in milliseconds. */
const INTERVAL = 100;

const { parent, mark, start, started, processorTime, wallTime } = workerData as GuardTask;
const startedAt = performance.now();

setInterval(() => {
  const { user, system } = process.cpuUsage();
  const hasParent = process.ppid === parent;
  const isLate = performance.now() - startedAt > wallTime;
  const limit = (user + system) / 1000 > processorTime ? "processor time" : isLate && "time";
  if (hasParent && limit === false) return;
  if (hasParent) writeSync(3, `\n${start}${JSON.stringify({ limit })}\n`);
  endStarted(started);
  endDescendants(mark);
  process.kill(process.pid, "SIGKILL");
}, INTERVAL);
