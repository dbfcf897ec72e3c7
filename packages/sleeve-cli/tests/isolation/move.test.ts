import { spawnSync } from "node:child_process";
import { chmodSync, existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const CRANE = installed(
  "crane",
  "export declare function lift(tons: number): number;\nexport interface Load { tons: number }\n",
);
const ADAPTER = {
  "src/cranes/crane.ts":
    "export interface Crane {\n  hoist(tons: number): number;\n}\nexport interface Load {\n  tons: number;\n}\n",
  "src/cranes/adapter.ts":
    'import { lift } from "crane";\nimport type { Crane } from "./crane.ts";\nexport const crane: Crane = { hoist: lift };\nexport { lift };\nexport type { Load } from "./crane.ts";\n',
};

function config(names: string): string {
  return `export default { borders: { crane: ["src/cranes/adapter.ts"] }, isolated: { crane: { target: "src/cranes/crane.ts#Crane", adapter: "src/cranes/adapter.ts#crane", names: ${names} } } };\n`;
}

function craneProject(callers: Readonly<Record<string, string>>, names = '{ lift: "hoist" }'): string {
  return project({ ...CRANE, ...ADAPTER, "sleeve.config.ts": config(names), ...callers });
}

function git(root: string, ...args: readonly string[]): void {
  spawnSync("git", ["-c", "user.name=Ines", "-c", "user.email=ines@port-ellery.invalid", ...args], {
    cwd: root,
  });
}

const read = (root: string, file: string) => readFileSync(join(root, file), "utf8");

const MARK = "\uFEFF";

test("only the moved names change; marks, line ends, quotes, comments and order stay", () => {
  const before = [
    `${MARK}// The yard.\r`,
    "import './first.ts'\r",
    "import { lift, /* how much */ type Load as Cargo } from 'crane' // outside\r",
    "import './last.ts'\r",
    "\r",
    "const crane = 1 // a name that is taken\r",
    "export const raise = (load: Cargo) => lift( load.tons ) + crane  // odd  spacing\r",
    "export const tools = { lift, crane }",
  ].join("\n");
  const root = craneProject({
    "src/yard.ts": before,
    "src/first.ts": "export {};\n",
    "src/last.ts": "export {};\n",
  });
  const shown = sleeve(root, "move", "crane");
  expect(shown.stderr).toBe("");
  expect(shown.stdout).toContain("Dry run: pass --write");
  expect(read(root, "src/yard.ts")).toBe(before);
  expect(sleeve(root, "move", "crane", "--write").code).toBe(0);
  expect(read(root, "src/yard.ts")).toBe(
    [
      `${MARK}// The yard.\r`,
      "import './first.ts'\r",
      "/* how much */\r",
      "import { crane as cranePort } from './cranes/adapter.ts'\r",
      "import type { Load } from './cranes/crane.ts' // outside\r",
      "import './last.ts'\r",
      "\r",
      "const crane = 1 // a name that is taken\r",
      "export const raise = (load: Load) => cranePort.hoist( load.tons ) + crane  // odd  spacing\r",
      "export const tools = { lift: cranePort.hoist, crane }",
    ].join("\n"),
  );
  const again = sleeve(root, "move", "crane", "--write");
  expect(again.stdout).toContain("Nothing to move: only the adapter imports crane.");
});

test("with the same names only the module's name in the import changes", () => {
  const text =
    'import {  type Load,\n  lift } from "crane";\nexport const raise = (load: Load) => lift(load.tons);\n';
  const root = craneProject({ "src/yard.ts": text }, '"same"');
  sleeve(root, "move", "crane", "--write");
  expect(read(root, "src/yard.ts")).toBe(text.replace('"crane"', '"./cranes/adapter.ts"'));
});

test("an import that cannot be moved stays and is reported with its place; the rest is moved", () => {
  const root = craneProject({
    "src/blind.ts": 'export const all = import("crane");\n',
    "src/yard.ts": 'import { lift } from "crane";\nexport const raised = lift(1);\n',
    "src/mock.ts": 'export const mocked = "crane";\n',
  });
  const { stdout } = sleeve(root, "move", "crane", "--write", "--json");
  const { files, stays, mentions } = JSON.parse(stdout) as {
    files: readonly { file: string }[];
    stays: readonly { place: { file: string }; why: string }[];
    mentions: readonly { file: string }[];
  };
  expect(files.map(({ file }) => file)).toEqual(["src/yard.ts"]);
  expect(stays.map(({ place, why }) => `${place.file}: ${why}`)).toEqual([
    "src/blind.ts: it uses the module as a whole",
  ]);
  expect(mentions.map(({ file }) => file)).toEqual(["src/mock.ts"]);
});

test("with a new compile error nothing is written, and the error is reported", () => {
  const root = craneProject({
    "src/cranes/crane.ts": "export interface Crane {\n  hoist(tons: number): string;\n}\n",
    "src/cranes/adapter.ts":
      'import { lift } from "crane";\nimport type { Crane } from "./crane.ts";\nexport const crane: Crane = { hoist: (tons) => String(lift(tons)) };\n',
    "src/yard.ts": 'import { lift } from "crane";\nexport const half: number = lift(2) / 2;\n',
  });
  const before = read(root, "src/yard.ts");
  const { code, stderr } = sleeve(root, "move", "crane", "--write");
  expect(code).toBe(2);
  expect(stderr).toMatch(
    /src\/yard\.ts:2:\d+: .*arithmetic operation.* Nothing was written\. .*\[DOES_NOT_COMPILE\]/,
  );
  expect(read(root, "src/yard.ts")).toBe(before);
  expect(existsSync(join(root, ".sleeve"))).toBe(false);
});

test("it does not overwrite uncommitted files without --uncommitted, and names them", () => {
  const root = craneProject({
    "src/yard.ts": 'import { lift } from "crane";\nexport const raised = lift(1);\n',
  });
  git(root, "init", "-q");
  git(root, "add", ".");
  git(root, "commit", "-qm", "all");
  writeFileSync(join(root, "src/cranes/crane.ts"), `${ADAPTER["src/cranes/crane.ts"]}// more\n`);
  const { code, stderr } = sleeve(root, "move", "crane", "--write");
  expect(code).toBe(2);
  expect(stderr).toMatch(/in src\/cranes\/crane\.ts\. Nothing was written\..*\[UNCOMMITTED\]/);
  expect(sleeve(root, "move", "crane", "--write", "--uncommitted").code).toBe(0);
});

test.each([
  [
    "another run is writing",
    "BUSY",
    (root: string) => {
      mkdirSync(join(root, ".sleeve"));
      writeFileSync(join(root, ".sleeve/lock"), String(process.pid));
    },
  ],
  [
    "a file is not in UTF-8",
    "NOT_WRITABLE",
    (root: string) => {
      writeFileSync(
        join(root, "src/yard.ts"),
        Buffer.concat([
          Buffer.from('import { lift } from "crane";\nlift(1); // '),
          Buffer.from([0xe9, 0x0a]),
        ]),
      );
    },
  ],
  ...(process.getuid?.() === 0
    ? []
    : [
        [
          "a file may not be written",
          "NOT_WRITABLE",
          (root: string) => {
            chmodSync(join(root, "src/yard.ts"), 0o444);
          },
        ] as const,
      ]),
  [
    "the config does not name an adapter",
    "NOT_ISOLATED",
    (root: string) => writeFileSync(join(root, "sleeve.config.ts"), "export default {};\n"),
  ],
  [
    "the adapter does not exist",
    "NO_SUCH_FILE",
    (root: string) =>
      writeFileSync(join(root, "sleeve.config.ts"), config("{}").replaceAll("adapter.ts", "adaptor.ts")),
  ],
] as const)("it refuses with the reason where %s, and changes nothing", (_, problem, spoil) => {
  const root = craneProject({
    "src/yard.ts": 'import { lift } from "crane";\nexport const raised = lift(1);\n',
  });
  spoil(root);
  const before = readFileSync(join(root, "src/yard.ts"));
  const { code, stderr } = sleeve(root, "move", "crane", "--write");
  expect(code).toBe(2);
  expect(stderr).toContain(`[${problem}]`);
  expect(readFileSync(join(root, "src/yard.ts")).equals(before)).toBe(true);
});
