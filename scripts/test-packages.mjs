/** Runs in full what `npm test` samples: the packages with consumers, and the moments at which a move is killed. */
import { spawnSync } from "node:child_process";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");
const vitest = join(root, "node_modules/vitest/vitest.mjs");
const { status } = spawnSync(
  process.execPath,
  [
    vitest,
    "run",
    "--project",
    "cli",
    "packages/sleeve-cli/tests/packages",
    "packages/sleeve-cli/tests/isolation/transaction.test.ts",
  ],
  { cwd: root, stdio: "inherit", env: { ...process.env, SLEEVE_CORPUS: "all" } },
);
process.exitCode = status ?? 1;
