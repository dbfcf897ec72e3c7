import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { availableParallelism } from "node:os";
import { defineConfig } from "vitest/config";

const share = process.env["SLEEVE_SHARE"] ?? String(shareOfCommit());
if (process.env["SLEEVE_CORPUS"] !== "all")
  console.info(`Generated cases: share ${share} of 0 to 9. To repeat it, set SLEEVE_SHARE=${share}.`);

const options = {
  testTimeout: 240_000,
  hookTimeout: 600_000,
  env: {
    // Whether a command prints progress depends on how long it takes.
    SLEEVE_NO_PROGRESS: "1",
    SLEEVE_SHARE: share,
  },
};

/** Commits in a row have shares in a row. Where the history is not known, the share follows from the hash of the commit. */
function shareOfCommit(): number {
  try {
    if (git("rev-parse", "--is-shallow-repository") === "false")
      return Number(git("rev-list", "--count", "HEAD")) % 10;
    return createHash("sha256").update(git("rev-parse", "HEAD")).digest().readUInt32BE() % 10;
  } catch {
    return 0;
  }
}

function git(...args: readonly string[]): string {
  return execFileSync("git", args, { cwd: import.meta.dirname, encoding: "utf8", stdio: "pipe" }).trim();
}

/**
 * Named projects, so that the tests of one part can run alone: `npx vitest run --project cli`. `fast` starts no processes
 * and no browser.
 */
export default defineConfig({
  test: {
    maxWorkers: availableParallelism(),
    projects: [
      {
        test: {
          ...options,
          name: "fast",
          include: ["packages/sleeve/tests/**/*.test.ts"],
          exclude: ["packages/sleeve/tests/processes/**"],
          // Loading the library once for each worker takes less time.
          isolate: false,
        },
      },
      { test: { ...options, name: "library", include: ["packages/sleeve/tests/processes/**/*.test.ts"] } },
      {
        test: {
          ...options,
          name: "cli",
          include: ["packages/sleeve-cli/tests/**/*.test.ts"],
          // The files of one worker share the process that runs their commands.
          isolate: false,
        },
      },
      { test: { ...options, name: "examples", include: ["examples/harbour/**/tests/**/*.test.ts"] } },
      { test: { ...options, name: "docs", include: ["tests/**/*.test.ts"] } },
    ],
  },
});
