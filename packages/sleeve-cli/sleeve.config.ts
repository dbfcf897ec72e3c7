import type { Config } from "./src/project/config.ts";

/** Each package except those for output and arguments has one file or folder that imports it. */
export default {
  borders: {
    typescript: ["src/compiler/", "src/types/", "src/uses/", "src/conformance/"],
    "oxc-parser": ["src/parser/"],
    "jsonc-parser": ["src/compiler/"],
    "oxc-resolver": ["src/project/module-resolver.ts", "src/project/packages/runtime-file.ts"],
    chokidar: ["src/check/watch.ts"],
    "fast-xml-parser": ["src/report/junit.ts"],
    sarif: ["src/report/check/check-sarif.ts"],
    jiti: ["src/project/run-config.ts"],
    picocolors: ["src/report/terminal.ts"],
    diff: ["src/move/command.ts", "src/generation/generate.ts"],
    "@yarnpkg/parsers": ["src/project/packages/lockfile.ts"],
    "fastest-levenshtein": ["src/nearest-name.ts"],
    "magic-string": ["src/isolation/text-edits.ts", "src/generation/render/javascript.ts"],
    "string-width": ["src/report/terminal.ts"],
    "wrap-ansi": ["src/report/terminal.ts"],
    zod: ["src/documents/"],
    yaml: ["src/project/packages/lockfile.ts"],
    tar: ["src/project/packages/package-files.ts"],
  },
  suppressions: [
    {
      finding: "computed",
      in: "src/move/own-compiler-process.ts",
      reason: "loads the TypeScript that the user's project has installed",
    },
    {
      finding: "computed",
      in: "src/project/components/component-process.ts",
      reason: "loads the compiler that the user's project has installed for a format",
    },
    {
      finding: "leak",
      in: "src/compiler/typescript.ts",
      reason: "the single place that imports the compiler, whose nodes and types have no simpler form",
    },
  ],
} satisfies Config;
