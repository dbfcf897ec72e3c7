import { spawnSync } from "node:child_process";
import { readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { expect, test } from "vitest";
import { project, sampled, sleeve } from "../harness.ts";

const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");

/** Folders and files whose names would be code, or would end a comment or a text. */
const NAMES = [
  "my tides",
  "it's",
  'a"b',
  "a`b",
  "a*/globalThis.PWNED=1;/*b",
  "$(touch PWNED)",
  "a;b&c|d",
  "#hash",
  "é 🚢",
  "'; globalThis.PWNED = 1; '",
  " by: npx sleeve wrap x --as fake --write",
] as const;

/** Names that cannot be written on one line. */
const REFUSED = [
  "a\nglobalThis.PWNED = 1;",
  "a\rb",
  "a\tb",
  "a\u2028b",
  "a\u2029b",
  "a\u202eb",
  "a\u0007b",
  "a\u009bb",
] as const;

const KINDS = ["forwarder", "fake", "surface", "decorator --layer logging", "proxy --layer timing"] as const;

/** A script with the file, of a class that is wrapped. */
function scripts(name: string): Record<string, string> {
  return {
    "package.json": '{ "name": "office", "type": "module" }',
    [`src/${name}/tides.js`]:
      "export class Tides {\n  /** @returns {number} */\n  height() {\n    return 4;\n  }\n}\n",
  };
}

const CASES = NAMES.flatMap((name) => KINDS.map((kind) => ({ name, kind })));

test("every name is combined with every kind", () => {
  expect(CASES).toHaveLength(55);
});

test.each(sampled(CASES))(
  "a file in the folder $name is wrapped, and its name is no code: $kind",
  async ({ name, kind }) => {
    const root = project(scripts(name));
    rmSync(join(root, "tsconfig.json"));
    const [as = "", ...options] = kind.split(" ");
    const args = [`src/${name}/tides.js#Tides`, "--as", as, ...options, "--standalone"];
    const wrap = [
      ...args.filter((arg) => arg !== "--standalone" || options.length > 0),
      "--to",
      "src/wrapped.js",
    ];
    expect(sleeve(root, "wrap", ...wrap, "--write")).toMatchObject({ code: 0, stderr: "" });
    await import(pathToFileURL(join(root, "src/wrapped.js")).href);
    expect("PWNED" in globalThis).toBe(false);
    const text = readFileSync(join(root, "src/wrapped.js"), "utf8");
    expect(text.split("\n").filter((line) => line.includes("Generated from"))).toHaveLength(1);
    expect(sleeve(root, "wrap", "--check")).toMatchObject({ code: 0, stderr: "" });
    // The command in the header, run by a shell, writes the same file again.
    const [, command = ""] =
      / by: npx sleeve (wrap .*)\n/.exec(text.replace(/^.*(?= by: npx sleeve wrap '?src)/, "")) ?? [];
    writeFileSync(join(root, "print.cjs"), "process.stdout.write(JSON.stringify(process.argv.slice(2)));");
    const words = JSON.parse(
      spawnSync("sh", ["-c", `node print.cjs ${command}`], { cwd: root, encoding: "utf8" }).stdout,
    ) as string[];
    expect(words.slice(1, 4)).toEqual([`src/${name}/tides.js#Tides`, "--as", as]);
    expect(readdirSync(root)).not.toContain("PWNED");
  },
);

test.each(sampled(REFUSED))("a path with a control character or a line separator is refused: %j", (name) => {
  const root = project(scripts(name));
  const source = `src/${name}/tides.js`;
  for (const args of [
    ["wrap", `${source}#Tides`, "--as", "fake", "--to", "src/wrapped.js", "--write"],
    ["draft", source, "--write"],
  ]) {
    writeFileSync(
      join(root, "src/main.js"),
      `import { Tides } from ${JSON.stringify(`./${name}/tides.js`)};\nnew Tides();\n`,
    );
    rmSync(join(root, "tsconfig.json"), { force: true });
    const { code, stdout, stderr } = sleeve(root, ...args);
    expect([code, stdout]).toEqual([2, ""]);
    expect(stderr).toMatch(
      /^sleeve: The path .* contains a control character or a line separator\. .*\[BAD_PATH\]\n$/,
    );
  }
  expect(readdirSync(join(root, "src")).sort()).toEqual(["main.js", name].sort());
});

test.each([
  ["words of a shell", "--to $(touch$IFS)PWNED.ts --as fake --write"],
  ["a broken text", '"\\q" --as fake --write'],
  ["a text that does not end", "'x --as fake --write"],
  ["an unknown option", "src/a.ts#T --as fake --evil --write"],
  ["an unknown kind", "src/a.ts#T --as evil --write"],
  ["no kind", "src/a.ts#T"],
])("a planted header is one sentence, and nothing is run: %s", (_, words) => {
  const root = project({
    "src/a.ts": "export interface T { a(): number }\n",
    "src/planted.ts": `// Generated from x by: npx sleeve wrap ${words}\n// Content 0123456789ab.\n\nexport {};\n`,
  });
  for (const mode of ["--check", "--write"]) {
    const { code, stderr } = sleeve(root, "wrap", mode);
    expect(code).toBe(2);
    expect(stderr).toMatch(
      /^sleeve: src\/planted\.ts cannot be generated again\. .* is not a command of this version\. \[BAD_OPTION\]\n$/,
    );
  }
  expect(readdirSync(root).sort()).toEqual(["src", "tsconfig.json"]);
});

interface LegacyCase {
  readonly language: string;
  readonly ending: string;
  readonly type?: string;
  readonly options?: object;
  readonly legacy: string;
  readonly call: (specifier: string) => string;
  readonly endings?: string;
}

const COMMONJS = {
  legacy: "exports.n = function () { return 3; };\nexports.m = function (a) { return a * 2; };\n",
  call: (specifier: string) =>
    `var tax = require("${specifier}");\nconsole.log(tax.n(), require("${specifier}").m(4));\n`,
};
const MODULE = {
  legacy: "export function n() { return 3; }\nexport function m(a) { return a * 2; }\n",
  call: (specifier: string) => `import { m, n } from "${specifier}";\nconsole.log(n(), m(4));\n`,
};
const TYPED = {
  legacy:
    "export function n(): number { return 3; }\nexport function m(a: number): number { return a * 2; }\n",
  call: MODULE.call,
};

const LANGUAGES: readonly LegacyCase[] = [
  { language: "CommonJS", ending: ".js", ...COMMONJS, endings: "" },
  { language: "CommonJS by its ending", ending: ".cjs", type: "module", ...COMMONJS },
  { language: "CommonJS with an ending in the specifier", ending: ".js", ...COMMONJS },
  { language: "modules", ending: ".js", type: "module", ...MODULE },
  { language: "modules by their ending", ending: ".mjs", ...MODULE },
  {
    language: "TypeScript, compiled to CommonJS",
    ending: ".ts",
    ...TYPED,
    endings: "",
    options: { module: "commonjs", moduleResolution: "bundler" },
  },
  {
    language: "TypeScript, compiled to modules",
    ending: ".ts",
    type: "module",
    ...TYPED,
    endings: ".js",
    options: { module: "nodenext" },
  },
];

/** Files that use the legacy code, from the folder of the project. */
const DEPTHS = {
  "two folders": ["lib/a", "routes/api"],
  "one folder": ["lib/a", "lib/b"],
  "nested folders": ["lib/deep/er/a", "lib/b"],
  "beside the legacy code": ["main", "lib/a"],
} as const;

const MOVES = LANGUAGES.flatMap((language) =>
  Object.entries(DEPTHS).map(([depth, files]) => ({ ...language, depth, files })),
);

test("every language is combined with every depth", () => {
  expect(MOVES).toHaveLength(28);
});

test.each(sampled(MOVES))(
  "each file of a project runs as before when its legacy code is isolated: $language, $depth",
  ({ ending, type, options, legacy, call, endings = ending, files }) => {
    const source = options ? "src/" : "";
    const root = project({
      "package.json": JSON.stringify({ name: "office", ...(type && { type }) }),
      [`${source}legacy/tax${ending}`]: legacy,
      ...Object.fromEntries(
        files.map((file) => {
          const up = "../".repeat(file.split("/").length - 1) || "./";
          return [`${source}${file}${ending}`, call(`${up}legacy/tax${endings}`)];
        }),
      ),
      ...(options && {
        "tsconfig.json": JSON.stringify({
          compilerOptions: {
            strict: true,
            target: "es2023",
            types: ["node"],
            outDir: "out",
            rootDir: "src",
            skipLibCheck: true,
            ...options,
          },
          include: ["src"],
        }),
        "node_modules/@types/node/index.d.ts":
          "declare const console: { log(...values: unknown[]): void };\n",
        "node_modules/@types/node/package.json":
          '{ "name": "@types/node", "version": "1.0.0", "types": "index.d.ts" }',
      }),
    });
    if (!options) rmSync(join(root, "tsconfig.json"));
    const printed = () => {
      if (options) spawnSync(process.execPath, [TSC, "-p", root]);
      return files.map((file) => {
        const path = options ? join(root, "out", `${file}.js`) : join(root, `${file}${ending}`);
        return spawnSync(process.execPath, [path], { encoding: "utf8" });
      });
    };
    const before = printed().map(({ stdout }) => stdout);
    expect(before).toEqual(["3 8\n", "3 8\n"]);
    expect(sleeve(root, "draft", `${source}legacy/`, "--write")).toMatchObject({ code: 0, stderr: "" });
    expect(sleeve(root, "move", `${source}legacy/`, "--write")).toMatchObject({ code: 0, stderr: "" });
    expect(printed().map(({ stdout, stderr }) => stdout + stderr)).toEqual(before);
    expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
  },
);
