import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

type Files = Readonly<Record<string, unknown>>;

/** A project with an alias, an own folder beside a package of the same name, and ambient types. */
const PROJECT = {
  ...installed(
    "crane",
    "export interface Load { tons: number } export declare function lift(load: Load): number;",
  ),
  ...installed("fender", "export declare function outside(): string;"),
  "node_modules/@types/berth/package.json":
    '{ "name": "@types/berth", "version": "1.0.0", "types": "index.d.ts" }',
  "node_modules/@types/berth/index.d.ts": "declare const BERTH: { readonly number: number };",
  "src/fender/index.ts": "export const own = (n: number) => n * 2;\n",
  "src/app/main.ts":
    'import { lift, type Load } from "crane";\nimport { own } from "fender";\nconst load: Load = { tons: 3 };\nexport const total = own(lift(load)) + BERTH.number;\n',
};

const INCLUDE = { include: ["src"] };

/** Today's settings that all others are equivalent to. */
const MODERN: Files = {
  "tsconfig.json": {
    compilerOptions: {
      strict: true,
      target: "es2022",
      module: "esnext",
      moduleResolution: "bundler",
      types: ["berth"],
      paths: { "*": ["./src/*"] },
    },
    ...INCLUDE,
  },
};

const BASE = { strict: true, types: ["berth"], baseUrl: "./src" };

function options(more: Files): Files {
  return { "tsconfig.json": { compilerOptions: { ...BASE, ...more }, ...INCLUDE } };
}

/** Settings that were valid before, and what the note names. */
const OLD: readonly (readonly [settings: string, files: Files, named: readonly string[]])[] = [
  ...["es3", "es5", "ES5"].map(
    (target) => [`target ${target}`, options({ target }), [`target: ${target.toLowerCase()}`]] as const,
  ),
  ...["amd", "umd", "system", "none", "AMD"].map(
    (module) =>
      [
        `module ${module}`,
        options({ module, moduleResolution: "node" }),
        [`module: ${module.toLowerCase()}`],
      ] as const,
  ),
  ...["node", "node10", "Node"].map(
    (moduleResolution) =>
      [
        `moduleResolution ${moduleResolution}`,
        options({ module: "commonjs", moduleResolution }),
        [`moduleResolution: ${moduleResolution.toLowerCase()}`],
      ] as const,
  ),
  ...(
    [
      ["outFile", "./out.js"],
      ["out", "./out.js"],
      ["importsNotUsedAsValues", "remove"],
      ["preserveValueImports", true],
      ["keyofStringsOnly", true],
      ["noStrictGenericChecks", true],
      ["suppressImplicitAnyIndexErrors", true],
      ["suppressExcessPropertyErrors", true],
      ["charset", "utf8"],
      ["downlevelIteration", true],
      ["noImplicitUseStrict", true],
    ] as const
  ).map(([name, value]) => [name, options({ [name]: value }), [name]] as const),
  ...["alwaysStrict", "esModuleInterop", "allowSyntheticDefaultImports"].map(
    (name) => [`${name} off`, options({ [name]: false }), [`${name}: false`]] as const,
  ),
  [
    "paths relative to baseUrl",
    {
      "tsconfig.json": {
        compilerOptions: { ...BASE, baseUrl: ".", paths: { fender: ["src/fender/index"] } },
        ...INCLUDE,
      },
    },
    ["baseUrl"],
  ],
  [
    "baseUrl in a config that is extended",
    {
      "config/base.json": { compilerOptions: { ...BASE, baseUrl: "../src", target: "es5" } },
      "tsconfig.json": { extends: "./config/base.json", ...INCLUDE },
    },
    ["baseUrl", "target: es5"],
  ],
  [
    "several configs that are extended, one of a package",
    {
      "node_modules/shared/tsconfig.json": { compilerOptions: { strict: true, moduleResolution: "node" } },
      "config/own.json": { compilerOptions: { types: ["berth"], baseUrl: "../src" } },
      "tsconfig.json": { extends: ["shared/tsconfig.json", "./config/own.json"], ...INCLUDE },
    },
    ["moduleResolution: node", "baseUrl"],
  ],
  [
    "a config that is only referenced",
    {
      "tsconfig.json": { files: [], references: [{ path: "./tsconfig.app.json" }] },
      "tsconfig.app.json": { compilerOptions: { ...BASE, composite: true, target: "es5" }, ...INCLUDE },
    },
    ["baseUrl", "target: es5"],
  ],
  [
    "the defaults of an older compiler",
    {
      "node_modules/typescript/package.json": { name: "typescript", version: "5.4.5" },
      "tsconfig.json": { compilerOptions: { baseUrl: "./src" }, ...INCLUDE },
    },
    ["baseUrl"],
  ],
];

const TODAY = {
  strict: true,
  target: "es2022",
  module: "esnext",
  moduleResolution: "bundler",
  types: ["berth"],
  paths: { "*": ["./src/*"] },
};

function today(more: Files, top: Files = {}): Files {
  return { "tsconfig.json": { compilerOptions: { ...TODAY, ...more }, ...INCLUDE, ...top } };
}

/** Settings that the compiler takes as they are, and that lead to the same result in another way. */
const UNUSUAL: readonly (readonly [settings: string, files: Files])[] = [
  ["paths with several candidates", today({ paths: { "*": ["./generated/*", "./src/*", "./typings/*"] } })],
  ["virtual folders", today({ rootDirs: ["./src", "./generated"] })],
  ["folders of types", today({ types: undefined, typeRoots: ["./node_modules/@types"] })],
  ["suffixes of modules", today({ moduleSuffixes: [".native", ""] })],
  ["conditions of our own", today({ customConditions: ["development"] })],
  ["plain imports and exports", today({ verbatimModuleSyntax: true })],
  ["composite", today({ composite: true, outDir: "out" })],
  [
    "a config of a package",
    {
      "node_modules/shared/package.json": {
        name: "shared",
        version: "1.0.0",
        exports: { "./base.json": "./base.json" },
      },
      "node_modules/shared/base.json": { compilerOptions: { ...TODAY, paths: undefined } },
      "tsconfig.json": { extends: "shared/base.json", compilerOptions: { paths: TODAY.paths }, ...INCLUDE },
    },
  ],
  [
    "references in a row",
    {
      "tsconfig.json": { files: [], references: [{ path: "./tsconfig.all.json" }] },
      "tsconfig.all.json": { files: [], references: [{ path: "./tsconfig.app.json" }] },
      "tsconfig.app.json": { compilerOptions: { ...TODAY, composite: true }, ...INCLUDE },
    },
  ],
  ["scripts besides", today({ allowJs: true, checkJs: true })],
];

function surveyed(settings: Files) {
  const root = project(PROJECT);
  for (const [file, values] of Object.entries(settings)) {
    mkdirSync(dirname(join(root, file)), { recursive: true });
    writeFileSync(join(root, file), JSON.stringify(values));
  }
  const { code, stdout } = sleeve(root, "survey", "--json");
  const survey = JSON.parse(stdout) as {
    readonly packages: readonly object[];
    readonly problems: readonly { readonly code: string; readonly message: string }[];
    readonly notes: readonly { readonly code: string; readonly message: string }[];
  };
  return { root, code, survey };
}

const modern: { packages?: readonly object[]; drafted?: readonly string[] } = {};

/** Returns the target and the adapter of a draft. */
function draftedIn(root: string): readonly string[] {
  const { files } = JSON.parse(sleeve(root, "draft", "crane", "--json").stdout) as {
    files: readonly { role: string; text: string }[];
  };
  return files.filter(({ role }) => role === "target" || role === "adapter").map(({ text }) => text);
}

test("with today's settings, an own folder wins over a package of the same name", () => {
  const { root, code, survey } = surveyed(MODERN);
  expect(code).toBe(0);
  expect(survey).toMatchObject({
    packages: [{ name: "crane" }],
    problems: [],
    notes: [],
  });
  modern.packages = survey.packages;
  modern.drafted = draftedIn(root);
  expect(modern.drafted).toHaveLength(2);
});

test.each(sampled(UNUSUAL))("%s: survey and draft are those of the equivalent project", (_, files) => {
  const { root, code, survey } = surveyed(files);
  expect({ code, problems: survey.problems }).toEqual({ code: 0, problems: [] });
  expect(survey.packages).toEqual(modern.packages);
  expect(draftedIn(root)).toEqual(modern.drafted);
});

test.each(sampled(OLD))("%s: survey and draft are those of the equivalent project", (_, files, named) => {
  const { root, code, survey } = surveyed(files);
  expect(code).toBe(0);
  expect(survey.packages).toEqual(modern.packages);
  expect(survey.notes.map((note) => note.code)).toEqual(["OLD_SETTINGS"]);
  const [, settings = ""] = /no longer takes: (.*?)\. In memory/.exec(survey.notes[0]?.message ?? "") ?? [];
  expect(settings.split(", ")).toEqual(expect.arrayContaining([...named]));
  expect(draftedIn(root)).toEqual(modern.drafted);
});

test("the settings are listed", () => {
  expect([OLD.length, UNUSUAL.length]).toEqual([30, 10]);
});

test.each([
  ["target es5 and baseUrl", options({ target: "es5", module: "commonjs", moduleResolution: "node" })],
  ["the defaults of an older compiler", OLD.at(-1)?.[1] ?? {}],
])("with %s, a module is isolated as in the equivalent project", (_, files) => {
  const [old, equivalent] = [files, MODERN].map((settings) => {
    const { root } = surveyed(settings);
    const runs = [
      sleeve(root, "draft", "crane", "--write"),
      sleeve(root, "move", "crane", "--write", "--uncommitted"),
      sleeve(root, "check"),
    ];
    expect(runs.map(({ code }) => code)).toEqual([0, 0, 0]);
    return ["src/app/crane/crane.ts", "src/app/crane/crane-adapter.ts", "src/app/main.ts"].map((file) =>
      readFileSync(join(root, file), "utf8"),
    );
  });
  expect(old).toEqual(equivalent);
});

test("declarations of our own for an installed package do not make it ours", () => {
  const root = project({
    ...installed("crane", ""),
    "node_modules/crane/package.json": '{ "name": "crane", "version": "1.0.0", "main": "index.js" }',
    "typings/crane/index.d.ts": "export declare function lift(): number;",
    "tsconfig.json":
      '{ "compilerOptions": { "baseUrl": ".", "paths": { "*": ["typings/*"] } }, "include": ["src", "typings"] }',
    "src/main.ts": 'import { lift } from "crane";\nlift();\n',
  });
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as { packages: readonly object[] };
  expect(packages).toMatchObject([{ name: "crane", isInstalled: true, version: "1.0.0" }]);
});

test("an alias that leads to a package counts as this package", () => {
  const root = project({
    ...installed("crane", "export declare function lift(): number;"),
    "tsconfig.json":
      '{ "compilerOptions": { "strict": true, "module": "esnext", "moduleResolution": "bundler", "paths": { "hoist": ["./node_modules/crane"] } }, "include": ["src"] }',
    "src/main.ts": 'import { lift } from "hoist";\nlift();\n',
  });
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as { packages: readonly object[] };
  expect(packages).toMatchObject([{ name: "crane", isInstalled: true }]);
});

test("a config that extends itself ends with one sentence", () => {
  const root = project({
    "tsconfig.json": '{ "extends": "./base.json" }',
    "base.json": '{ "extends": "./tsconfig.json" }',
    "src/a.ts": "export {};\n",
  });
  const { code, stderr } = sleeve(root, "survey");
  expect(code).toBe(2);
  expect(stderr).toMatch(/^sleeve: \S+tsconfig\.json extends itself.*\[BROKEN_TSCONFIG\]\n$/);
});
