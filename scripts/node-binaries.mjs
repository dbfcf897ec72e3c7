/** Installs versions of Node.js from the npm registry, under `node_modules/.cache`. */
import { spawn } from "node:child_process";
import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { delimiter, join } from "node:path";

const root = join(import.meta.dirname, "..");
export const PACKAGE = `node-${process.platform}-${process.arch}`;

/** Returns the path of a binary, or `undefined` if the registry has none for this platform. */
export async function installNode(version) {
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

/** Runs a command, with a folder in front of its PATH if one is given. */
export function run(command, args, path) {
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
