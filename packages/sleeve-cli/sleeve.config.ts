import type { Config } from "./src/project/config.ts";

/** Each package except those for output and arguments has one file or folder that imports it. */
export default {
  borders: {
    typescript: ["src/compiler/", "src/types/", "src/uses/", "src/conformance/", "tests/"],
    "oxc-parser": ["src/parser/", "tests/"],
    "jsonc-parser": ["src/compiler/"],
    "oxc-resolver": [
      "src/project/module-resolver.ts",
      "src/project/packages/file-lookup.ts",
      "src/project/packages/runtime-file.ts",
      "src/draft/contract/effects.ts",
    ],
    "js-tokens": ["src/parser/parse.ts"],
    chokidar: ["src/check/watch.ts"],
    "fast-xml-parser": ["src/report/junit.ts", "tests/"],
    sarif: ["src/report/check/check-sarif.ts", "tests/"],
    jiti: ["src/project/child-processes/", "src/draft/contract/scenario-process.ts"],
    picocolors: ["src/report/terminal.ts"],
    diff: ["src/move/command.ts", "src/generation/generate.ts"],
    "@yarnpkg/parsers": ["src/project/packages/lockfile.ts"],
    "fastest-levenshtein": ["src/nearest-name.ts"],
    "@dprint/formatter": ["src/emit/format.ts"],
    "@dprint/typescript": ["src/emit/format.ts"],
    "magic-string": ["src/isolation/text-edits.ts", "src/emit/javascript.ts", "src/emit/line-origins.ts"],
    "string-width": ["src/report/terminal.ts"],
    "wrap-ansi": ["src/report/terminal.ts"],
    // What comes back from project code is validated where it is read.
    zod: [
      "src/documents/",
      "src/project/child-processes/",
      "src/project/components/scripts.ts",
      "src/draft/contract/run-scenarios.ts",
      "src/isolation/verification/own-compiler.ts",
    ],
    yaml: ["src/project/packages/lockfile.ts"],
    tar: ["src/project/packages/package-files.ts", "tests/"],
  },
  suppressions: [
    {
      finding: "computed",
      in: "src/isolation/verification/own-compiler-process.ts",
      reason: "loads the TypeScript that the user's project has installed",
    },
    {
      finding: "computed",
      in: "src/project/components/component-process.ts",
      reason: "loads the compiler that the user's project has installed for a format",
    },
    {
      finding: "computed",
      in: "src/project/child-processes/config-process.ts",
      reason: "loads the module that the command names, to read a config",
    },
    {
      finding: "leak",
      in: "src/compiler/typescript.ts",
      reason: "the single place that imports the compiler, whose nodes and types have no simpler form",
    },
  ],
} satisfies Config;
