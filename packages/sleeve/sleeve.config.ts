/** The library has no dependencies: what one entry point alone needs stays there. */
export default {
  borders: {
    "@opentelemetry/api": ["src/traced.ts"],
    "fast-check": ["src/conform/"],
    vitest: ["src/vitest.ts"],
  },
};
