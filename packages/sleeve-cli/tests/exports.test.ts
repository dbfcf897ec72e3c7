import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, type Run, sleeve } from "./harness.ts";

interface ExportsJson {
  readonly exports: number;
  readonly isBreaking: boolean;
  readonly differences: readonly {
    readonly entry: string;
    readonly name: string;
    readonly kind: string;
    readonly consumers: string;
    readonly implementers: string;
    readonly reasons: readonly string[];
  }[];
  readonly exposed: readonly {
    readonly name: string;
    readonly of: string | null;
    readonly through: string;
    readonly isNew: boolean;
    readonly place: { readonly file: string; readonly line: number };
  }[];
}

function parsed({ stdout }: Run): ExportsJson {
  return JSON.parse(stdout) as ExportsJson;
}

/** `name: kind, consumers …, implementers …` of each difference. */
function differencesIn(run: Run): readonly string[] {
  return parsed(run).differences.map(
    ({ name, kind, consumers, implementers }) =>
      `${name}: ${kind}, consumers ${consumers}, implementers ${implementers}`,
  );
}

/** A package that is built: only its declarations matter. */
function builtPackage(declarations: string, more: Readonly<Record<string, string>> = {}): string {
  return project({
    "package.json": JSON.stringify({
      name: "ledger",
      version: "1.0.0",
      type: "module",
      exports: { ".": { types: "./dist/index.d.ts", default: "./dist/index.js" } },
    }),
    "dist/index.d.ts": declarations,
    "src/index.ts": "export {};",
    ...more,
  });
}

/** A change of a type, and whether the new one can be used as the old one, and the old one as the new one. */
const CHANGES: readonly (readonly [before: string, now: string, newFits: boolean, oldFits: boolean])[] = [
  ["string", "string | number", false, true],
  ["string | number", "string", true, false],
  ["string", "number", false, false],
  ["{ a: string }", "{ a: string; b?: number }", true, true],
  ["{ a: string }", "{ a: string; b: number }", true, false],
  ["{ a: string; b: number }", "{ a: string }", false, true],
  ["{ a: string }", "{ a?: string }", false, true],
  ["(load: string) => void", "(load: string | number) => void", true, false],
  ["readonly string[]", "string[]", true, false],
  ["Promise<string>", "Promise<string | null>", false, true],
];

/** Where a type can occur in an export, and who is broken by it: those who need the new one to fit, or the old one. */
const POSITIONS: Readonly<
  Record<string, readonly [declare: (name: string, type: string) => string, ...("read" | "given" | "free")[]]>
> = {
  constant: [(name, type) => `export declare const ${name}: ${type};`, "read", "free"],
  result: [(name, type) => `export declare function ${name}(): ${type};`, "read", "free"],
  parameter: [(name, type) => `export declare function ${name}(value: ${type}): void;`, "given", "free"],
  property: [(name, type) => `export interface ${name} { readonly value: ${type} }`, "read", "given"],
  methodResult: [(name, type) => `export interface ${name} { read(): ${type} }`, "read", "given"],
  methodParameter: [
    (name, type) => `export interface ${name} { write(value: ${type}): void }`,
    "given",
    "read",
  ],
  memberFunction: [
    (name, type) => `export interface ${name} { readonly write: (value: ${type}) => void }`,
    "given",
    "read",
  ],
  genericMember: [(name, type) => `export interface ${name}<T> { read(key: T): ${type} }`, "read", "given"],
  classProperty: [(name, type) => `export declare class ${name} { value: ${type} }`, "read", "free"],
  classParameter: [
    (name, type) => `export declare class ${name} { write(value: ${type}): void }`,
    "given",
    "free",
  ],
  constructorParameter: [
    (name, type) => `export declare class ${name} { constructor(value: ${type}) }`,
    "given",
    "free",
  ],
  alias: [(name, type) => `export type ${name} = ${type};`, "read", "given"],
  list: [(name, type) => `export declare function ${name}(): readonly (${type})[];`, "read", "free"],
  promise: [(name, type) => `export declare function ${name}(): Promise<${type}>;`, "read", "free"],
  hidden: [
    (name, type) =>
      `interface Hidden${name} { readonly value: ${type} }\nexport declare function ${name}(given: Hidden${name}): void;`,
    "given",
    "free",
  ],
  hiddenInMethod: [
    (name, type) =>
      `interface Hidden${name} { readonly value: ${type} }\nexport interface ${name} { write(given: Hidden${name}): void }`,
    "given",
    "read",
  ],
};

test("a change is breaking for those who read a type that got wider, or pass one that got narrower", () => {
  const cases = Object.entries(POSITIONS).flatMap(([position, [declare, consumers, implementers]]) =>
    CHANGES.map(([before, now, newFits, oldFits], index) => {
      const name = `${position}${index}`;
      const breaks = { read: !newFits, given: !oldFits, free: false };
      const effect = (of: "read" | "given" | "free" = "free") => (breaks[of] ? "breaking" : "compatible");
      return {
        before: declare(name, before),
        now: declare(name, now),
        expected: `${name}: changed, consumers ${effect(consumers)}, implementers ${effect(implementers)}`,
        // Only a declaration that is not exported differs, which has no effect on clients.
        isSilent:
          position.startsWith("hidden") && ![effect(consumers), effect(implementers)].includes("breaking"),
      };
    }),
  );
  expect(cases.length).toBe(160);
  const same = Object.entries(POSITIONS).map(([position, [declare]]) => declare(`${position}Same`, "string"));
  const root = builtPackage(["export {};", ...cases.map(({ before }) => before), ...same].join("\n"));
  expect(sleeve(root, "exports", "--record").code).toBe(0);
  writeFileSync(
    join(root, "dist/index.d.ts"),
    ["export {};", ...same, ...cases.map(({ now }) => now).reverse()].join("\n\n"),
  );
  const run = sleeve(root, "exports", "--json");
  const expected = cases.filter(({ isSilent }) => !isSilent).map(({ expected }) => expected);
  expect([...differencesIn(run)].sort()).toEqual(expected.sort());
  expect(run.code).toBe(1);
});

test("what clients cannot notice is no difference", () => {
  const root = builtPackage(`
export declare const LIMIT = 3;
export declare class Ledger { #private; private total; private add(): void; book(load: string): void }
/** Opens. */
export declare function open(name: string): Ledger;
export interface Berth { readonly name: 'a' | 'b'; readonly depth: number; }
export interface Entry { readonly berth: Berth }
`);
  sleeve(root, "exports", "--record");
  writeFileSync(
    join(root, "dist/index.d.ts"),
    `
/** Opens a ledger. */
export declare function open(name: string): Ledger;
export declare const LIMIT = 4;
export interface Entry { readonly berth: Berth }
export declare class Ledger {
    private sum;
    book(load: string): void;
}
export interface Berth {
    readonly name: "a" | "b";
    readonly depth: number
}
`,
  );
  const run = sleeve(root, "exports");
  expect(run.stdout).toBe("5 exports of ledger compared with the record: no difference.\n");
  expect(run.code).toBe(0);
});

test("a change is reported where it is, and not for each export that mentions it", () => {
  const uses = Array.from(
    { length: 30 },
    (_, index) => `export declare function use${index}(load: Load): Load;`,
  );
  const root = builtPackage(`export interface Load { readonly tons: number }\n${uses.join("\n")}`);
  sleeve(root, "exports", "--record");
  writeFileSync(
    join(root, "dist/index.d.ts"),
    `export interface Load { readonly tons: number; readonly id: string }\n${uses.join("\n")}`,
  );
  expect(differencesIn(sleeve(root, "exports", "--json"))).toEqual([
    "Load: changed, consumers compatible, implementers breaking",
  ]);
});

test("exports can be added, removed, of another kind, overloaded, and in namespaces", () => {
  const root = builtPackage(
    `
export interface Kind {}
export declare function gone(): void;
export declare function fewer(name: string, depth: number): void;
export declare function more(name: string): void;
export declare const KEY: unique symbol;
export interface Keyed { [KEY]: string }
export declare enum Side { Port = 1 }
export declare abstract class Base { abstract read(): string; write(): void }
export * as kit from "./kit.js";
`,
    {
      "dist/kit.d.ts":
        "export declare function lift(tons: number): void;\nexport declare const same: number;\n",
    },
  );
  sleeve(root, "exports", "--record");
  writeFileSync(
    join(root, "dist/index.d.ts"),
    `
export declare const Kind: number;
export declare function added(): void;
export declare function fewer(name: string): void;
export declare function more(name: string): void;
export declare function more(id: number): void;
export declare const KEY: unique symbol;
export interface Keyed { [KEY]: string; later?: string }
export declare enum Side { Port = 1, Starboard = 2 }
export declare abstract class Base { abstract read(): string; abstract write(): void; abstract stop(): void }
export * as kit from "./kit.js";
`,
  );
  writeFileSync(
    join(root, "dist/kit.d.ts"),
    "export declare function lift(tons: string): void;\nexport declare const same: number;\n",
  );
  expect(differencesIn(sleeve(root, "exports", "--json"))).toEqual([
    "Base: changed, consumers compatible, implementers breaking",
    "Keyed: changed, consumers compatible, implementers compatible",
    "Kind: changed, consumers breaking, implementers compatible",
    "Side: changed, consumers breaking, implementers compatible",
    "added: added, consumers compatible, implementers compatible",
    "fewer: changed, consumers breaking, implementers compatible",
    "gone: removed, consumers breaking, implementers breaking",
    "kit.lift: changed, consumers breaking, implementers compatible",
    "more: changed, consumers compatible, implementers compatible",
  ]);
});

test("types that clients see and cannot import are findings when they are new", () => {
  const before = `export {};
import type { Rope } from "ropes";
interface Options { readonly deep: Depth }
type Depth = number;
export declare function open(options: Options): Rope;
export declare namespace Kit { interface Public { readonly a: string } }
export declare function kit(): Kit.Public;
`;
  const root = builtPackage(before, installed("ropes", "export interface Rope { readonly length: number }"));
  const recorded = sleeve(root, "exports", "--record", "--json");
  const found = (run: Run) =>
    parsed(run).exposed.map(
      ({ name, of, through, isNew, place }) =>
        `${of ?? "private"} ${name} in ${through}${isNew ? ", new" : ""} ${place.file}:${place.line}`,
    );
  expect(found(recorded)).toEqual([
    "private Depth in open dist/index.d.ts:3",
    "private Options in open dist/index.d.ts:5",
    "ropes Rope in open dist/index.d.ts:5",
  ]);
  expect(sleeve(root, "exports").code).toBe(0);
  writeFileSync(
    join(root, "dist/index.d.ts"),
    `${before}interface Extra { readonly a: 1 }\nexport declare function extra(): Extra;\n`,
  );
  const run = sleeve(root, "exports", "--json");
  expect(found(run)).toContain("private Extra in extra, new dist/index.d.ts:9");
  expect([run.code, parsed(run).isBreaking]).toEqual([1, false]);
});

test("source files can be the entry points, and a published version the other side", () => {
  const root = project({
    "package.json": JSON.stringify({ name: "ledger", version: "2.0.0", type: "module" }),
    "src/index.ts":
      'import type { Berth } from "./berth.ts";\nexport const open = (berth: Berth) => berth.name;\n',
    "src/berth.ts": "export interface Berth { readonly name: string }\n",
  });
  const recorded = sleeve(root, "exports", "--record", "--entry", "src/index.ts", "--json");
  expect(parsed(recorded).exposed.map(({ name, place }) => `${name} ${place.file}:${place.line}`)).toEqual([
    "Berth src/index.ts:1",
  ]);
  writeFileSync(
    join(root, "src/berth.ts"),
    "export interface Berth { readonly name: string; readonly depth: number }\n",
  );
  // The record has the entry points.
  expect(differencesIn(sleeve(root, "exports", "--json"))).toEqual([
    "open: changed, consumers breaking, implementers compatible",
  ]);
  const published = builtPackage("export declare function open(berth: { readonly name: string }): string;");
  const built = builtPackage("export declare function open(berth: { readonly id: string }): string;");
  expect(differencesIn(sleeve(built, "exports", "--against", published, "--json"))).toEqual([
    "open: changed, consumers breaking, implementers compatible",
  ]);
});

test("each wrong input ends with one sentence", () => {
  const unbuilt = project({
    "package.json": JSON.stringify({ name: "ledger", exports: "./dist/index.js", types: "dist/index.d.ts" }),
    "src/index.ts": "export const a: number = 1;",
  });
  const cases: readonly (readonly [root: string, args: readonly string[], code: string])[] = [
    [unbuilt, [], "NOT_RECORDED"],
    [unbuilt, ["--record"], "NOT_BUILT"],
    [unbuilt, ["--record", "--entry", "src/other.ts"], "NO_SUCH_FILE"],
    [unbuilt, ["--record", "--entry", "../other.ts"], "NO_SUCH_FILE"],
    [
      project({ "package.json": '{ "types": "../outside.d.ts" }', "src/index.ts": "" }),
      ["--record"],
      "NOT_BUILT",
    ],
    [unbuilt, ["--against", "./nowhere"], "NO_PACKAGE"],
    [builtPackage("export {};", { "sleeve.exports.json": "{" }), [], "NOT_RECORDED"],
    [builtPackage("export {};", { "sleeve.exports.json": '{"entries":{}}' }), [], "NOT_RECORDED"],
  ];
  for (const [root, args, code] of cases) {
    const { code: exit, stderr, stdout } = sleeve(root, "exports", ...args);
    expect(stderr, args.join(" ")).toMatch(new RegExp(`^sleeve: [^\\n]+ \\[${code}\\]\\n$`));
    expect([exit, stdout]).toEqual([2, ""]);
  }
  expect(cases.length).toBe(8);
  expect(readFileSync(join(unbuilt, "package.json"), "utf8")).toContain("ledger");
});
