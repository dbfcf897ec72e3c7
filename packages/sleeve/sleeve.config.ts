/** The library has no dependencies: what one entry point alone needs stays there. */
export default {
  borders: {
    "fast-check": ["src/conform/"],
    vitest: ["src/vitest.ts"],
  },
};
