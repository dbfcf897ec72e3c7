import { existsSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const LEDGER = installed(
  "berth-ledger",
  `
export interface Record { no: number; length_ft: number; vessel: string | null; unused: string }
/** Answers with numbers. */
export declare class Ledger { constructor(name: string); /** All berths. */ sheet(): Record[]; book(vessel: string): number; strike(ref: string): void }
export declare function parse_sheet(xml: string, strict?: boolean): Record[];
`,
);
const USE =
  "import { Ledger, parse_sheet } from 'berth-ledger'\n\nexport function berths(): number[] {\n\treturn [...new Ledger('north').sheet(), ...parse_sheet('<berths/>')].map(({ no }) => no)\n}\n";

const read = (root: string, file: string) => readFileSync(join(root, file), "utf8");

test("a draft contains exactly the used members, in the project's naming and format", () => {
  const root = project({ ...LEDGER, "src/berths.ts": USE });
  const { stdout, stderr, code } = sleeve(root, "draft", "berth-ledger", "--write", "--into", "src/ledger");
  expect(stderr).toBe("");
  expect(code).toBe(0);
  expect(stdout).toContain("Written.");
  expect(read(root, "src/ledger/berth-ledger.ts")).toBe(
    [
      "/** The parts of berth-ledger that this project uses. */",
      "export interface BerthLedger {",
      "\t/** Answers with numbers. */",
      "\tcreateLedger(name: string): Ledger",
      "\tparseSheet(xml: string): OutsideRecord[]",
      "}",
      "",
      "/** Answers with numbers. */",
      "export interface Ledger {",
      "\tsheet(): OutsideRecord[]",
      "}",
      "",
      "export interface OutsideRecord {",
      "\tno: number",
      "}",
      "",
    ].join("\n"),
  );
  expect(read(root, "src/ledger/berth-ledger-adapter.ts")).toBe(
    [
      "import { Ledger, parse_sheet } from 'berth-ledger'",
      "import type { BerthLedger } from './berth-ledger.ts'",
      "",
      "/** The only file that imports berth-ledger. */",
      "export const berthLedger: BerthLedger = {",
      "\tcreateLedger: (name) => new Ledger(name),",
      "\tparseSheet: parse_sheet,",
      "}",
      "",
    ].join("\n"),
  );
  expect(sleeve(root, "check").stdout).toContain("1 wrapper and 1 border checked");
});

test("names come from the config, and a second draft overwrites nothing and reports what is new", () => {
  const root = project({
    ...LEDGER,
    "src/berths.ts": USE,
    "sleeve.config.ts":
      'export default {\n  isolated: {\n    "berth-ledger": { target: "src/port.ts#Berths", adapter: "src/gate.ts#berthsOfToday", names: { "new Ledger": "openLedger", parse_sheet: "read" } },\n  },\n};\n',
  });
  expect(sleeve(root, "draft", "berth-ledger", "--write").code).toBe(0);
  expect(read(root, "src/port.ts")).toMatch(
    /interface Berths \{[^}]*openLedger\(name: string\): Ledger[^}]*read\(xml: string\)/,
  );
  expect(read(root, "sleeve.config.ts")).toContain('borders: {\n    "berth-ledger": ["src/gate.ts"],\n  },');
  const mine = read(root, "src/port.ts").replace("\tread(xml: string): OutsideRecord[]\n", "");
  writeFileSync(join(root, "src/port.ts"), mine);
  const again = sleeve(root, "draft", "berth-ledger", "--write", "--json");
  const { since, files } = JSON.parse(again.stdout) as {
    since: { added: readonly string[] };
    files: readonly { file: string; state: string }[];
  };
  expect(since.added).toEqual(["read"]);
  expect(files.find(({ file }) => file === "src/port.ts")?.state).toBe("kept");
  expect(read(root, "src/port.ts")).toBe(mine);
});

test("two drafts give the same bytes, and neither writes without --write", () => {
  const root = project({ ...LEDGER, "src/berths.ts": USE });
  const first = sleeve(root, "draft", "berth-ledger", "--json");
  expect(sleeve(root, "draft", "berth-ledger", "--json").stdout).toBe(first.stdout);
  expect(first.stdout).toContain('"createLedger"');
  expect(sleeve(root, "check").stderr).toContain("[NO_CONFIG]");
});

test.each([
  ["the module is imported nowhere", "berth-ledgr", "NOT_IMPORTED", "Did you mean berth-ledger?"],
  ["the module is not installed", "gone", "NOT_INSTALLED", "gone"],
])("it says so where %s", (_, module, problem, hint) => {
  const root = project({
    ...LEDGER,
    "src/berths.ts": USE,
    "src/gone.ts": 'import { a } from "gone";\nexport const b: unknown = a;\n',
  });
  const { code, stderr } = sleeve(root, "draft", module);
  expect(code).toBe(2);
  expect(stderr).toContain(`[${problem}]`);
  expect(stderr).toContain(hint);
});

test("a function with an error-first callback is also offered as a promise", () => {
  const gauge = `
export declare function level(gauge: string, then: (error: Error | null, feet?: number) => void): void;
export declare function close(then?: (error?: TypeError) => void): void;
export declare function each(all: string[], then: (one: string) => void): void;
`;
  const root = project({
    ...installed("slow-gauge", gauge),
    "src/a.ts":
      'import { close, each, level } from "slow-gauge";\nlevel("PE-1", () => close(() => each([], () => {})));\n',
  });
  const { stdout, stderr } = sleeve(root, "draft", "slow-gauge", "--json");
  expect(stderr).toBe("");
  const { members, files } = JSON.parse(stdout) as {
    members: readonly { member: string; form: string }[];
    files: readonly { role: string; text: string }[];
  };
  expect(members.filter(({ form }) => form === "promise").map(({ member }) => member)).toEqual([
    "closeAsync",
    "levelAsync",
  ]);
  const target = files.find(({ role }) => role === "target")?.text;
  expect(target).toContain("levelAsync(gauge: string): Promise<number | undefined>;");
  expect(target).toContain("closeAsync(): Promise<void>;");
});

test("once callers have been moved, a draft reports only new members, and removes nothing", () => {
  const crane =
    "export declare function lift(tons: number): number;\nexport declare function drop(tons: number): void;\n";
  const root = project({
    ...installed("crane", crane),
    "src/a.ts": 'import { lift } from "crane";\nexport const a = lift(1);\n',
  });
  sleeve(root, "draft", "crane", "--write");
  sleeve(root, "move", "crane", "--write");
  const target = read(root, "src/crane/crane.ts");
  expect(sleeve(root, "draft", "crane", "--write").stdout).toBe(
    "No changes: every caller of crane uses its target.\n",
  );
  writeFileSync(join(root, "src/b.ts"), 'import { drop } from "crane";\ndrop(1);\n');
  const { stdout, stderr, code } = sleeve(root, "draft", "crane", "--write");
  expect({ stderr, code }).toEqual({ stderr: "", code: 0 });
  expect(stdout).toContain("New since the target was drafted: drop.");
  expect(stdout).toContain("drop(tons: number): void;");
  expect(stdout).not.toContain("crane.new");
  expect(read(root, "src/crane/crane.ts")).toBe(target);
  // A member that the adapter lacks stays unchanged.
  expect(sleeve(root, "move", "crane", "--write").stdout).toContain(
    "src/b.ts:1:10  the adapter does not export drop",
  );
  expect(read(root, "src/b.ts")).toBe('import { drop } from "crane";\ndrop(1);\n');
});

test("members used in separate places become interfaces that the target extends", () => {
  const root = project({
    ...installed(
      "quay",
      `
export interface Turn { level: number }
export declare function turns(): Turn[];
export declare function level(turn: Turn): number;
export declare function horn(): void;
export declare function lamp(on: boolean): void;
export declare function flag(): string;
`,
    ),
    "src/tides/table.ts": 'import { turns } from "quay";\nexport const first = turns()[0];\n',
    "src/tides/depth.ts":
      'import { level, turns } from "quay";\nexport const deep = turns().map(level).join();\n',
    "src/signals.ts": 'import { horn, lamp } from "quay";\nhorn();\nlamp(true);\n',
    "src/flags.ts": 'import { flag } from "quay";\nexport const up: string = flag();\n',
  });
  const { stdout } = sleeve(root, "draft", "quay", "--write", "--json");
  expect((JSON.parse(stdout) as { groups: unknown }).groups).toEqual([
    { interface: "QuayForSignals", usedIn: "src/signals.ts", members: ["horn", "lamp"] },
    { interface: "QuayForTides", usedIn: "src/tides/", members: ["level", "turns"] },
  ]);
  expect(read(root, "src/quay/quay.ts")).toMatch(
    /interface Quay extends QuayForSignals, QuayForTides \{\n\s+flag\(\): string;\n\}/,
  );
  expect(sleeve(root, "move", "quay", "--write", "--uncommitted").code).toBe(0);
  expect(sleeve(root, "check").code).toBe(0);
  expect(JSON.parse(sleeve(root, "draft", "quay", "--json").stdout)).toMatchObject({
    members: [],
    groups: [],
  });
});

test.each([
  ["src/use.ts", "src/quay/quay.contract.ts"],
  ["src/use.js", "src/quay/quay.contract.js"],
])("where the library is installed, a contract is drafted in the language of %s", (file, contract) => {
  const root = project({
    ...installed("quay", "export declare function lamp(on: boolean): string;\n"),
    "package.json": '{ "type": "module" }',
    [file]: 'import { lamp } from "quay";\nconsole.log(lamp(true));\n',
  });
  if (file.endsWith(".js")) rmSync(join(root, "tsconfig.json"));
  symlinkSync(join(import.meta.dirname, "../../../sleeve"), join(root, "node_modules/sleeve"));
  expect(sleeve(root, "draft", "quay", "--write").stderr).toBe("");
  expect(existsSync(join(root, contract)) && read(root, contract)).toMatch(/quay\.lamp\(true\)/);
});
