/**
 * Runs the fast tests and the packaging check on the other supported versions of Node.js, at the same time. The binaries come from the npm registry. Versions without a binary for this platform are reported as left out.
 */
import { spawn } from "node:child_process";
import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { delimiter, dirname, join } from "node:path";

const root = join(import.meta.dirname, "..");
const VERSIONS = [20, 22, 24];
const PACKAGE = `node-${process.platform}-${process.arch}`;
const CHECKS = [
  ["the fast tests", ["node_modules/vitest/vitest.mjs", "run", "--project", "fast", "--reporter", "dot"]],
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

/** Returns the path of a binary, or `undefined` if the registry has none for this platform. */
async function installNode(version) {
  const prefix = join(root, "node_modules/.cache/node", String(version));
  const binary = join(prefix, "node_modules", PACKAGE, "bin/node");
  if (existsSync(binary)) return binary;
  mkdirSync(prefix, { recursive: true });
  writeFileSync(join(prefix, "package.json"), '{ "private": true }\n');
  const args = ["install", "--no-audit", "--no-fund", "--prefix", prefix, `${PACKAGE}@${version}`];
  const { status, output } = await run("npm", args);
  if (status === 0 && existsSync(binary)) return binary;
  // A failure other than an unknown package or platform, such as a lost connection, must not look like a version left out.
  if (/E404|ETARGET|EBADPLATFORM/.test(output)) return undefined;
  throw new Error(`Installing ${PACKAGE}@${version} failed.\n${output}`);
}

function run(command, args, path) {
  return new Promise((resolve, reject) => {
    const env = path
      ? { ...process.env, NO_COLOR: "1", PATH: `${path}${delimiter}${process.env.PATH}` }
      : process.env;
    const child = spawn(command, args, { cwd: root, env });
    let output = "";
    for (const stream of [child.stdout, child.stderr]) stream.on("data", (text) => (output += text));
    child.on("error", reject);
    child.on("close", (status) => resolve({ status, output }));
  });
}
