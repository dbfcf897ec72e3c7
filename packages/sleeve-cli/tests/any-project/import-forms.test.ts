// biome-ignore-all lint/suspicious/noTemplateCurlyInString: these are pieces of code
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

/** Ways to load a module by its name; `NAME` is replaced by `"crane"`. */
const LOADS: readonly string[] = [
  "require(NAME)",
  "module.require(NAME)",
  "(require)(NAME)",
  "require!(NAME)",
  "createRequire(import.meta.url)(NAME)",
  "make(import.meta.url)(NAME)",
  "Module.createRequire(import.meta.url)(NAME)",
  "load(NAME)",
  "again(NAME)",
  "import(NAME)",
  "import/* a comment */(NAME)",
  "import\n(NAME)",
  "await import(NAME)",
];

/** Ways to write the name of a module that are known before the code runs. */
const NAMES: readonly string[] = [
  '"crane"',
  "'crane'",
  "`crane`",
  '("crane")',
  '"crane" as string',
  '"crane" satisfies string',
  '"crane"!',
  '"cr" + "ane"',
  "`cr${'ane'}`",
  "CRANE",
  "`${CRANE}`",
  "PART + 'ane'",
];

/** Names that only running the code shows. */
const UNKNOWN: readonly string[] = ["given", "`${given}`", '"cr" + given', "changed", "twice"];

const BEFORE = `import Module, { createRequire as make, createRequire } from "node:module";
const load = make(import.meta.url);
const again = load;
const CRANE = "crane";
const PART = \`cr\` as const;
let changed = "crane";
changed = "kit";
{ const twice = "crane"; }
{ const twice = "kit"; }
declare const given: string;
declare const twice: string;
`;

function office(expressions: readonly string[]) {
  const files = expressions.map((expression, index) => [
    `src/use${index}.ts`,
    `${BEFORE}export const loaded = ${expression.includes("await") ? `async () => ${expression}` : expression};\n`,
  ]);
  const root = project({
    ...installed("crane", "export declare function lift(): number;"),
    ...Object.fromEntries(files),
  });
  writeFileSync(
    join(root, "sleeve.config.ts"),
    'export default { borders: { crane: ["src/adapter.ts"] } };\n',
  );
  return root;
}

interface Surveyed {
  readonly packages: readonly {
    readonly name: string;
    readonly imports: readonly { place: { file: string } }[];
  }[];
  readonly unresolved: readonly { readonly file: string }[];
}

interface Checked {
  readonly borders: readonly { readonly findings: readonly { place: { file: string } }[] }[];
  readonly imports: readonly { readonly name: string; readonly severity: string; place: { file: string } }[];
}

test("every way of loading a module, with every way of naming it, is surveyed and kept within the border", () => {
  const expressions = LOADS.flatMap((load) => NAMES.map((name) => load.replace("NAME", name)));
  expect(expressions).toHaveLength(156);
  const root = office(expressions);
  const all = expressions.map((_, index) => `src/use${index}.ts`).sort();
  const survey = JSON.parse(sleeve(root, "survey", "--imports", "--json").stdout) as Surveyed;
  const crane = survey.packages.find(({ name }) => name === "crane");
  expect(crane?.imports.map(({ place }) => place.file).sort()).toEqual(all);
  expect(survey.unresolved).toEqual([]);
  const check = JSON.parse(sleeve(root, "check", "--json").stdout) as Checked;
  expect(check.borders.flatMap(({ findings }) => findings.map(({ place }) => place.file)).sort()).toEqual(
    all,
  );
  expect(check.imports).toEqual([]);
});

test("a name that is computed when the code runs is a warning of check, which the config can make an error", () => {
  const expressions = LOADS.flatMap((load) => UNKNOWN.map((name) => load.replace("NAME", name)));
  const root = office(expressions);
  const all = expressions.map((_, index) => `src/use${index}.ts`).sort();
  const json = JSON.parse(sleeve(root, "check", "--json").stdout) as Checked;
  expect(json.imports.map(({ name, severity }) => `${severity} ${name}`)).toEqual(
    expressions.map(() => "warning computed"),
  );
  expect(json.imports.map(({ place }) => place.file).sort()).toEqual(all);
  expect(sleeve(root, "check").stdout).toContain(`${expressions.length} warnings`);
  writeFileSync(
    join(root, "sleeve.config.ts"),
    'export default { borders: { crane: ["src/"] }, severities: { computed: "error" } };\n',
  );
  expect(sleeve(root, "check").code).toBe(1);
});

test("a path into node_modules is an import of the package, and is moved", () => {
  const root = project({
    ...installed(
      "crane",
      "export declare function lift(): number;\nexport declare class Rig { hoist(): string }",
    ),
    "node_modules/crane/fp.d.ts": "export declare function weigh(): number;",
    "node_modules/crane/fp.js": "",
    "src/main.ts":
      'import { lift, Rig } from "../node_modules/crane/index.js";\nimport { weigh } from "../node_modules/crane/fp.js";\nexport const all = [lift(), weigh(), new Rig().hoist()];\n',
  });
  expect(sleeve(root, "draft", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(sleeve(root, "move", "crane", "--write", "--uncommitted")).toMatchObject({ code: 0, stderr: "" });
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
});

test("a member or package that the project does not use is refused with a similar name", () => {
  const root = project({
    ...installed("crane", "export declare class Rig { hoist(): string }"),
    "src/main.ts": 'import { Rig } from "crane";\nnew Rig().hoist();\n',
  });
  const refused = (...options: readonly string[]) => sleeve(root, "survey", ...options).stderr;
  expect(refused("--member", "hoistt")).toBe(
    "sleeve: No use of hoistt found in 1 files. Did you mean hoist? [NOT_USED]\n",
  );
  expect(refused("--member", "Rig.hoits")).toContain("Did you mean Rig.hoist?");
  expect(refused("--package", "crame")).toContain("Did you mean crane?");
});
