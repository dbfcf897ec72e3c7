/** A case for a survey: files, with their imports and uses of outside packages. */
export interface Trap {
  readonly trap: string;
  /** By name; a text alone is `a.ts`. */
  readonly files: string | Readonly<Record<string, string>>;
  /** `package form`, by file, in source order. */
  readonly imports: readonly string[];
  /** `member uses`, in the order of their names. */
  readonly uses: readonly string[];
}

/** The installed packages. */
export const PACKAGES: Readonly<Record<string, string>> = {
  crane: `
import { Emitter } from "emits";
export interface Load { tons: number; sling?: { length: number }; "net weight"?: number }
export declare class Crane extends Emitter { constructor(id: string); lift(load: Load): this; load: Load; get top(): number; static count: number; static of(id: string): Crane; [Symbol.iterator](): Iterator<Load>; "swing arm"(): void; jib?: { raise(): void } }
export declare function weigh(load: Load): number;
export declare function each<T>(all: readonly T[], then: (one: T, crane: Crane) => void): Promise<Crane[]>;
export declare const LIMIT: number;
export declare enum Side { Port, Starboard }
export declare namespace deep { namespace er { function dig(): Load } }
export type Pair<T> = readonly [T, T];
export declare function pair(): Pair<Crane>;
export declare function isCrane(value: unknown): value is Crane;
export declare const yard: { crane: Crane; cranes: Map<string, Crane> };
declare const standard: typeof weigh & { unit: string };
export default standard;
`,
  emits: "export declare class Emitter { on(name: string, then: () => void): this; off(): void }",
  whole:
    "declare function whole(n: number): whole.Part;\ndeclare namespace whole { interface Part { size: number } const VERSION: string }\nexport = whole;\n",
};

const CRANE = 'import { Crane } from "crane";\n';

function trap(
  name: string,
  files: Trap["files"],
  imports: readonly string[],
  ...uses: readonly string[]
): Trap {
  return { trap: name, files, imports, uses };
}

export const TRAPS: readonly Trap[] = [
  trap("a named import", 'import { weigh } from "crane";\nweigh({ tons: 1 });', ["crane named"], "weigh 1"),
  trap(
    "a named import under another name",
    'import { weigh as w } from "crane";\nw({ tons: 1 });',
    ["crane named"],
    "weigh 1",
  ),
  trap("a default import", 'import heft from "crane";\nheft({ tons: 1 });', ["crane default"], "standard 1"),
  trap(
    "the default by its name",
    'import { default as heft } from "crane";\nheft.unit;',
    ["crane named"],
    "standard 1",
    "unit 1",
  ),
  trap(
    "a namespace",
    'import * as c from "crane";\nc.weigh({ tons: c.LIMIT });',
    ["crane namespace"],
    "LIMIT 1",
    "weigh 1",
  ),
  trap(
    "a default with a namespace",
    'import heft, * as c from "crane";\nheft(c.yard.crane.load);',
    ["crane default, namespace"],
    "Crane.load 1",
    "crane 1",
    "standard 1",
    "yard 1",
  ),
  trap(
    "a default with names",
    'import heft, { LIMIT } from "crane";\nheft({ tons: LIMIT });',
    ["crane default, named"],
    "LIMIT 1",
    "standard 1",
  ),
  trap(
    "a type alone",
    'import type { Load } from "crane";\nexport const a: Load = { tons: 1 };',
    ["crane type"],
    "Load 1",
  ),
  trap(
    "a type among values",
    'import { type Load, weigh } from "crane";\nexport const a = (l: Load): number => weigh(l);',
    ["crane type, named"],
    "Load 1",
    "weigh 1",
  ),
  trap("for its side effects", 'import "crane";', ["crane side effect"]),
  trap(
    "twice, once for types",
    'import { weigh } from "crane";\nimport type { Load } from "crane";\nexport const a = (l: Load): number => weigh(l);',
    ["crane named", "crane type"],
    "Load 1",
    "weigh 1",
  ),
  trap(
    "import and require in one",
    { "a.cts": 'import c = require("crane");\nexport const l: number = c.LIMIT;' },
    ["crane require"],
    "LIMIT 1",
  ),
  trap(
    "a module that is exported whole",
    { "a.cts": 'import whole = require("whole");\nexport const p: whole.Part = whole(2);' },
    ["whole require"],
    "Part 1",
    "whole 2",
  ),
  trap(
    "require, taken apart",
    { "a.js": 'const { Crane: C, weigh } = require("crane");\nweigh(new C("a").load);' },
    ["crane require"],
    "Crane 2",
    "Crane.load 1",
    "weigh 2",
  ),
  trap(
    "require, in a condition",
    { "a.js": 'const c = globalThis.x ? require("crane") : undefined;\nif (c) c.weigh({ tons: 1 });' },
    ["crane require"],
    "weigh 1",
  ),
  trap(
    "require, of a member at once",
    { "a.js": 'require("crane").weigh({ tons: 1 });' },
    ["crane require"],
    "weigh 1",
  ),
  trap(
    "require, within a function",
    { "a.js": 'exports.later = () => require("crane").LIMIT;' },
    ["crane require"],
    "LIMIT 1",
  ),
  trap(
    "a function called require",
    'const require = (name: string): string => name;\nexport const a: string = require("crane-like");',
    [],
  ),
  trap(
    "an import that is waited for",
    'const { weigh } = await import("crane");\nweigh({ tons: 1 });\nexport {};',
    ["crane dynamic"],
    "weigh 1",
  ),
  trap(
    "an import that is chained",
    'export const a = import("crane").then((c) => c.weigh({ tons: 1 }));',
    ["crane dynamic"],
    "weigh 1",
  ),
  trap("an import of a template without parts", "export const a = import(`crane`);", ["crane dynamic"]),
  trap("an import in a text", "export const a = 'import { weigh } from \"crane\"';", []),
  trap("an import in a comment", '// import { weigh } from "crane";\n/* import "crane" */\nexport {};', []),
  trap("an import in a regular expression", 'export const a = /import "crane"/;', []),
  trap("everything re-exported", 'export * from "crane";', ["crane re-export"]),
  trap("everything re-exported under a name", 'export * as c from "crane";', ["crane re-export"]),
  trap("a name re-exported", 'export { weigh as heft } from "crane";', ["crane re-export"]),
  trap("a type re-exported", 'export type { Load } from "crane";', ["crane re-export"]),
  trap("imported, then re-exported", 'import { weigh } from "crane";\nexport { weigh };', ["crane named"]),
  trap(
    "through a barrel",
    {
      "a.ts": 'import { weigh } from "./b.ts";\nweigh({ tons: 1 });',
      "b.ts": 'export { weigh } from "crane";',
    },
    ["crane re-export"],
    "weigh 1",
  ),
  trap(
    "through two barrels, renamed twice",
    {
      "a.ts": 'import { z } from "./b.ts";\nz({ tons: 1 });',
      "b.ts": 'export { y as z } from "./c.ts";',
      "c.ts": 'export { weigh as y } from "crane";',
    },
    ["crane re-export"],
    "weigh 1",
  ),
  trap(
    "through a barrel of everything",
    { "a.ts": 'import { Crane } from "./b.ts";\nnew Crane("a");', "b.ts": 'export * from "crane";' },
    ["crane re-export"],
    "Crane 1",
  ),
  trap(
    "through a barrel's default",
    {
      "a.ts": 'import Boss from "./b.ts";\nnew Boss("a").off();',
      "b.ts": 'export { Crane as default } from "crane";',
    },
    ["crane re-export"],
    "Crane 1",
    "Crane.off 1",
  ),
  trap(
    "a type that is imported where it stands",
    'export let a: import("crane").Load;',
    ["crane import type"],
    "Load 1",
  ),
  trap(
    "the type of a module",
    'export let a: typeof import("crane");\nexport const b = (): number => a.LIMIT;',
    ["crane import type"],
    "LIMIT 1",
  ),
  trap(
    "a type in a script's comment",
    { "a.js": '/** @type {import("crane").Load} */\nexport const a = { tons: 1 };' },
    ["crane import type"],
    "Load 1",
  ),
  trap("a reference by three slashes", '/// <reference types="crane" />\nexport {};', ["crane reference"]),
  trap(
    "an instance that is passed along",
    `${CRANE}const lift = (c: Crane): void => void c.lift({ tons: 1 });\nlift(new Crane("a"));`,
    ["crane named"],
    "Crane 2",
    "Crane.lift 1",
  ),
  trap(
    "an instance in a field",
    `${CRANE}class Yard { crane = new Crane("a"); }\nnew Yard().crane.load.tons;`,
    ["crane named"],
    "Crane 1",
    "Crane.load 1",
    "Load.tons 1",
  ),
  trap(
    "an instance that is returned",
    `${CRANE}const make = () => new Crane("a");\nmake().top;`,
    ["crane named"],
    "Crane 1",
    "Crane.top 1",
  ),
  trap(
    "an instance taken apart",
    `${CRANE}const { load: { tons } } = new Crane("a");\nvoid tons;`,
    ["crane named"],
    "Crane 1",
    "Crane.load 1",
    "Load.tons 1",
  ),
  trap(
    "an instance taken apart in parameters",
    `${CRANE}export const f = ({ load }: Crane): number => load.tons;`,
    ["crane named"],
    "Crane 1",
    "Crane.load 1",
    "Load.tons 1",
  ),
  trap(
    "taken apart into what is there",
    `${CRANE}let top: number;\n({ top } = new Crane("a"));\nvoid top;`,
    ["crane named"],
    "Crane 1",
  ),
  trap(
    "an instance in a collection",
    'import { yard } from "crane";\nyard.cranes.get("a")?.lift({ tons: 1 });',
    ["crane named"],
    "Crane.lift 1",
    "cranes 1",
    "yard 1",
  ),
  trap(
    "an instance out of a generic",
    'import { each } from "crane";\nvoid each([1], (n, c) => c.lift({ tons: n })).then(([first]) => first?.off());',
    ["crane named"],
    "Crane.lift 1",
    "Crane.off 1",
    "each 1",
  ),
  trap(
    "an instance out of a tuple",
    'import { pair } from "crane";\npair()[0].top;',
    ["crane named"],
    "Crane.top 1",
    "pair 1",
  ),
  trap(
    "an instance narrowed by a guard",
    'import { isCrane } from "crane";\nexport const f = (x: unknown): number => (isCrane(x) ? x.top : 0);',
    ["crane named"],
    "Crane.top 1",
    "isCrane 1",
  ),
  trap(
    "an instance in another file, nothing imported",
    {
      "a.ts": 'import { c } from "./b.ts";\nc.lift({ tons: 1 });',
      "b.ts": `${CRANE}export const c = new Crane("a");`,
    },
    ["crane named"],
    "Crane 1",
    "Crane.lift 1",
  ),
  trap(
    "fluent calls",
    `${CRANE}new Crane("a").lift({ tons: 1 }).lift({ tons: 2 });`,
    ["crane named"],
    "Crane 1",
    "Crane.lift 2",
  ),
  trap(
    "an optional call",
    `${CRANE}new Crane("a").jib?.raise();`,
    ["crane named"],
    "Crane 1",
    "Crane.jib 1",
    "raise 1",
  ),
  trap(
    "a member by its text",
    `${CRANE}new Crane("a")["swing arm"]();`,
    ["crane named"],
    "Crane 1",
    "Crane.swing arm 1",
  ),
  trap(
    "a member by a template",
    `${CRANE}new Crane("a")[\`top\`];`,
    ["crane named"],
    "Crane 1",
    "Crane.top 1",
  ),
  trap(
    "a key with a blank, in data",
    'import type { Load } from "crane";\nexport const f = (l: Load): unknown => l["net weight"];',
    ["crane type"],
    "Load 1",
    "Load.net weight 1",
  ),
  trap(
    "an inherited member",
    `${CRANE}new Crane("a").on("x", () => {});`,
    ["crane named"],
    "Crane 1",
    "Crane.on 1",
  ),
  trap(
    "a static member",
    `${CRANE}Crane.of("a");\nCrane.count;`,
    ["crane named"],
    "Crane 2",
    "Crane.count 1",
    "Crane.of 1",
  ),
  trap(
    "a class that is extended",
    `${CRANE}export class Big extends Crane { big(): number { return this.top; } }`,
    ["crane named"],
    "Crane 1",
    "Crane.top 1",
  ),
  trap(
    "a call of super",
    `${CRANE}export class Big extends Crane { override lift(): this { return super.lift({ tons: 1 }); } }`,
    ["crane named"],
    "Crane 1",
    "Crane.lift 1",
  ),
  trap(
    "an interface that is extended",
    'import type { Load } from "crane";\nexport interface Big extends Load { big: true }',
    ["crane type"],
    "Load 1",
  ),
  trap(
    "instanceof",
    `${CRANE}export const f = (x: unknown): boolean => x instanceof Crane;`,
    ["crane named"],
    "Crane 1",
  ),
  trap("a patch", `${CRANE}Crane.count = 3;`, ["crane named"], "Crane 1", "Crane.count 1"),
  trap(
    "a value handed to somebody else",
    'import { weigh } from "crane";\nexport const f = [{ tons: 1 }].map(weigh);',
    ["crane named"],
    "weigh 1",
  ),
  trap(
    "a value in short notation",
    'import { LIMIT, weigh } from "crane";\nexport const f = { weigh, LIMIT };',
    ["crane named"],
    "LIMIT 1",
    "weigh 1",
  ),
  trap(
    "a value that is spread",
    'import { yard } from "crane";\nexport const f = { ...yard };',
    ["crane named"],
    "yard 1",
  ),
  trap(
    "a member that is spread over",
    `${CRANE}export const f = (c: Crane): unknown => ({ ...c.load, tons: 3 });`,
    ["crane named"],
    "Crane 1",
    "Crane.load 1",
  ),
  trap(
    "an enumeration",
    'import { Side } from "crane";\nexport const f = (s: Side): boolean => s === Side.Port;',
    ["crane named"],
    "Side 2",
    "Side.Port 1",
  ),
  trap(
    "namespaces within",
    'import { deep } from "crane";\ndeep.er.dig().tons;',
    ["crane named"],
    "Load.tons 1",
    "deep 1",
    "dig 1",
    "er 1",
  ),
  trap(
    "a generic alias",
    'import type { Load, Pair } from "crane";\nexport let p: Pair<Load>;',
    ["crane type"],
    "Load 1",
    "Pair 1",
  ),
  trap(
    "a type in a constraint",
    'import type { Load } from "crane";\nexport const f = <T extends Load>(l: T): number => l.tons;',
    ["crane type"],
    "Load 1",
    "Load.tons 1",
  ),
  trap(
    "a type query",
    'import { weigh } from "crane";\nexport type W = ReturnType<typeof weigh>;',
    ["crane named"],
    "weigh 1",
  ),
  trap(
    "an assertion",
    'import type { Load } from "crane";\nexport const f = (x: unknown): number => (x as Load).tons;',
    ["crane type"],
    "Load 1",
    "Load.tons 1",
  ),
  trap(
    "satisfies",
    'import type { Load } from "crane";\nexport const f = { tons: 1 } satisfies Load;',
    ["crane type"],
    "Load 1",
  ),
  trap(
    "a tagged template",
    {
      "a.ts":
        'import * as c from "crane";\nconst tag = c.weigh as unknown as (t: TemplateStringsArray) => void;\ntag`x`;',
    },
    ["crane namespace"],
    "weigh 1",
  ),
  trap(
    "a name of the project's own in an inner scope",
    'import { weigh } from "crane";\nexport const f = (weigh: number): number => weigh + 1;\nweigh({ tons: 1 });',
    ["crane named"],
    "weigh 1",
  ),
  trap(
    "a class of the project's own with the same members",
    "class Crane { lift(): void {} load = { tons: 1 }; }\nnew Crane().lift();\nexport const t: number = new Crane().load.tons;",
    [],
  ),
  trap("a property of the same name", "export const o = { weigh: 1 };\no.weigh;", []),
  trap(
    "the same word in a text and a comment",
    'import { LIMIT } from "crane";\n// weigh lift Crane\nexport const t: unknown[] = ["weigh", LIMIT];',
    ["crane named"],
    "LIMIT 1",
  ),
  trap(
    "a tuple of nothing, where a type is inferred",
    'import { weigh } from "crane";\nexport const o = { none: [] as [], tons: weigh({ tons: 1 }) };\nexport class Empty { items: [] = []; }',
    ["crane named"],
    "weigh 1",
  ),
  trap("an import that nothing uses", 'import { weigh } from "crane";\nexport {};', ["crane named"]),
  trap(
    "a package without types",
    { "a.js": 'import { go, stop as halt } from "bare";\ngo();\nhalt.now;' },
    ["bare named"],
    "go 1",
    "stop 1",
  ),
  trap(
    "a module that is called where it is required",
    { "a.js": 'const part = require("whole")(7);\nrequire("bare")("office");\nexports.size = part.size;' },
    ["whole require", "bare require"],
    "whole 1",
    "Part.size 1",
    "bare 1",
  ),
  trap("a part of a package", 'import { arm } from "crane/parts";\narm();', ["crane named"], "arm 1"),
  trap("a package with a scope", 'import { kit } from "@deck/kit";\nkit();', ["@deck/kit named"], "kit 1"),
  trap(
    "line ends of another kind, and a mark",
    '\uFEFFimport { weigh } from "crane";\r\n\r\nweigh({ tons: 1 });\r\n',
    ["crane named"],
    "weigh 1",
  ),
  trap(
    "names in other scripts",
    'import { weigh as 重さ } from "crane";\nexport const π = 重さ({ tons: 1 });',
    ["crane named"],
    "weigh 1",
  ),
  trap(
    "a file that imports itself, and one that imports it",
    {
      "a.ts": 'import "./a.ts";\nimport { b } from "./b.ts";\nexport const a = (): number => b();',
      "b.ts":
        'import { a } from "./a.ts";\nimport { LIMIT } from "crane";\nexport const b = (): number => LIMIT || a();',
    },
    ["crane named"],
    "LIMIT 1",
  ),
  trap(
    "an alias of the compiler's",
    'import { weigh } from "cranes-of-ours";\nweigh({ tons: 1 });',
    [],
    "weigh 1",
  ),
];
