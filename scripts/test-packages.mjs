/** Drafts and moves the consumers of all packages in the corpus; `npm test` does so for one in five. */
import { spawnSync } from "node:child_process";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");
const vitest = join(root, "node_modules/vitest/vitest.mjs");
const { status } = spawnSync(
  process.execPath,
  [vitest, "run", "--project", "cli", "packages/sleeve-cli/tests/packages"],
  { cwd: root, stdio: "inherit", env: { ...process.env, SLEEVE_CORPUS: "all" } },
);
process.exitCode = status ?? 1;
