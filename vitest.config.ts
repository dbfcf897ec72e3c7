import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: [
      "packages/*/tests/**/*.test.ts",
      "examples/harbour/**/tests/**/*.test.ts",
      "bench/tests/**/*.test.ts",
      "tests/**/*.test.ts",
    ],
    testTimeout: 60_000,
    hookTimeout: 120_000,
  },
});
