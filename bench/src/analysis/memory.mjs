import { spawn } from "node:child_process";
import { readFileSync } from "node:fs";

/** Returns the peak memory of a command and its child processes, in kilobytes. Linux only. */
export async function peakMemory(args, expected) {
  const child = spawn(process.execPath, args, { stdio: "ignore" });
  const peaks = new Map();
  const timer = setInterval(() => {
    for (const pid of treeOf(child.pid)) peaks.set(pid, Math.max(peaks.get(pid) ?? 0, highestOf(pid)));
  }, 10);
  const code = await new Promise((resolve) => child.once("exit", resolve));
  clearInterval(timer);
  if (!expected.includes(code)) throw new Error(`${args.join(" ")} ended with ${code}`);
  return [...peaks.values()].reduce((sum, peak) => sum + peak, 0);
}

function treeOf(pid) {
  const children = read(`/proc/${pid}/task/${pid}/children`).trim().split(" ").filter(Boolean);
  return [pid, ...children.flatMap((child) => treeOf(Number(child)))];
}

function highestOf(pid) {
  const [, kilobytes = "0"] = /VmHWM:\s+(\d+)/.exec(read(`/proc/${pid}/status`)) ?? [];
  return Number(kilobytes);
}

/** The process has ended in the meantime. */
function read(path) {
  try {
    return readFileSync(path, "utf8");
  } catch {
    return "";
  }
}
