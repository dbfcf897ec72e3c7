import { availableParallelism } from "node:os";
import { defineConfig } from "vitest/config";

const options = {
  testTimeout: 60_000,
  hookTimeout: 120_000,
  // Whether a command prints progress depends on how long it takes.
  env: { SLEEVE_NO_PROGRESS: "1" },
};

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
        },
      },
      { test: { ...options, name: "library", include: ["packages/sleeve/tests/processes/**/*.test.ts"] } },
      { test: { ...options, name: "cli", include: ["packages/sleeve-cli/tests/**/*.test.ts"] } },
      { test: { ...options, name: "examples", include: ["examples/harbour/**/tests/**/*.test.ts"] } },
      { test: { ...options, name: "docs", include: ["tests/**/*.test.ts"] } },
    ],
  },
});
