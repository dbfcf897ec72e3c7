import { mkdirSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const FIXTURES = join(import.meta.dirname, "../fixtures");

interface FindingJson {
  readonly name: string;
  readonly member: string | null;
  readonly place: { readonly file: string; readonly line: number; readonly column: number };
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
}

interface CheckJson {
  readonly conforms: boolean;
  readonly wrappers: readonly {
    readonly wrapper: string;
    readonly conforms: boolean;
    readonly members: readonly { readonly member: string; readonly findings: readonly FindingJson[] }[];
    readonly findings: readonly FindingJson[];
  }[];
  readonly borders: readonly { readonly package: string; readonly findings: readonly FindingJson[] }[];
}

function findingsOf({ wrappers }: CheckJson): Record<string, string[]> {
  return Object.fromEntries(
    wrappers.map(({ wrapper, members, findings }) => [
      wrapper.split("#")[1] ?? "",
      [...members.flatMap((member) => member.findings), ...findings].map(
        ({ name, member, place }) => `${name} ${member} ${place.line}`,
      ),
    ]),
  );
}

test("check reports each fault of a wrong wrapper with its place and remedy", () => {
  const { code, stdout, stderr } = sleeve(join(FIXTURES, "wrong-wrappers"), "check", "--json");
  const result = JSON.parse(stdout) as CheckJson;
  expect([code, stderr, result.conforms]).toEqual([1, "", false]);
  expect(findingsOf(result)).toEqual({
    MissingBell: ["missing mute 3"],
    NarrowBell: ["parameter ring 17"],
    LooseBell: ["unproven name 28", "readonly volume 29", "async ring 30", "kind rings 33", "async mute 34"],
    adaptedBell: ["missing name 6", "result rings 9", "async mute 10", "extra tolls 11"],
  });
  const adapted = result.wrappers.at(-1)?.members.flatMap(({ findings }) => findings);
  expect(adapted?.[0]?.remedy).toBe('Did you mean "label"?');
  expect(result.borders[0]?.findings).toEqual([
    expect.objectContaining({ name: "border", place: { file: "src/elsewhere.ts", line: 1, column: 22 } }),
  ]);
});

test("check prints the same findings as text", () => {
  const { code, stdout } = sleeve(FIXTURES, "check", "wrong-wrappers");
  expect(code).toBe(1);
  expect(stdout).toContain(
    [
      "  parameter  ring  src/class-bells.ts:17:9",
      "      17 |   async ring(times: number): Promise<string> {",
      "         |         ^^^^",
      '      expected  times: number | "once"',
      "      found     times: number",
      "      remedy    Accept everything that the target sends as times.",
    ].join("\n"),
  );
  expect(stdout.trimEnd().split("\n").at(-1)).toBe("4 wrappers and 1 border checked: 12 findings.");
});

/** Checks targets with one wrapper each in one run. */
function judge(cases: readonly (readonly [target: string, wrapper: string, ...rest: unknown[]])[]) {
  const files = cases.map(
    ([target, wrapper], index) => [`src/a${index}.ts`, `export ${target}\nexport ${wrapper}\n`] as const,
  );
  const targets = Object.fromEntries(files.map(([file]) => [`${file}#T`, [`${file}#w`]]));
  const root = project({
    ...Object.fromEntries(files),
    "sleeve.config.ts": `export default { targets: ${JSON.stringify(targets)} };`,
  });
  const { stdout, stderr } = sleeve(root, "check", "--json");
  expect(stderr).toBe("");
  return (JSON.parse(stdout) as CheckJson).wrappers.map(({ members, findings }, index) => [
    ...(cases[index] ?? []).slice(0, 2),
    [...members.flatMap((member) => member.findings), ...findings].map(
      ({ name, member }) => `${name} ${member}`,
    ),
  ]);
}

test("check accepts conforming wrappers in every form", () => {
  const cases: readonly [string, string][] = [
    ["interface T { a: number; b(x: string): void }", "class w { a = 1; b(_x: string): void {} }"],
    ["interface T { a?: number }", "const w: { a?: number } = {};"],
    ["interface T { a?(): void }", "class w {}"],
    ["interface T { readonly a: number }", "class w { get a(): number { return 1; } }"],
    ["interface T { b(x: string, y: number): void }", "class w { b(): void {} }"],
    [
      "interface T { b(x: string): void }",
      "class w { b(x: string | number, more?: boolean): void { void [x, more]; } }",
    ],
    [
      "interface T { b(...xs: string[]): number }",
      "class w { b(...xs: string[]): number { return xs.length; } }",
    ],
    ["interface T { b<X>(x: X): X }", "class w { b<Y>(y: Y): Y { return y; } }"],
    [
      "interface T { b(x: string): string; b(x: number): number }",
      "class w { b(x: string): string; b(x: number): number; b(x: never): never { return x; } }",
    ],
    ["interface T { b(): Promise<void> }", "const w = (): T => ({ b: async () => {} });"],
    ["interface T { b(): Promise<void> }", "const w = async () => ({ b: async () => {} });"],
    ["type T = (x: string) => number;", "const w = (x: string) => x.length;"],
    ["interface T { a: number }", "const w = Object.assign(() => 'called', { a: 1 });"],
    [
      "interface T<X> { a(): Promise<X>; all(): Iterable<X> }",
      "class w implements T<string> { async a() { return ''; } *all() { yield ''; } }",
    ],
    ["interface T<X> { a(): Promise<X> }", "const w: T<number> = { a: async () => 1 };"],
    [
      "interface T { [Symbol.iterator](): Iterator<number> }",
      "class w { *[Symbol.iterator]() { yield 1; } }",
    ],
    ["interface T { [name: string]: number }", "const w = { a: 1 };"],
    ["type T = Readonly<{ a: number }>;", "class w { get a(): number { return 1; } }"],
    ["type T = new (x: string) => { a: number };", "class w { constructor(_x: string) {} a = 1; }"],
    ["interface T { readonly self: T }", "class w { readonly self: w = this; }"],
    ["abstract class T { abstract b(): number }", "class w extends T { override b(): number { return 1; } }"],
    ["type T = { [K in 'a' | 'b']: number };", "const w = { a: 1, b: 2 };"],
  ];
  expect(judge(cases)).toEqual(cases.map((testCase) => [...testCase, []]));
});

test("check reports faults that assignability accepts", () => {
  const cases: readonly [string, string, string[]][] = [
    [
      "interface T { b(x: string | number): void }",
      "class w { b(x: string): void { void x; } }",
      ["parameter b"],
    ],
    [
      "interface T { b(then: (x: string) => void): void }",
      "class w { b(then: (x: number) => void): void { void then; } }",
      ["parameter b"],
    ],
    ["interface T { b(): void }", "class w { async b(): Promise<void> {} }", ["async b"]],
    ["interface T { b(): Promise<number> }", "class w { b(): number { return 1; } }", ["async b"]],
    ["interface T { b(): number }", "class w { async b(): Promise<number> { return 1; } }", ["async b"]],
    [
      "interface T { b(): Promise<number> }",
      "class w { async b(): Promise<string> { return ''; } }",
      ["result b"],
    ],
    ["interface T { b(x: string): number }", "class w { b(x: any): number { return x; } }", ["unproven b"]],
    ["interface T { b(x: string): number }", "class w { b(x: string): any { return x; } }", ["unproven b"]],
    ["interface T { b(): Promise<number> }", "class w { async b(): Promise<any> {} }", ["unproven b"]],
    [
      "interface T { b(x: string): void }",
      "class w { b(x: string, y: number): void { void [x, y]; } }",
      ["parameter b"],
    ],
    ["interface T { a: number }", "class w { a?: number }", ["optional a", "result a"]],
    ["interface T { a: number }", "class w { get a(): number { return 1; } }", ["readonly a"]],
    ["interface T { a: number }", "class w { readonly a: number = 1; }", ["readonly a"]],
    ["interface T { a: string | number }", "class w { a: string = ''; }", ["parameter a"]],
    ["interface T { a(): void }", "class w { a = 1; }", ["kind a"]],
    ["interface T { a: number }", "class w { a(): number { return 1; } }", ["kind a"]],
    ["interface T { a: number; b: number }", "const w = { a: 1 };", ["missing b"]],
    [
      "interface T { b(x: string): string; b(x: number): number }",
      "class w { b(x: string): string { return x; } }",
      ["overload b"],
    ],
    ["interface T { b<X>(x: X): X }", "class w { b<Y>(_y: Y): string { return ''; } }", ["result b"]],
    ["type T = (x: string) => number;", "const w = (x: string) => x;", ["result ()"]],
    ["interface T { a: number }", "const w: T = { a: 'x' };", ["result a"]],
    [
      "interface T { a: number; [Symbol.iterator](): Iterator<number> }",
      "class w { a = 1; }",
      ["missing [Symbol.iterator]"],
    ],
    ["interface T { self: T }", "class w { self: w = this; more = 1; }", ["parameter self"]],
    ["interface T<X> { a(): X }", "class w { a() { return 1; } }", ["unproven null"]],
    ["interface T { a: number }", "const w: any = 1;", ["unproven null"]],
    ["interface T { a: number }", "const w = (): never => { throw 1; };", ["unproven null"]],
    ["interface T { [name: string]: number }", "const w = { a: 'x' };", ["compile null"]],
    [
      "type T = new (x: string) => { a: number };",
      "class w { constructor(_x: number) {} a = 1; }",
      ["parameter new ()"],
    ],
    ["interface T { a: number }", "const w = { a: 1 } as const;", ["readonly a"]],
    ["type T = any;", "const w = 1;", ["unproven null"]],
    ["interface T {}", "const w = { a: 1 };", ["unproven null"]],
  ];
  expect(judge(cases)).toEqual(cases);
});

test("an adapter is checked by its mapping, or by the compiler if the mapping is composed", () => {
  const root = project({
    "src/a.ts": [
      'import { adapter } from "sleeve";',
      "export interface Bell { readonly name: string; ring(times: number): string }",
      "interface Old { label: string; strike(n: number): string }",
      'export const given = adapter<Bell, Old>({ name: "label", ring: "strike" });',
      'const shared = { name: "label" } as const;',
      'export const spread = adapter<Bell, Old>({ ...shared, ring: "strike" });',
      'export const wrong = adapter<Bell, Old>({ name: "label", ring: "strick" });',
    ].join("\n"),
    "sleeve.config.ts": `export default { targets: { "src/a.ts#Bell": ["given", "spread", "wrong"].map((name) => "src/a.ts#" + name) } };`,
  });
  mkdirSync(join(root, "node_modules"));
  symlinkSync(join(import.meta.dirname, "../../../sleeve"), join(root, "node_modules/sleeve"));
  const { stdout, stderr } = sleeve(root, "check", "--json");
  expect(stderr).toBe("");
  expect(findingsOf(JSON.parse(stdout) as CheckJson)).toEqual({
    given: [],
    spread: [],
    wrong: ["missing ring 7"],
  });
});

test("a border reports every kind of import outside its files", () => {
  const root = project({
    ...installed("crane", "export declare const LIMIT: number;"),
    "src/crane-adapter.ts": 'import { LIMIT } from "crane";\nexport const limit: number = LIMIT;',
    "src/a.ts": 'import type {} from "crane";',
    "src/b.ts": 'export * from "crane";',
    "src/c.ts": 'export const later = () => import("crane");',
    "src/d.ts": 'export const text = "crane";',
    "sleeve.config.ts": 'export default { borders: { crane: ["src/crane-adapter.ts"] } };',
  });
  const { code, stdout } = sleeve(root, "check", "--json");
  const { borders } = JSON.parse(stdout) as CheckJson;
  expect(code).toBe(1);
  expect(borders[0]?.findings.map(({ place }) => place.file)).toEqual(["src/a.ts", "src/b.ts", "src/c.ts"]);
});
