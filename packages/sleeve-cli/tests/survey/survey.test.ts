import { rmSync } from "node:fs";
import { join } from "node:path";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

interface SurveyJson {
  readonly files: number;
  readonly packages: readonly {
    readonly name: string;
    readonly version: string | null;
    readonly files: readonly string[];
    readonly imports: readonly {
      readonly place: { readonly file: string; readonly line: number };
      readonly forms: readonly string[];
    }[];
    readonly members: readonly {
      readonly member: string;
      readonly uses: number;
      readonly kinds: Readonly<Record<string, number>>;
    }[];
    readonly leaks: readonly { readonly export: string; readonly exposes: string; readonly how: string }[];
    readonly verdict: { readonly spread: number; readonly breadth: number; readonly score: number };
  }[];
}

const CRANE = `
import { EventEmitter } from "emits";
export interface Load { tons: number; sling?: { length: number } }
export declare class Crane extends EventEmitter { constructor(id: string); lift(load: Load): this; load: Load; static count: number }
export declare function weigh(load: Load): number;
export declare const LIMIT: number;
export declare enum Side { Port, Starboard }
export default weigh;
`;
const EMITS = "export declare class EventEmitter { on(name: string, then: () => void): this; off(): void }";
const PACKAGES = { ...installed("crane", CRANE, "2.1.0"), ...installed("emits", EMITS) };

function surveyOf(files: Readonly<Record<string, string>>) {
  const root = project({ ...PACKAGES, ...files });
  const run = sleeve(root, "survey", "--json");
  expect(run.stderr).toBe("");
  expect(run.code).toBe(0);
  const survey = JSON.parse(run.stdout) as SurveyJson;
  const crane = survey.packages.find(({ name }) => name === "crane");
  const kinds = Object.fromEntries((crane?.members ?? []).map(({ member, kinds }) => [member, kinds]));
  return {
    survey,
    crane,
    kinds,
    leaks: crane?.leaks.map(({ export: name, exposes, how }) => `${name} ${exposes} ${how}`),
  };
}

describe("survey finds every form of import", () => {
  test.each([
    ['import { weigh } from "crane"; weigh({ tons: 1 });', "named"],
    ['import weigh from "crane"; weigh({ tons: 1 });', "default"],
    ['import * as crane from "crane"; crane.weigh({ tons: 1 });', "namespace"],
    ['import type { Load } from "crane"; export let load: Load;', "type"],
    ['import "crane";', "side effect"],
    ['export * from "crane";', "re-export"],
    ['export { weigh as w } from "crane";', "re-export"],
    ['export const later = () => import("crane");', "dynamic"],
    ['export type L = import("crane").Load;', "import type"],
  ])("%s", (text, form) => {
    const { crane } = surveyOf({ "src/a.ts": text });
    expect(crane?.imports.map(({ forms }) => forms)).toEqual([[form]]);
  });

  test("require in its two spellings", () => {
    const { crane } = surveyOf({
      "src/a.cts": 'import crane = require("crane");\nexport const limit: number = crane.LIMIT;',
      "src/b.cts":
        'declare const require: (id: string) => unknown;\nexport const b: unknown = require("crane");',
    });
    expect(crane?.imports.map(({ place, forms }) => `${place.file}:${place.line} ${forms.join()}`)).toEqual([
      "src/a.cts:1 require",
      "src/b.cts:2 require",
    ]);
  });

  test("any mixture of them, each once, in source order", () => {
    const statements = [
      ['import { weigh } from "crane";', "named"],
      ['import type { Load } from "crane";', "type"],
      ['import "crane";', "side effect"],
      ['import * as all from "crane";', "namespace"],
      ['export * from "crane";', "re-export"],
      ["export {};", undefined],
      ['// import "crane"', undefined],
      ["const text = 'import \"crane\"';", undefined],
    ] as const;
    fc.assert(
      fc.property(fc.uniqueArray(fc.constantFrom(...statements)), (chosen) => {
        const { crane } = surveyOf({
          "src/a.ts": `${chosen.map(([text]) => text).join("\n")}\nexport {};\n`,
        });
        const expected = chosen.flatMap(([, form], index) => (form ? [`${index + 1} ${form}`] : []));
        expect((crane?.imports ?? []).map(({ place, forms }) => `${place.line} ${forms.join()}`)).toEqual(
          expected,
        );
      }),
      { numRuns: 6 },
    );
  });
});

describe("survey follows uses", () => {
  test("through instances that are passed along, into files that import nothing", () => {
    const { kinds, crane } = surveyOf({
      "src/yard.ts": 'import { Crane } from "crane";\nexport const yard = { crane: new Crane("a") };',
      "src/work.ts":
        'import { yard } from "./yard.ts";\nconst { crane } = yard;\ncrane.lift({ tons: 2 }).load.tons;\ncrane.load = { tons: 3 };',
    });
    expect(kinds).toEqual({
      Crane: { new: 1 },
      "Crane.lift": { call: 1 },
      "Crane.load": { read: 1, write: 1 },
      "Load.tons": { read: 1 },
    });
    expect(crane?.files).toEqual(["src/work.ts", "src/yard.ts"]);
  });

  test("through barrels and other names, destructuring and callbacks", () => {
    const { kinds } = surveyOf({
      "src/barrel.ts": 'export { weigh as heft, Crane } from "crane";',
      "src/b.ts": [
        'import { heft as h, type Crane } from "./barrel.ts";',
        "export const all = (cranes: readonly Crane[]) => cranes.map(({ load: { tons: t } }) => t + h({ tons: t }));",
      ].join("\n"),
    });
    expect(kinds).toEqual({
      weigh: { call: 1 },
      Crane: { type: 1 },
      "Crane.load": { read: 1 },
      "Load.tons": { read: 1 },
    });
  });

  test("to members that an outside class inherits from elsewhere", () => {
    const { kinds } = surveyOf({
      "src/a.ts": 'import { Crane } from "crane";\nnew Crane("a").on("x", () => {});',
    });
    expect(kinds).toEqual({ Crane: { new: 1 }, "Crane.on": { call: 1 } });
  });

  test("to subclasses, instanceof, enumerations and statics", () => {
    const { kinds } = surveyOf({
      "src/a.ts": [
        'import { Crane, Side } from "crane";',
        "class Big extends Crane {}",
        "export const is = (x: unknown): boolean => x instanceof Crane || x === Side.Port || Crane.count > 1 || x instanceof Big;",
      ].join("\n"),
    });
    expect(kinds).toEqual({
      Crane: { extend: 1, instanceof: 1, read: 1 },
      "Crane.count": { read: 1 },
      Side: { read: 1 },
      "Side.Port": { read: 1 },
    });
  });

  test("to elements of JSX, once for each", () => {
    const root = project({
      ...installed(
        "deck",
        "export declare function Deck(props: { load?: number; children?: unknown }): null;",
      ),
      "tsconfig.json":
        '{ "compilerOptions": { "strict": true, "module": "nodenext", "jsx": "preserve", "noEmit": true, "types": [] }, "include": ["src"] }',
      "src/a.tsx":
        'import { Deck } from "deck";\nexport const ship: unknown = <Deck load={1}><Deck /></Deck>;\n',
    });
    const { stdout } = sleeve(root, "survey", "--json");
    const [deck] = (JSON.parse(stdout) as SurveyJson).packages;
    expect(deck?.members.find(({ member }) => member === "Deck")?.kinds).toEqual({ call: 2 });
  });

  test("and ignores the same names in the project's own code", () => {
    const { kinds } = surveyOf({
      "src/a.ts": [
        'import { LIMIT } from "crane";',
        "class Crane { lift() {} load = 1; }",
        "const weigh = (tons: number) => tons;",
        "new Crane().lift(); weigh(new Crane().load);",
        "export const limit: number = LIMIT;",
      ].join("\n"),
    });
    expect(kinds).toEqual({ LIMIT: { read: 1 } });
  });
});

test("survey finds the exported signatures that outside types leak into, and no others", () => {
  const { leaks } = surveyOf({
    "src/a.ts": [
      'import { Crane, type Load } from "crane";',
      "export function declared(load: Load): void { void load; }",
      "export const inferred = () => [new Crane('a')];",
      "export class Yard { private hidden?: Load; shown: Load = { tons: 1 }; #deep?: Load; both(): void { const load: Load = this.shown; void load; } }",
      "function inner(load: Load): Load { return load; }",
      "const listed: Load = inner({ tons: 1 });",
      "export { listed };",
      "export const fine = (tons: number): number => inner({ tons }).tons;",
    ].join("\n"),
  });
  expect(leaks).toEqual([
    "declared Load declared",
    "inferred Crane inferred",
    "Yard.shown Load declared",
    "listed Load declared",
  ]);
});

test("the score is the documented formula, and the highest comes first", () => {
  const { survey, crane } = surveyOf({
    "src/a.ts":
      'import { Crane } from "crane";\nexport const make = (): Crane => new Crane("a").lift({ tons: 1 });',
    "src/b.ts": 'import { EventEmitter } from "emits";\nnew EventEmitter().off();',
  });
  expect(crane?.verdict).toEqual({ spread: 3, breadth: 1.41, score: 4.24 });
  expect(survey.packages.map(({ name }) => name)).toEqual(["crane", "emits"]);
});

test.each([
  ["commonjs", 'const { Crane } = require("crane");\nnew Crane("a").lift({ tons: 1 });\n', "require"],
  ["module", 'import { Crane } from "crane";\nnew Crane("a").lift({ tons: 1 });\n', "named"],
])("a project of plain JavaScript needs no config: %s", (type, text, form) => {
  const root = project({ ...PACKAGES, "package.json": JSON.stringify({ type }), "lib/index.js": text });
  rmSync(join(root, "tsconfig.json"));
  const { stdout, stderr } = sleeve(root, "survey", "--json");
  expect(stderr).toBe("");
  const [crane] = (JSON.parse(stdout) as SurveyJson).packages;
  expect(crane?.imports.map(({ forms }) => forms)).toEqual([[form]]);
  expect(crane?.members.map(({ member }) => member)).toContain("Crane.lift");
});

test("the same project gives the same output", () => {
  const root = project({
    ...PACKAGES,
    "src/b.ts": 'import "crane";',
    "src/a.ts": 'import "emits";\nimport { weigh } from "crane";\nweigh({ tons: 1 });',
  });
  const first = sleeve(root, "survey", "--json");
  expect(sleeve(root, "survey", "--json").stdout).toBe(first.stdout);
  expect(first.stdout).toContain('"weigh"');
});

test("a config that only refers to others leads to their files", () => {
  const root = project({
    ...PACKAGES,
    "tsconfig.json":
      '{ "files": [], // nothing of its own\n "references": [{ "path": "./one" }, { "path": "./two/tsconfig.json" }] }',
    "one/tsconfig.json": '{ "compilerOptions": { "composite": true, "module": "nodenext", "types": [] } }',
    "one/a.ts": 'import { weigh } from "crane"; weigh({ tons: 1 });',
    "two/tsconfig.json": '{ "compilerOptions": { "composite": true, "module": "nodenext", "types": [] } }',
    "two/b.ts": 'import { LIMIT } from "crane"; export const l: number = LIMIT;',
  });
  const { stdout, stderr } = sleeve(root, "survey");
  expect(stderr).toBe("");
  expect(stdout).toMatch(/^1 outside package in 2 files/);
  expect(stdout).toMatch(/crane +2\.1\.0 +2 +2 +0/);
});

test.each([
  [
    "a module declares",
    'import type { Crane } from "crane";\ndeclare global { var big: Crane; }\nexport {};\n',
  ],
  ["a script declares", 'declare var big: import("crane").Crane;\n'],
])(
  "what is global, and %s with a type of a package, is followed into files that import nothing",
  (_, text) => {
    const root = project({
      ...installed("crane", "export declare class Crane { lift(): void }"),
      "src/globals.d.ts": text,
      "src/use.ts": "export function up(): void {\n  big.lift();\n}\n",
    });
    const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
      packages: { members: { member: string; places: { file: string }[] }[] }[];
    };
    const lifted = packages[0]?.members.find(({ member }) => member === "Crane.lift");
    expect(lifted?.places.map(({ file }) => file)).toEqual(["src/use.ts"]);
  },
);

test.each([
  [
    "package-lock.json",
    JSON.stringify({
      packages: {
        "node_modules/crane": { version: "1.0.0", deprecated: "use hoist" },
        "node_modules/kit/node_modules/crane": { version: "0.9.0" },
      },
    }),
    "use hoist",
  ],
  [
    "pnpm-lock.yaml",
    "lockfileVersion: '9.0'\n\npackages:\n\n  'crane@0.9.0':\n    resolution: {integrity: sha512-x}\n\n  crane@1.0.0(kit@2.0.0):\n    resolution: {integrity: sha512-y}\n    deprecated: >-\n      use\n      hoist\n\nsnapshots:\n\n  crane@7.0.0: {}\n",
    "use hoist",
  ],
  [
    "pnpm-lock.yaml",
    "lockfileVersion: 5.4\npackages:\n\n  /crane/0.9.0:\n    resolution: {integrity: sha512-x}\n    deprecated: use hoist\n  /crane/1.0.0:\n    dev: false\n",
    "use hoist",
  ],
  [
    "yarn.lock",
    '# yarn lockfile v1\n\n\n"crane@^1.0.0", crane@^1.0.1:\n  version "1.0.0"\n  resolved "x"\n\ncrane@^0.9.0:\n  version "0.9.0"\n',
    null,
  ],
  [
    "yarn.lock",
    '__metadata:\n  version: 8\n\n"crane@npm:^1.0.0":\n  version: 1.0.0\n\n"crane@npm:^0.9.0":\n  version: 0.9.0\n',
    null,
  ],
  ["yarn.lock", "\0 no lockfile", null],
])("the dependency status is read from %s", (file, text, deprecated) => {
  const root = project({
    ...installed("crane", "export declare function lift(): void;"),
    [file]: text,
    "src/a.ts": 'import "crane";\n',
  });
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
    packages: { dependency: { declared: string; installed: string[]; deprecated: string | null } }[];
  };
  const isRead = !text.startsWith("\0");
  expect(packages[0]?.dependency).toEqual({
    declared: isRead ? "transitive" : "undeclared",
    requested: [],
    installed: isRead ? ["0.9.0", "1.0.0"] : ["1.0.0"],
    deprecated,
  });
});

test("files that see outside types through leaks are counted, however they import them", () => {
  const root = project({
    ...installed(
      "crane",
      "export interface Load { readonly tons: number }\nexport declare function weigh(load: Load): number;",
    ),
    ...installed("winch", "export declare function pull(): void;"),
    "src/lift.ts": [
      'import { type Load, weigh } from "crane";',
      "export function lift(load: Load): number { return weigh(load); }",
      "export const hidden = (tons: number): number => weigh({ tons });",
      "",
    ].join("\n"),
    "src/winch.ts": 'import { pull } from "winch";\nexport const haul = (): void => pull();\n',
    "src/barrel.ts": 'export * from "./lift.ts";\n',
    "src/renamed.ts": 'export { lift as raise, hidden } from "./barrel.ts";\n',
    "src/sees-named.ts":
      'import { lift } from "./lift.ts";\nexport const a = (): number => lift({ tons: 1 });\n',
    "src/sees-renamed.ts":
      'import { raise } from "./renamed.ts";\nexport const b = (): number => raise({ tons: 1 });\n',
    "src/sees-whole.ts": 'import * as all from "./lift.ts";\nexport const c = (): number => all.hidden(1);\n',
    "src/sees-nothing.ts":
      'import { hidden } from "./renamed.ts";\nimport { haul } from "./winch.ts";\nexport const d = (): void => { hidden(1); haul(); };\n',
  });
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
    packages: { name: string; affectedFiles: { clients: number } }[];
  };
  // barrel, renamed, and the three that see it.
  expect(packages.map(({ name, affectedFiles }) => [name, affectedFiles.clients]).sort()).toEqual([
    ["crane", 5],
    ["winch", 0],
  ]);
});
