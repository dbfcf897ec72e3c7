import { defineConfig } from "vitest/config";

/** This repository has another Vitest beside the library; a project with one version needs none of this. */
export default defineConfig({
  resolve: { dedupe: ["vitest"] },
  test: { dir: "..", include: ["vitest.test.mjs"], server: { deps: { inline: [/sleeve/] } } },
});
