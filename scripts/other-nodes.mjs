/**
 * Runs the fast tests and the packaging check on the other supported versions of Node.js, at the same time. Versions
 * without a binary for this platform are reported as left out, and so are the longest tests of contracts, which take most of
 * the time and depend on no version.
 */
import { readdirSync } from "node:fs";
import { basename, dirname, join } from "node:path";
import { installNode, PACKAGE, run } from "./node-binaries.mjs";

const VERSIONS = [20, 22, 24];
const LONG = ["behaviour", "blame", "contract-terms", "reproductions"];
const tests = readdirSync(join(import.meta.dirname, "../packages/sleeve/tests"), { recursive: true })
  .filter((file) => file.endsWith(".test.ts") && !file.startsWith("processes"))
  .filter((file) => !LONG.includes(basename(file, ".test.ts")))
  .map((file) => join("packages/sleeve/tests", file));
const vitest = ["node_modules/vitest/vitest.mjs", "run", "--project", "fast", "--reporter", "dot", ...tests];
const CHECKS = [
  [`the fast tests, without ${LONG.join(", ")},`, vitest],
  ["the packaging check", ["scripts/packaging.mjs", "--run-time"]],
];

const current = Number(process.versions.node.split(".")[0]);
const results = await Promise.all(VERSIONS.filter((version) => version !== current).map(checkOn));
if (results.includes("failed")) process.exitCode = 1;

async function checkOn(version) {
  const node = await installNode(version);
  if (node === undefined) {
    console.log(`Node.js ${version}: left out, because the registry has no ${PACKAGE}@${version}.`);
    return "left out";
  }
  for (const [name, args] of CHECKS) {
    const start = Date.now();
    const { status, output } = await run(node, args, dirname(node));
    const seconds = Math.round((Date.now() - start) / 1000);
    if (status !== 0) {
      console.log(`Node.js ${version}: ${name} failed.\n${output}`);
      return "failed";
    }
    console.log(`Node.js ${version}: ${name} passed in ${seconds} s.`);
  }
  return "passed";
}
