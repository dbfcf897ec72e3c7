import type { Config } from "./src/project/config.ts";

/** The house keeps its own rule: each package that does not print or parse arguments has one folder that imports it. */
export default {
  borders: {
    typescript: ["src/compiler/"],
    "oxc-parser": ["src/parser/"],
    "jsonc-parser": ["src/compiler/program.ts"],
    chokidar: ["src/check/watch.ts"],
    "fast-xml-parser": ["src/report/junit.ts"],
    sarif: ["src/report/check-sarif.ts"],
    jiti: ["src/project/config.ts"],
    picocolors: ["src/report/terminal.ts"],
    commander: ["src/cli.ts"],
  },
} satisfies Config;
