/**
 * Prepares a fresh clone: dependencies from the lockfile if missing or stale, the build, with --browser
 * Chromium, and with --tests Chromium and Redis. Prints each step, and skips completed ones.
 */
import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { browserPath } from "./browser.mjs";

// `scripts/ci.mjs` has prepared everything, and its jobs use the build at the same time.
if (process.env.SLEEVE_PREPARED) process.exit();

const root = join(import.meta.dirname, "..");
const isQuiet = process.argv.includes("--quiet");
const [major = 0, minor = 0] = process.versions.node.split(".").map(Number);

if (major < 20 || (major === 20 && minor < 19)) {
  stop(`Node.js 20.19 or later is needed; this is ${process.versions.node}.`);
}
installDependencies();
build();
const isForTests = process.argv.includes("--tests");
if (isForTests || process.argv.includes("--browser")) {
  installProgram("chromium", "Chromium (or set CHROMIUM_PATH to one)", () => browserPath() !== undefined);
}
if (isForTests) installProgram("redis-server", "Redis", () => runs("redis-server"));

function installDependencies() {
  const lock = createHash("sha256")
    .update(readFileSync(join(root, "package-lock.json")))
    .digest("hex");
  const stamp = join(root, "node_modules/.prepared");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === lock) return;
  say("Installing the dependencies that the lockfile names ...");
  run("npm", ["ci", "--no-audit", "--no-fund", "--loglevel=error"]);
  writeFileSync(stamp, lock);
}

function build() {
  if (!existsSync(join(root, "packages/sleeve-cli/dist/cli.js")))
    say("Building the packages and the examples ...");
  run(process.execPath, [join(root, "scripts/build.mjs")]);
}

/** Installs a program with the system's package manager, if it is missing. */
function installProgram(name, what, isThere) {
  if (isThere()) return;
  say(`Installing ${what} with the system's package manager, for the tests ...`);
  if (!runs("apt-get")) {
    stop(`There is no ${what}, and no apt-get to install it with. Install it, and run this again.`);
  }
  const isRoot = process.getuid?.() === 0;
  const apt = (...args) =>
    run(isRoot ? "apt-get" : "sudo", isRoot ? args : ["apt-get", ...args], {
      DEBIAN_FRONTEND: "noninteractive",
    });
  apt("update", "-qq");
  apt("install", "-y", "-qq", name);
}

function runs(program) {
  return spawnSync(program, ["--version"], { stdio: "ignore" }).status === 0;
}

function run(command, args, env = {}) {
  const { status, stdout, stderr, error } = spawnSync(command, args, {
    cwd: root,
    encoding: "utf8",
    env: { ...process.env, ...env },
    shell: process.platform === "win32",
    maxBuffer: 1 << 28,
  });
  if (status === 0) return;
  process.stderr.write(`${stdout ?? ""}${stderr ?? ""}`);
  stop(
    `"${command} ${args.join(" ")}" failed${error ? `: ${error.message}` : ""}. What it printed is above.`,
  );
}

function say(text) {
  if (!isQuiet) console.error(text);
}

function stop(text) {
  console.error(text);
  process.exit(2);
}
