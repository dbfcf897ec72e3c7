import { spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { describe, expect, test } from "vitest";
import { CLI, installed, project, type Run, sleeve, spawnedSleeve } from "../harness.ts";

/** One clear sentence on standard error with a code, exit code 2, and no stack trace. */
function expectProblem({ code, stderr }: Run, problem: string, message: RegExp): void {
  expect(code).toBe(2);
  const lines = stderr.trimEnd().split("\n");
  expect(lines).toHaveLength(1);
  expect(lines[0]).toMatch(/^sleeve: .*[.?] \[[A-Z_]+\]$/);
  expect(lines[0]).toContain(`[${problem}]`);
  expect(lines[0]).toMatch(message);
  expect(stderr).not.toMatch(/^\s+at /m);
}

describe.each(["survey", "check"])("%s reports in one sentence", (command) => {
  test("a missing folder", () => {
    expectProblem(sleeve(tmpdir(), command, "nowhere-at-all"), "NO_SUCH_FOLDER", /no folder nowhere-at-all/);
  });

  test("a folder without a project", () => {
    const empty = mkdtempSync(join(tmpdir(), "sleeve-empty-"));
    expectProblem(
      sleeve(empty, command),
      "NO_PROJECT",
      /no tsconfig\.json, no package\.json, and no TypeScript/,
    );
    rmSync(empty, { recursive: true });
  });
});

const CONFIG = { "sleeve.config.ts": "export default {};" };

describe.each(["survey", "check"])("%s does the rest and reports in one sentence", (command) => {
  const run = (files: Record<string, string>) => sleeve(project({ ...CONFIG, ...files }), command);

  test("a file that does not parse", () => {
    const result = run({ "src/a.ts": "export const fine = 1;", "src/b.ts": "export const = 2;\n" });
    expectProblem(result, "SYNTAX_ERROR", /src\/b\.ts:1:14 does not parse/);
    expect(result.stdout).not.toBe("");
  });

  test("a package that is not installed", () => {
    const result = run({ "src/a.ts": 'import { lift } from "crane";\nlift();\n' });
    expectProblem(
      result,
      "NOT_INSTALLED",
      /The package crane, imported in src\/a\.ts:1:22, is not installed/,
    );
    expect(result.stdout).not.toBe("");
  });

  test("a broken compiler config", () => {
    expectProblem(
      run({ "tsconfig.json": '{ "include": ["src"], ', "src/a.ts": "" }),
      "BROKEN_TSCONFIG",
      /tsconfig\.json is broken/,
    );
  });
});

describe("check reports an error in its config in one sentence", () => {
  const check = (config: string | undefined, files: Record<string, string> = {}) => {
    const base = {
      "src/a.ts": "export interface Bell { ring(): void }\nexport class Brass { ring(): void {} }\n",
    };
    return sleeve(
      project({ ...base, ...files, ...(config !== undefined && { "sleeve.config.ts": config }) }),
      "check",
    );
  };

  test.each([
    [undefined, "NO_CONFIG", /No sleeve\.config\.ts in/],
    ["export default {", "BROKEN_CONFIG", /cannot be loaded/],
    ["throw new Error('no luck');", "BROKEN_CONFIG", /cannot be loaded: no luck/],
    ["export default 7;", "BAD_CONFIG", /must export an object/],
    ["export default { target: {} };", "BAD_CONFIG", /has the unknown setting "target"\. Write targets\./],
    ["export default { targets: { 'src/a.ts': [] } };", "BAD_CONFIG", /write it as file#export/],
    ["export default { borders: { a: 'b' } };", "BAD_CONFIG", /`borders` to an object of string arrays/],
    [
      "export default { targets: { 'src/z.ts#Bell': ['src/a.ts#Brass'] } };",
      "NO_SUCH_FILE",
      /There is no file src\/z\.ts in the project/,
    ],
    [
      "export default { targets: { 'src/a.ts#Bell': ['src/a.ts#Bras'] } };",
      "NO_SUCH_EXPORT",
      /Did you mean Brass\?/,
    ],
    [
      "export default { borders: { crane: ['src/z.ts'] } };",
      "NO_SUCH_FILE",
      /lists src\/z\.ts under borders/,
    ],
    ["export default { tsconfig: 'tsconfig.none.json' };", "NO_PROJECT", /no tsconfig\.none\.json/],
  ])("%s", (config, problem, message) => {
    expectProblem(check(config), problem, message);
  });

  test("and checks the valid entries", () => {
    const run = check(
      "export default { targets: { 'src/a.ts#Bell': ['src/a.ts#Nickel', 'src/a.ts#Brass'] } };",
    );
    expectProblem(run, "NO_SUCH_EXPORT", /which exports Bell, Brass/);
    expect(run.stdout).toContain("1 wrapper checked: no findings, but not everything could be checked.");
  });
});

test("wrong usage ends with one sentence; help and version end with 0", () => {
  for (const [args, sentence] of [
    [["isolate"], "Unknown command 'isolate'"],
    [["survey", "--nothing"], "Unknown option '--nothing'"],
    [["draft"], "Missing required argument 'module'"],
    [["survey", ".", "more"], "Too many arguments for 'survey'. Expected 1 argument but got 2"],
    [
      ["wrap", "x", "--as", "nothing"],
      "Option '--as <kind>' argument 'nothing' is invalid. Allowed choices are ",
    ],
  ] as const) {
    const { code, stdout, stderr } = sleeve(tmpdir(), ...args);
    expect([code, stdout]).toEqual([2, ""]);
    expect(stderr.startsWith(`sleeve: ${sentence}`)).toBe(true);
    expect(stderr).toMatch(/^[^\n]*\. Run sleeve --help for commands and options\. \[USAGE\]\n$/);
  }
  expect(sleeve(tmpdir(), "--help")).toMatchObject({
    code: 0,
    stdout: expect.stringMatching(/survey .*\n[\s\S]*check /),
    stderr: "",
  });
  expect(sleeve(tmpdir(), "--version")).toMatchObject({ code: 0, stdout: "0.1.0\n" });
});

test("a reader that leaves before the end of the result is no failure", async () => {
  const uses = Array.from({ length: 3000 }, () => "void LIMIT;").join("\n");
  const root = project({
    ...installed("crane", "export declare const LIMIT: number;"),
    "src/a.ts": `import { LIMIT } from "crane";\n${uses}\n`,
  });
  const child = spawn(process.execPath, [CLI, "survey", "--json"], { cwd: root });
  let complaints = "";
  child.stderr.on("data", (data) => (complaints += String(data)));
  child.stdout.once("data", () => child.stdout.destroy());
  const [code] = await once(child, "close");
  expect([code, complaints]).toEqual([0, ""]);
});

test("a package without types is surveyed by its imports", () => {
  const root = project({
    "node_modules/crane/package.json": '{ "name": "crane", "version": "3.0.0", "main": "index.js" }',
    "node_modules/crane/index.js": "exports.lift = () => {};",
    "src/a.ts": '// @ts-ignore\nimport crane, { lift } from "crane";\nlift(crane);\n',
  });
  const { code, stdout, stderr } = sleeve(root, "survey");
  expect([code, stderr]).toEqual([0, ""]);
  expect(stdout).toMatch(/crane +3\.0\.0 +1 +2 +0 /);
  expect(stdout).toMatch(/lift +1 {2}call 1/);
});

test("a package required by plain JavaScript is surveyed, too", () => {
  const root = project({
    "node_modules/crane/package.json": '{ "name": "crane", "version": "3.0.0", "main": "index.js" }',
    "node_modules/crane/index.js": "exports.lift = () => {};",
    "lib/a.js": 'const { lift } = require("crane");\nmodule.exports = () => lift();\n',
    "package.json": "{}",
    "tsconfig.json":
      '{ "compilerOptions": { "allowJs": true, "module": "nodenext", "noEmit": true, "types": [] }, "include": ["lib"] }',
  });
  expect(sleeve(root, "survey").stdout).toMatch(/lift +1 {2}call 1 +lib\/a\.js:2:24/);
});

test("an unreadable file is reported, and the rest is surveyed", () => {
  const root = project({
    ...installed("crane", "export declare const LIMIT: number;"),
    "src/a.ts": 'import "crane";',
    "src/b.ts": "",
  });
  // Root ignores permissions, so the read itself is made to fail.
  writeFileSync(
    join(root, "deny.mjs"),
    `import fs from "node:fs";
     import { syncBuiltinESMExports } from "node:module";
     const read = fs.readFileSync;
     fs.readFileSync = (path, ...rest) => {
       if (String(path).endsWith("b.ts")) throw Object.assign(new Error("EACCES"), { code: "EACCES" });
       return read(path, ...rest);
     };
     syncBuiltinESMExports();`,
  );
  const run = spawnedSleeve(
    { NODE_OPTIONS: `--import ${pathToFileURL(join(root, "deny.mjs")).href}` },
    root,
    "survey",
  );
  expectProblem(run, "UNREADABLE", /src\/b\.ts cannot be read/);
  expect(run.stdout).toMatch(/crane/);
});

test("file names and line endings of any kind are accepted", () => {
  const root = project({
    ...installed(
      "crane",
      'export declare const größe: number; export declare function $1(): void; export declare const obj: { "quoted-name": number };',
    ),
    "src/ä b.ts":
      "\uFEFFimport { größe, $1, obj } from 'crane';\r\n\r\n$1();\r\nexport const all: unknown = [größe, obj['quoted-name']];\r\n",
  });
  writeFileSync(join(root, "src/empty.ts"), "");
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
    packages: { members: { member: string; places: { line: number; column: number }[] }[] }[];
  };
  expect(
    packages[0]?.members.map(({ member, places: [place] }) => `${member} ${place?.line}:${place?.column}`),
  ).toEqual(["$1 3:1", "größe 4:30", "obj 4:37", "quoted-name 4:41"]);
});

test("progress is printed on standard error only, until the command ends, and can be turned off", () => {
  // A config with code that takes longer than the first line of progress.
  const root = project({
    ...installed("crane", "export declare function lift(): void;"),
    "src/a.ts": 'import { lift } from "crane";\nlift();\n',
    "sleeve.config.ts":
      "if (!process.env.SLEEVE_NO_PROGRESS) await new Promise((resolve) => setTimeout(resolve, 3500));\nexport default {};\n",
  });
  const shown = spawnedSleeve({ SLEEVE_NO_PROGRESS: "" }, root, "survey", "--json");
  expect(shown.stderr).toMatch(/^(?:sleeve: (?:working|\d+ of \d+ files), \d+ s\n)+$/);
  const hidden = sleeve(root, "survey", "--json");
  expect([hidden.stderr, hidden.stdout]).toEqual(["", shown.stdout]);
});
