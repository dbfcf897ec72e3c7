import { spawnSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const CRANE = installed(
  "crane",
  "export declare class Crane { lift(): number }\nexport declare const LIMIT: number;\n",
);

interface CheckJson {
  readonly wrappers: readonly { readonly findings: readonly Finding[] }[];
  readonly borders: readonly { readonly findings: readonly Finding[] }[];
}

interface Finding {
  readonly name: string;
  readonly place: { readonly file: string; readonly line: number };
  readonly found: string;
  readonly suppressed: string | null;
}

function found(root: string, ...options: readonly string[]): readonly string[] {
  const run = sleeve(root, "check", "--json", ...options);
  expect(run.stderr).toBe("");
  const { wrappers, borders } = JSON.parse(run.stdout) as CheckJson;
  return [...wrappers, ...borders].flatMap(({ findings }) =>
    findings.map(
      ({ name, place, suppressed }) =>
        `${name} ${place.file}:${place.line}${suppressed === null ? "" : " accepted"}`,
    ),
  );
}

const BORDER = 'borders: { crane: ["src/adapter.ts"] }';

test.each([
  [
    "a barrel that is not named, and the files that import from it",
    {
      "src/barrel.ts": 'export { Crane } from "crane";\n',
      "src/a.ts": 'import { Crane } from "./barrel.ts";\nnew Crane();\n',
      "src/b.ts": 'export * from "./barrel.ts";\n',
      "src/c.ts": 'import { Crane as C } from "./b.ts";\nnew C();\n',
    },
    ["border src/a.ts:1", "border src/b.ts:1", "border src/barrel.ts:1", "border src/c.ts:1"],
  ],
  [
    "an adapter that gives the package away",
    {
      "src/adapter.ts": 'export { LIMIT } from "crane";\nexport const two = 2;\n',
      "src/a.ts": 'import { two } from "./adapter.ts";\nexport const a: number = two;\n',
    },
    ["leak src/adapter.ts:1"],
  ],
  [
    "a type that is inferred beyond the border",
    {
      "src/adapter.ts": 'import { Crane } from "crane";\nexport const crane = (): Crane => new Crane();\n',
      "src/a.ts":
        'import { crane } from "./adapter.ts";\nexport const a = crane();\nexport const b: number = crane().lift();\n',
    },
    ["leak src/a.ts:2"],
  ],
  [
    "nothing, where names only look alike",
    {
      "src/adapter.ts": 'import { LIMIT } from "crane";\nexport const limit: number = LIMIT;\n',
      "src/barrel.ts": 'export { limit as LIMIT } from "./adapter.ts";\nexport class Crane {}\n',
      "src/a.ts":
        'import { Crane, LIMIT } from "./barrel.ts";\nexport const a: [Crane, number] = [new Crane(), LIMIT];\n',
    },
    [],
  ],
] as const)("a border reports %s", (_, files, expected) => {
  const root = project({
    ...CRANE,
    "src/adapter.ts": 'import "crane";\n',
    ...files,
    "sleeve.config.ts": `export default { ${BORDER} };`,
  });
  expect([...found(root)].sort()).toEqual([...expected].sort());
});

test("a target that imports the outside is reported, and so is a subsystem that imports its facade through other files", () => {
  const root = project({
    ...CRANE,
    "src/target.ts":
      'import type { Crane } from "crane";\nexport interface Office { admit(): number; crane?: Crane }\n',
    "src/office.ts":
      'import { berths } from "./berths.ts";\nexport class OfficeFacade { admit(): number { return berths(); } }\n',
    "src/berths.ts": 'import { deeper } from "./deeper.ts";\nexport const berths = (): number => deeper();\n',
    "src/deeper.ts":
      'import type { OfficeFacade } from "./office.ts";\nexport const deeper = (office?: OfficeFacade): number => (office ? 1 : 2);\n',
    "sleeve.config.ts":
      'export default { targets: { "src/target.ts#Office": ["src/office.ts#OfficeFacade"] } };',
  });
  expect(found(root)).toEqual(["subsystem src/deeper.ts:1", "import src/target.ts:1"]);
});

test("an exception holds until its last day, and no longer", () => {
  const accepted = (until: string) =>
    `export default { ${BORDER}, suppressions: [{ finding: "border", in: "src/a.ts", reason: "moved next", until: "${until}" }] };`;
  const root = project({
    ...CRANE,
    "src/adapter.ts": 'import "crane";\n',
    "src/a.ts": 'import "crane";\n',
    "sleeve.config.ts": accepted("2999-12-31"),
  });
  expect(found(root)).toEqual(["border src/a.ts:1 accepted"]);
  writeFileSync(join(root, "sleeve.config.ts"), accepted("2001-01-31"));
  expect(found(root)).toEqual(["border src/a.ts:1"]);
  expect(sleeve(root, "check").stdout.replace(/\s+/g, " ")).toContain(
    "Its suppression expired on 2001-01-31.",
  );
});

test("recorded findings do not fail the check, and a new one of the same kind does", () => {
  const root = project({
    ...CRANE,
    "src/adapter.ts": 'import "crane";\n',
    "src/a.ts": 'import "crane";\n',
    "sleeve.config.ts": `export default { ${BORDER} };`,
  });
  expect(sleeve(root, "check").code).toBe(1);
  expect(sleeve(root, "check", "--record").code).toBe(0);
  expect(sleeve(root, "check").code).toBe(0);
  writeFileSync(
    join(root, "src/a.ts"),
    'import "crane";\nimport { LIMIT } from "crane";\nexport const l: number = LIMIT;\n',
  );
  expect(found(root)).toEqual(["border src/a.ts:1 accepted", "border src/a.ts:2"]);
  expect(sleeve(root, "check").code).toBe(1);
});

test("--changed checks only files changed since the last commit", () => {
  const root = project({
    ...CRANE,
    "src/adapter.ts": 'import "crane";\n',
    "src/old.ts": 'import "crane";\n',
    "sleeve.config.ts": `export default { ${BORDER} };`,
  });
  const git = (...args: readonly string[]) =>
    spawnSync("git", ["-c", "user.name=Ines", "-c", "user.email=ines@port-ellery.invalid", ...args], {
      cwd: root,
    });
  expect(sleeve(root, "check", "--changed").stderr).toContain("[NO_REPOSITORY]");
  git("init", "-q");
  git("add", ".");
  git("commit", "-qm", "all");
  writeFileSync(join(root, "src/new.ts"), 'import "crane";\n');
  expect(found(root, "--changed")).toEqual(["border src/new.ts:1"]);
  expect(sleeve(root, "check", "--changed").stdout).toContain(" checked in 1 changed file: 1 finding.");
  expect(found(root)).toEqual(["border src/new.ts:1", "border src/old.ts:1"]);
});
