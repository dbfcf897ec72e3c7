/** The library has no dependencies: what one entry point alone needs stays there. */
export default {
  borders: {
    "@opentelemetry/api": ["src/traced.ts", "tests/"],
    "fast-check": ["src/conform/", "tests/"],
    vitest: ["src/vitest.ts", "tests/"],
  },
};
