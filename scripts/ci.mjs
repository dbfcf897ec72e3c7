/**
 * Runs everything that has to hold before a change lands: the tests in one row, and in another the checks that need less time.
 * Prints what a job has printed when it ends and, at the end, all jobs with their times and results.
 */
import { spawn } from "node:child_process";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");

/** Each row runs in order, beside the others. */
const ROWS = [
  [["tests", "npm", "test"]],
  [
    ["lint", "npm", "run", "--silent", "lint"],
    ["types", "npm", "run", "--silent", "types"],
    ["packaging", "npm", "run", "--silent", "packaging"],
    ["other versions of Node.js", process.execPath, "scripts/other-nodes.mjs"],
  ],
];

const results = [];
const preparation = await job(["preparation", process.execPath, "scripts/prepare.mjs", "--tests"], {});
if (preparation) {
  // The build must not be replaced while jobs use it.
  const env = { SLEEVE_PREPARED: "1" };
  await Promise.all(
    ROWS.map(async (row) => {
      for (const entry of row) await job(entry, env);
    }),
  );
}
for (const { name, seconds, isPassed } of results)
  console.log(`${isPassed ? "passed" : "FAILED"}  ${String(seconds).padStart(4)} s  ${name}`);
process.exitCode = results.every(({ isPassed }) => isPassed) ? 0 : 1;

/** Runs a job, and returns whether it passed. */
function job([name, command, ...args], env) {
  const start = Date.now();
  const child = spawn(command, args, {
    cwd: root,
    env: { ...process.env, ...env },
    stdio: ["ignore", "pipe", "pipe"],
  });
  const output = [];
  for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => output.push(chunk));
  return new Promise((resolve) => {
    child.on("close", (code) => {
      const isPassed = code === 0;
      process.stdout.write(`== ${name}\n${Buffer.concat(output).toString("utf8")}`);
      results.push({ name, seconds: Math.round((Date.now() - start) / 1000), isPassed });
      resolve(isPassed);
    });
  });
}
