/** Runs the tests of the command, and those of the library with foreign suites, with all cases, of which `npm test` runs some. */
import { spawnSync } from "node:child_process";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");
const vitest = join(root, "node_modules/vitest/vitest.mjs");
const { status } = spawnSync(process.execPath, [vitest, "run", "--project", "library", "--project", "cli"], {
  cwd: root,
  stdio: "inherit",
  env: { ...process.env, SLEEVE_CORPUS: "all" },
});
process.exitCode = status ?? 1;
