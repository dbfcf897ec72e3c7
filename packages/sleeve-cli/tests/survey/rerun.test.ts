import { appendFileSync, cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { expect, test } from "vitest";
import { installed, project, type Run, sampled, sleeve, sleeveWith } from "../harness.ts";

const FILES = {
  "package.json": '{ "dependencies": { "crane": "^1.0.0" } }',
  ...installed(
    "crane",
    "export interface Load { tons: number }\nexport declare class Crane { lift(load: Load): void; lower(): Load }\nexport declare function weigh(load: Load): number;\n",
  ),
  "src/loads.ts": [
    'import { weigh, type Load } from "crane";',
    "// The heaviest.",
    "export function heaviest(loads: readonly Load[]): number {",
    "  const all = loads.map((load) => weigh(load));",
    "  return Math.max(...all);",
    "}",
    "export function idle(): number {",
    "  return 1;",
    "}",
    "export const first = (loads: Load[]) => loads[0];",
    "",
  ].join("\n"),
  "src/quay.ts": [
    'import { Crane } from "crane";',
    'import { first, heaviest } from "./loads.ts";',
    "const crane = new Crane();",
    "export function work(): number { crane.lift({ tons: 1 }); return heaviest([crane.lower()]); }",
    "export const load = first([]);",
    "",
  ].join("\n"),
  "src/desk.ts": [
    "export class Desk {",
    "  readonly name: string;",
    "  constructor(name: string) {",
    "    this.name = name;",
    "  }",
    "  set title(text: string) {",
    "    void text;",
    "  }",
    "}",
    "",
  ].join("\n"),
  "src/shelf.ts": [
    "export class Shelf {",
    "  size;",
    "  constructor(size: number) {",
    "    this.size = size;",
    "  }",
    "}",
    "",
  ].join("\n"),
  "src/office.ts": [
    'import { load, work } from "./quay.ts";',
    "export function open(): string {",
    "  const count = 1;",
    "  return String(work() + count);",
    "}",
    "export const tons = load?.tons;",
    "",
  ].join("\n"),
};

/** Changes between two surveys, and whether the second one needs no compiler. */
const CHANGES: readonly (readonly [string, boolean, (root: string) => void])[] = [
  ["nothing", true, () => {}],
  ["a file written again as it was", true, (root) => appendFileSync(join(root, "src/quay.ts"), "")],
  ["a body that speaks of nothing outside", true, edited("src/office.ts", "count = 1", "count = 20")],
  ["such a body, above uses", true, edited("src/loads.ts", "return 1;", "\n\n  return 2;")],
  ["a comment, and spaces", true, edited("src/loads.ts", "// The heaviest.", "\n// Of\n// all,\n\n")],
  ["a constructor's body", true, edited("src/desk.ts", "this.name = name", "this.name = name.trim()")],
  ["a setter's body", true, edited("src/desk.ts", "void text", "console.log(text)")],
  [
    "a constructor's body, which an inferred property follows from",
    false,
    edited("src/shelf.ts", "this.size = size", "this.size = String(size)"),
  ],
  [
    "a new export that no file imports",
    true,
    edited("src/office.ts", "export const", "/** @see open */\nexport const extra = () => 3;\nexport const"),
  ],
  [
    "a new class, and a type",
    true,
    edited("src/desk.ts", "export", "type Free = 1;\nexport class Lamp { on: Free = 1 }\nexport"),
  ],
  [
    "a new declaration with a use",
    false,
    edited("src/loads.ts", "export", "export const more = (load: Load) => weigh(load);\nexport"),
  ],
  [
    "a new declaration of an imported name",
    false,
    edited("src/desk.ts", "export", "export const load = 1;\nexport"),
  ],
  [
    "a new element",
    false,
    edited("src/desk.ts", "export", 'export const lazy = () => import("crane");\nexport'),
  ],
  ["an export less", false, edited("src/loads.ts", "export function idle(): number {\n  return 1;\n}\n", "")],
  [
    "a body with a use more",
    false,
    edited("src/loads.ts", "return Math", "weigh({ tons: all.length });\n  return Math"),
  ],
  ["a body with a use less", false, edited("src/loads.ts", "loads.map((load) => weigh(load))", "[1]")],
  ["an inferred type that others use", false, edited("src/loads.ts", "=> loads[0]", "=> loads.length")],
  ["an import more", false, edited("src/office.ts", "export", 'import { weigh } from "crane";\nexport')],
  ["an added re-export", false, edited("src/office.ts", "export", 'export * from "crane";\nexport')],
  [
    "a new file",
    false,
    (root) => writeFileSync(join(root, "src/new.ts"), 'import "crane";\nexport const x = 1;\n'),
  ],
  ["a file less", false, (root) => rmSync(join(root, "src/office.ts"))],
  ["a file that does not parse", false, edited("src/office.ts", "String(", "String((")],
  ["the package's types", false, edited("node_modules/crane/index.d.ts", "lower(): Load", "lower(): never")],
  ["the package's version", false, edited("node_modules/crane/package.json", "1.0.0", "1.0.1")],
  ["a range in the manifest", false, edited("package.json", "^1.0.0", "1.0.0")],
  ["the compiler's config", false, edited("tsconfig.json", '"strict":true', '"strict":false')],
  [
    "what is kept, broken",
    false,
    (root) => rmSync(join(root, "node_modules/.cache/sleeve"), { recursive: true }),
  ],
];

function edited(file: string, from: string, to: string): (root: string) => void {
  return (root) => {
    const path = join(root, file);
    const text = readFileSync(path, "utf8");
    if (!text.includes(from)) throw new Error(`${file} holds no ${from}`);
    writeFileSync(path, text.replace(from, to));
  };
}

const WITHOUT_COMPILER = pathToFileURL(join(import.meta.dirname, "../fixtures/without-compiler.mjs"));

/** Returns the survey of a copy of a project that has no cache. */
function surveyedAnew(root: string): Run {
  const copy = mkdtempSync(join(tmpdir(), "sleeve-rerun-"));
  try {
    cpSync(root, copy, { recursive: true, filter: (path) => !path.endsWith(".cache") });
    return sleeve(copy, "survey", "--json");
  } finally {
    rmSync(copy, { recursive: true });
  }
}

/** Creates a project with a cached survey. */
function surveyed(): string {
  const root = project(FILES);
  // Twice, because files written during the first run are not trusted.
  for (const _ of [1, 2]) expect(sleeve(root, "survey", "--json").stderr).toBe("");
  return root;
}

test("without the compiler, a second survey equals a first one after each of many changes", {
  timeout: 120_000,
}, () => {
  const root = surveyed();
  for (const [name, needsNoCompiler, make] of CHANGES) {
    if (!needsNoCompiler) continue;
    make(root);
    const second = sleeveWith({ NODE_OPTIONS: `--import ${WITHOUT_COMPILER}` }, root, "survey", "--json");
    expect([name, second]).toEqual([name, surveyedAnew(root)]);
  }
});

test.each(sampled(CHANGES.filter(([, needsNoCompiler]) => !needsNoCompiler)))(
  "a second survey equals a first one after %s",
  (_, __, make) => {
    const root = surveyed();
    make(root);
    const second = sleeve(root, "survey", "--json");
    const anew = surveyedAnew(root);
    expect(second).toEqual(anew);
    expect(sleeve(root, "survey", "--json")).toEqual(anew);
  },
);

test("every case is listed", () => {
  expect([CHANGES.length]).toEqual([27]);
});
