import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const CRANE =
  "export interface Load { readonly tons: number }\nexport declare class Crane { lift(load: Load): number; unused(): void }\n";
const USE = 'import { Crane } from "crane";\nexport const total: number = new Crane().lift({ tons: 2 });\n';
const TSCONFIG = {
  compilerOptions: { strict: true, module: "nodenext", target: "es2023", types: [], noEmit: true },
  include: ["src"],
};

function office(files: Readonly<Record<string, string>> = {}): string {
  return project({
    ...installed("crane", CRANE),
    "package.json": '{ "name": "office", "type": "module", "dependencies": { "crane": "1" } }',
    "tsconfig.json": JSON.stringify(TSCONFIG),
    "src/a.ts": USE,
    ...files,
  });
}

test.each([
  ["survey"],
  ["survey", "--imports"],
  ["draft", "crane"],
  ["move", "crane"],
  ["check"],
  ["drift"],
  ["surface", "src/a.ts#total"],
  ["wrap", "src/t.ts#Tides", "--as", "fake"],
])("an unfinished move is reported by a command that does not write: %s %s", (...command) => {
  const root = office({
    "src/t.ts": "export interface Tides { height(): number }\n",
    "sleeve.config.ts":
      'export default { isolated: { crane: { target: "src/a.ts#total", adapter: "src/a.ts#total", names: {} } }, borders: { crane: ["src/a.ts"] } };\n',
  });
  mkdirSync(join(root, ".sleeve/run"), { recursive: true });
  writeFileSync(join(root, ".sleeve/run/manifest.json"), '{ "files": [] }');
  const { code, stderr } = sleeve(root, ...command.filter((word) => word !== undefined));
  expect(code).toBe(2);
  expect(stderr).toMatch(/An earlier run was interrupted while writing, .*\[INTERRUPTED\]\n/);
});

/** CommonJS code that re-exports a package. */
const REEXPORTS: Readonly<Record<string, readonly [code: string, names: string]>> = {
  "a required member": ['exports.Crane = require("crane").Crane;', "Crane"],
  "a member under another name": ['exports.Hoist = require("crane").Crane;', "Hoist"],
  "a constant": ['const crane = require("crane");\nexports.Crane = crane.Crane;', "Crane"],
  "a name": ['const { Crane } = require("crane");\nmodule.exports.Crane = Crane;', "Crane"],
  "an object": ['const crane = require("crane");\nmodule.exports = { Crane: crane.Crane };', "Crane"],
  "the module": ['module.exports = require("crane");', "*"],
  "all members": ['Object.assign(exports, require("crane"));', "*"],
};

test.each(sampled(Object.entries(REEXPORTS)))(
  "a re-export of CommonJS is a leak that debt accepts: %s",
  (_, [code, name]) => {
    const files = {
      ...installed("crane", CRANE),
      "package.json": '{ "name": "office" }',
      "lib/port.js": `${code}\n`,
      "lib/use.js": 'const { lifts } = require("./port");\n',
    };
    const config = (debt: string) =>
      `export default { borders: { crane: ["lib/port.js"] }, isolated: { crane: { target: "lib/port.js#x", adapter: "lib/port.js#x", names: {}, debt: { ${debt} } } } };\n`;
    const checked = (debt: string) => {
      const root = project({ ...files, "sleeve.config.mjs": config(debt) });
      rmSync(join(root, "tsconfig.json"));
      return sleeve(root, "check");
    };
    expect(checked("").stdout).toContain(`${name} re-exported`);
    expect(checked(`${JSON.stringify(name)}: "soon"`)).toMatchObject({ code: 0, stderr: "" });
  },
);

test("check accepts the debt that draft writes, in CommonJS too", () => {
  const root = project({
    ...installed(
      "crane",
      "export declare class Crane { lift(): number }\nexport declare enum Kind { A = 1 }\n",
    ),
    "package.json": '{ "name": "office" }',
    "lib/a.js":
      'const { Crane, Kind } = require("crane");\nclass Own extends Crane {}\nmodule.exports = { own: new Own(), kind: Kind.A };\n',
    "lib/b.js": 'const crane = require("crane");\nmodule.exports = [crane.Crane, crane.Kind].length;\n',
  });
  rmSync(join(root, "tsconfig.json"));
  expect(sleeve(root, "draft", "crane", "--write").code).toBe(0);
  expect(sleeve(root, "move", "crane", "--write").code).toBe(0);
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
});

test("a draft whose module is re-exported as a whole is no step that is finished", () => {
  const root = project({
    ...installed(
      "crane",
      "declare function crane(): number;\ndeclare namespace crane { const LIMIT: number }\nexport = crane;\n",
    ),
    "package.json": '{ "name": "office" }',
    "a.js": 'const crane = require("crane");\ncrane();\ncrane.LIMIT;\nmodule.exports = crane;\n',
  });
  rmSync(join(root, "tsconfig.json"));
  const { stdout } = sleeve(root, "draft", "crane");
  expect(stdout.split("\n")[3]).toBe(
    "This target depends on crane as a whole: of 1 used member, none can have another implementation. The move only puts its imports in one place.",
  );
});

test("the quality of a draft counts used members, and those behind an alias depend on the module", () => {
  const declaration = `
declare enum Knot { Bowline }
export interface Load { readonly tons: number; readonly name: string; readonly extra1: string; readonly extra2: string }
export declare class Crane { first(): Load; second(): Load; third(): Load; hidden(): Knot }
`;
  const root = office({
    ...installed("crane", declaration),
    "src/a.ts":
      'import { Crane } from "crane";\nconst crane = new Crane();\nexport const values: readonly (string | number)[] = [crane.first().tons, crane.second().name];\nexport const hidden = String(crane.hidden());\n',
  });
  const { quality } = JSON.parse(sleeve(root, "draft", "crane", "--json").stdout) as {
    quality: { members: object };
  };
  expect(quality.members).toEqual({ independent: 5, dependent: 1, reexported: 0 });
});

test("a surface stops at outside types, and is short", () => {
  const fields = Array.from({ length: 60 }, (_, index) => `readonly field${index}: Part`).join("; ");
  const declaration = `
export interface Part { ${Array.from({ length: 40 }, (_, index) => `readonly p${index}: { readonly deep: { readonly deeper: string[] } }`).join("; ")} }
export interface Huge { ${fields} }
`;
  const root = office({
    ...installed("crane", declaration),
    "src/a.ts":
      'import type { Huge } from "crane";\nexport interface Own { run(huge: Huge): Huge; all(): { readonly parts: readonly Huge[] } }\n',
  });
  const { stdout } = sleeve(root, "surface", "src/a.ts#Own");
  const { members } = JSON.parse(stdout) as { members: object };
  expect(members).toEqual({
    run: {
      kind: "method",
      signatures: [
        { parameters: [{ name: "huge", schema: { opaque: "Huge" } }], result: { opaque: "Huge" } },
      ],
    },
    all: { kind: "method", signatures: [expect.anything()] },
  });
  expect(stdout.length).toBeLessThanOrEqual(2000 * Object.keys(members).length);
});

test("files that the compiler's config does not include are listed, checked, and left for a person", () => {
  const root = office({
    "tests/a.test.ts":
      'import { vi } from "vitest";\nimport { Crane } from "crane";\nvi.mock("crane");\nnew Crane();\n',
    "vite.config.ts": 'import { Crane } from "crane";\nexport default { crane: new Crane() };\n',
    "scripts/run.js": 'require("crane");\n',
    "dist/old.js": 'require("crane");\n',
  });
  const places = ["scripts/run.js:1:9", "tests/a.test.ts:2:23", "vite.config.ts:1:23"];
  for (const options of [[], ["--imports"]]) {
    const { packages } = JSON.parse(sleeve(root, "survey", "--json", ...options).stdout) as {
      packages: readonly {
        files: readonly string[];
        uncompiled: readonly { file: string; line: number; column: number }[];
      }[];
    };
    expect(packages[0]?.files).toEqual(["src/a.ts"]);
    expect(packages[0]?.uncompiled.map(({ file, line, column }) => `${file}:${line}:${column}`)).toEqual(
      places,
    );
  }
  expect(sleeve(root, "survey").stdout).toContain(
    `note crane is imported outside the compiler's config: ${places.join(", ")}\n`,
  );
  expect(sleeve(root, "draft", "crane", "--write").code).toBe(0);
  const { stdout } = sleeve(root, "move", "crane", "--write");
  for (const place of places)
    expect(stdout).toContain(`${place}  the compiler's config does not include the file`);
  expect(stdout).toContain("crane is named at tests/a.test.ts:3:9.");
  const { code, stdout: findings } = sleeve(root, "check");
  expect(code).toBe(1);
  for (const place of places) expect(findings).toContain(`border  crane  ${place}`);
});

/** Wrong input, and the sentence that it gives. */
const SENTENCES: readonly (readonly [
  files: Readonly<Record<string, string>>,
  command: readonly string[],
  sentence: RegExp,
])[] = [
  [
    { "scripts/s.ts": "export interface S { a: 1 }\n" },
    ["wrap", "scripts/s.ts#S", "--as", "fake"],
    /config does not include scripts\/s\.ts\. Add it to `include`.*\[NO_SUCH_FILE\]/,
  ],
  [
    { "scripts/s.ts": "export interface S { a: 1 }\n" },
    ["surface", "scripts/s.ts#S"],
    /config does not include scripts\/s\.ts\. .*\[NO_SUCH_FILE\]/,
  ],
  [
    { "tsconfig.json": '{ "include": ["nothing"] }' },
    ["survey"],
    /^sleeve: tsconfig\.json includes no files\. .*\[BROKEN_TSCONFIG\]\n$/,
  ],
  [
    { "tsconfig.json": '{ "include": ["nothing"] }' },
    ["draft", "crane"],
    /^sleeve: tsconfig\.json includes no files\. .*\[BROKEN_TSCONFIG\]\n$/,
  ],
  [
    {},
    ["draft", "src/a.ts"],
    /^sleeve: No other file of the project imports src\/a\.ts\. .*\[NOT_IMPORTED\]\n$/,
  ],
  [
    { ".pnp.cjs": "", "src/a.ts": 'import "hoist";\n' },
    ["survey"],
    /hoist, imported in src\/a\.ts:1:8, is not in node_modules: \.pnp\.cjs loads packages from archives.*\[NOT_INSTALLED\]\n$/,
  ],
  [
    {
      "node_modules/crane/package.json": '{ "name": "crane", "version": "1.0.0", "types": "lib/none.d.ts" }',
      "node_modules/crane/index.d.ts": "",
    },
    ["survey"],
    /The manifest of crane names lib\/none\.d\.ts as its types, which does not exist.*\[TYPES_MISSING\]\n$/,
  ],
  [
    { "sleeve.config.ts": 'export default { targets: { "src/wrong.ts#T": ["src/a.ts#total"] } };\n' },
    ["check"],
    /^sleeve: There is no file src\/wrong\.ts in the project\. .*\[NO_SUCH_FILE\]\n$/,
  ],
  [
    {},
    ["wrap", "src/a.ts#total", "--as", "fake", "--name", "class"],
    /^sleeve: --name class is not a name of a class\. .*\[BAD_OPTION\]\n$/,
  ],
  [
    { "tsconfig.json": `no json\n${"<html>\n".repeat(200)}` },
    ["survey"],
    /^sleeve: tsconfig\.json is broken: invalid symbol in line 1, column 1\. .*\[BROKEN_TSCONFIG\]\n$/,
  ],
];

test.each(SENTENCES)(
  "wrong input is one sentence with a place and a next step (%#)",
  (files, command, sentence) => {
    const { stdout, stderr } = sleeve(office(files), ...command);
    expect(stderr).toMatch(sentence);
    expect(stderr.split("\n")).toHaveLength(2);
    expect(stdout).not.toContain("the config has no targets and no borders");
  },
);

/** Text that is not code, in which brackets do not count. */
const TEXTS: Readonly<Record<string, (lines: number) => string>> = {
  "a documentation comment": (lines) =>
    `/**\n${' * <p>Reads <code>x</code> of the <a href="y">object</a> ((({{{\n'.repeat(lines)} */\n`,
  "line comments": (lines) => "// (((((((((((([[[[[[[[[[{{{{{{\n".repeat(lines),
  "a string": (lines) => `declare const text: "${"((((((((((".repeat(lines)}";\n`,
  "a template": (lines) => `declare const text: \`${"{{{{((((((".repeat(lines)}\`;\n`,
  "a long union": (lines) =>
    `export type Name = ${Array.from({ length: lines }, (_, index) => `"name${index}"`).join(" | ")};\n`,
};

test.each(Object.entries(TEXTS))(
  "nesting is measured on code: a declaration file with %s is read",
  (_, text) => {
    const root = office({
      ...installed("crane", `${text(600)}${CRANE}`),
      "src/more.ts": `${text(600).replaceAll("declare ", "export declare ")}export const more = 1;\n`,
    });
    const { code, stderr, stdout } = sleeve(root, "draft", "crane", "--write");
    expect([code, stderr]).toEqual([0, ""]);
    expect(stdout).toContain("Cranes replaces crane");
    expect(sleeve(root, "survey")).toMatchObject({ code: 0, stderr: "" });
  },
);

test("a file that is really nested too deeply is left out with a note", () => {
  const deep = `${"f(".repeat(20_000)}${")".repeat(20_000)};\n`;
  const root = office({ "src/deep.ts": `declare const f: (value?: unknown) => unknown;\n${deep}` });
  const { code, stderr, stdout } = sleeve(root, "survey", "--imports", "--json");
  const { notes, problems } = JSON.parse(stdout) as {
    notes: readonly { code: string }[];
    problems: readonly object[];
  };
  expect([code, notes.map((note) => note.code), problems]).toEqual([0, ["UNREADABLE"], []]);
  expect(stderr).toMatch(/^sleeve: src\/deep\.ts is nested too deeply to be read, and is left out\. /);
});
