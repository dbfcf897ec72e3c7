import type { Config } from "./src/project/config.ts";

/** The house keeps its own rule: each package that does not print or parse arguments has one folder that imports it. */
export default {
  borders: {
    typescript: ["src/compiler/"],
    "oxc-parser": ["src/parser/"],
    "jsonc-parser": ["src/compiler/config-text.ts"],
    "oxc-resolver": ["src/project/module-resolver.ts"],
    chokidar: ["src/check/watch.ts"],
    "fast-xml-parser": ["src/report/junit.ts"],
    sarif: ["src/report/check-sarif.ts"],
    jiti: ["src/project/config.ts"],
    picocolors: ["src/report/terminal.ts"],
    commander: ["src/cli.ts"],
    diff: ["src/move/command.ts"],
    yaml: ["src/project/lockfile.ts"],
    tar: ["src/project/package-files.ts"],
  },
  suppressions: [
    {
      finding: "leak",
      in: "src/compiler/syntax.ts",
      reason: "the commands speak of the compiler's nodes and types, which have no simpler form",
    },
  ],
} satisfies Config;
