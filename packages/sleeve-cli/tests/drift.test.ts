import { cpSync, mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { create } from "tar";
import { expect, test } from "vitest";
import { installed, project, type Run, sleeve } from "./harness.ts";

const MODULES = join(import.meta.dirname, "../../../node_modules");

interface DriftJson {
  readonly drifts: readonly {
    readonly module: string;
    readonly recorded: string | null;
    readonly now: string | null;
    readonly isBreaking: boolean;
    readonly differences: readonly {
      readonly kind: string;
      readonly subject: string;
      readonly likelyName?: string;
      readonly isBreaking: boolean;
      readonly errors: readonly { readonly place: { readonly file: string; readonly line: number } }[];
    }[];
  }[];
}

/** `breaking kind subject`, or `compatible …`. */
function differences({ stdout }: Run): readonly string[] {
  const { drifts } = JSON.parse(stdout) as DriftJson;
  return drifts.flatMap((drift) =>
    drift.differences.map(({ isBreaking, kind, subject, likelyName }) =>
      [isBreaking ? "breaking" : "compatible", kind, subject, ...(likelyName ? ["to", likelyName] : [])].join(
        " ",
      ),
    ),
  );
}

const BEFORE = `
export declare class Crane { constructor(id: string); lift(tons: number): number; weigh(): number; stow(load: string): void; readonly id: string; unused(): void }
export declare function open(name: string, depth?: number): string;
export declare function close(name: string | number): void;
export declare function level(): number;
export declare function rate(days: number): number;
export declare class Winch { pull(): void }
export declare const LIMIT: number;
`;

const USE = `
import { close, Crane, level, LIMIT, open, rate, Winch } from "crane";
const crane = new Crane("a");
crane.stow(String(crane.lift(2) + crane.weigh()));
export const text: string = open("x") + crane.id;
close(7);
export const half: number = level() / 2;
export const days: number = rate(LIMIT);
new Winch().pull();
`;

test.each([
  ["nothing", "", "", []],
  ["what is not used", "unused(): void", "", []],
  ["a member that is removed", "weigh(): number; ", "", ["breaking removed Crane.weigh"]],
  [
    "a member with another name",
    "weigh(): number",
    "weighLoad(): number",
    ["breaking renamed Crane.weigh to weighLoad"],
  ],
  [
    "an export with another name",
    "function rate(days",
    "function dailyRate(days",
    ["breaking renamed rate to dailyRate"],
  ],
  [
    "a parameter more that may be left out",
    "rate(days: number)",
    "rate(days: number, year?: number)",
    ["compatible parameter added rate"],
  ],
  [
    "a parameter more that may not",
    "rate(days: number)",
    "rate(days: number, year: number)",
    ["breaking parameter added rate"],
  ],
  [
    "a parameter that takes less, of what we send",
    "close(name: string | number)",
    "close(name: string)",
    ["breaking parameter changed close"],
  ],
  [
    "a parameter that takes less, of what we do not send",
    "close(name: string | number)",
    "close(name: number)",
    ["compatible parameter changed close"],
  ],
  [
    "a result that may be absent",
    "level(): number",
    "level(): number | undefined",
    ["breaking result level"],
  ],
  [
    "a result that promises more",
    "open(name: string, depth?: number): string",
    'open(name: string, depth?: number): "open"',
    ["compatible result open"],
  ],
  ["what was sync and is no more", "level(): number", "level(): Promise<number>", ["breaking async level"]],
  [
    "a class that is a function now",
    "declare class Winch { pull(): void }",
    "declare function Winch(): { pull(): void }",
    ["breaking kind Winch"],
  ],
  [
    "what is deprecated now",
    "lift(tons",
    "\n/** @deprecated Hoist it. */ lift(tons",
    ["compatible deprecated Crane.lift"],
  ],
  [
    "a property that is read only, and only read",
    "stow(load: string): void",
    "stow(load: string): boolean",
    ["compatible result Crane.stow"],
  ],
] as const)("drift reports %s, and whether that breaks the project", (_, old, now, expected) => {
  const root = project({ ...installed("crane", BEFORE, "1.0.0"), "src/a.ts": USE });
  expect(sleeve(root, "drift", "--record").code).toBe(0);
  for (const [file, text] of Object.entries(installed("crane", BEFORE.replace(old, now), "2.0.0")))
    writeFileSync(join(root, file), text);
  const run = sleeve(root, "drift", "--json");
  expect(run.stderr).toBe("");
  expect(differences(run)).toEqual(expected);
  expect(run.code).toBe(expected.some((item) => item.startsWith("breaking")) ? 1 : 0);
});

/** Creates a project with a real package installed. */
function withReal(name: string, alias: string, text: string): string {
  const root = project({ "src/a.ts": text });
  mkdirSync(join(root, "node_modules"));
  cpSync(join(MODULES, alias), join(root, "node_modules", name), { recursive: true });
  return root;
}

test("a real package with a moved subpath, as a folder and as a tarball", () => {
  const root = withReal(
    "nanoid",
    "nanoid-3",
    'import { customAlphabet, nanoid } from "nanoid";\nimport { nanoid as later } from "nanoid/async";\nexport const ids: string[] = [nanoid(), customAlphabet("ab", 4)()];\nexport const id: Promise<string> = later(5);\n',
  );
  sleeve(root, "drift", "--record");
  const folder = sleeve(root, "drift", "--json", "--against", join(MODULES, "nanoid-5"));
  expect(folder.stderr).toBe("");
  expect(differences(folder)).toEqual([
    "compatible result customAlphabet",
    "compatible result nanoid",
    "breaking entry point nanoid/async",
  ]);
  create({ file: join(root, "nanoid.tgz"), gzip: true, cwd: MODULES, sync: true }, ["nanoid-5"]);
  const tarball = sleeve(root, "drift", "--json", "--against", join(root, "nanoid.tgz"));
  expect(tarball.stdout).toBe(folder.stdout);
  const [drift] = (JSON.parse(folder.stdout) as DriftJson).drifts;
  expect(drift?.differences.at(-1)?.errors.map(({ place }) => `${place.file}:${place.line}`)).toEqual([
    "src/a.ts:2",
  ]);
});

test("a real package seven major versions on", () => {
  const root = withReal(
    "commander",
    "commander-7",
    [
      'import { Command, type CommanderStatic, type ParseOptions } from "commander";',
      'const from: ParseOptions = { from: "user" };',
      'const program = new Command("x").option("-a, --all").parse(["-a"], from);',
      'export const name = (whole: CommanderStatic): string => whole.name() + String(program.opts()["all"]);',
    ].join("\n"),
  );
  sleeve(root, "drift", "--record");
  const run = sleeve(root, "drift", "--json", "--against", join(MODULES, "commander"));
  expect(run.stderr).toBe("");
  expect(differences(run).filter((difference) => difference.startsWith("breaking"))).toEqual([
    "breaking removed CommanderStatic",
  ]);
  expect(differences(run)).toContain("compatible kind Command");
});

test.each([
  ["nothing is recorded", [], "NOT_RECORDED"],
  ["what is given is no package", ["--against", "src"], "NO_PACKAGE"],
  ["what is given does not exist", ["--against", "none.tgz"], "NO_PACKAGE"],
])("it says what to do where %s", (_, options, problem) => {
  const root = project({ ...installed("crane", BEFORE), "src/a.ts": USE });
  if (options.length > 0) sleeve(root, "drift", "--record");
  const { code, stderr } = sleeve(root, "drift", ...options);
  expect(code).toBe(2);
  expect(stderr).toContain(`[${problem}]`);
});
