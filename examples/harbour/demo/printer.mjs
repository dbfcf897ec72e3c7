/** How the demo prints its chapters, and runs commands as a user would. */
import { spawnSync } from "node:child_process";
import { join, relative } from "node:path";
import { stripVTControlCharacters } from "node:util";

const root = join(import.meta.dirname, "../../..");
const cli = join(root, "packages/sleeve-cli/dist/cli.js");
let chapters = 0;

/** Prints a numbered heading. */
export function chapter(title) {
  chapters += 1;
  console.log(`\n${chapters}. ${title}`);
}

/** Prints the files to read next; examples are relative to examples/harbour. */
export function read(...files) {
  print(
    `-> read ${files.map((file) => (file.startsWith("docs/") ? file : `examples/harbour/${file}`)).join(", ")}`,
  );
}

export function print(text) {
  console.log(`   ${text}`);
}

/**
 * Runs a command and prints the lines that `show` selects.
 *
 * @param options.folder an absolute folder, printed relative to the repository
 * @param options.exitCode the expected exit code. Default: 0
 */
export function sleeve(command, argument, { folder, options = [], cwd = root, exitCode = 0, show }) {
  const args = [command, argument, ...(folder ? [relative(root, folder)] : []), ...options];
  print(`$ npx sleeve ${args.join(" ")}`);
  const colour = process.stdout.isTTY || process.env.FORCE_COLOR ? { FORCE_COLOR: "1" } : {};
  const { status, stdout, stderr } = spawnSync(process.execPath, [cli, ...args], {
    cwd,
    encoding: "utf8",
    env: { ...process.env, SLEEVE_NO_PROGRESS: "1", ...colour },
  });
  if (status !== exitCode) throw new Error(`sleeve ${command} ended with ${status}: ${stderr}`);
  for (const line of show(stdout.trimEnd().split("\n"))) print(line);
}

export const firstLines = (count) => (lines) => lines.slice(0, count);
export const lastLines = (count) => (lines) => lines.slice(-count);
export const matching = (pattern) => (lines) =>
  lines.filter((line) => pattern.test(stripVTControlCharacters(line)));

/** Returns the error of an action that must fail, on one line. */
export function failureLine(title, action) {
  try {
    action();
  } catch (error) {
    return `${title}: ${error.code ?? error.name}. ${error.message}`;
  }
  throw new Error(`${title}: expected an error`);
}
