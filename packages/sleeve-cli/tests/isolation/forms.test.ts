import { spawnSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");

/** Settings under which the draft's own code must not be careless. */
const SETTINGS = {
  strict: true,
  noUnusedLocals: true,
  noUnusedParameters: true,
  noUncheckedIndexedAccess: true,
  exactOptionalPropertyTypes: true,
  verbatimModuleSyntax: true,
  module: "nodenext",
  target: "es2023",
  lib: ["es2023", "dom"],
  types: [],
  skipLibCheck: true,
  noEmit: true,
};

interface Quality {
  readonly members: { readonly independent: number; readonly dependent: number; readonly reexported: number };
  readonly dependents: readonly { readonly member: string; readonly why: string }[];
}

interface Drafted {
  readonly root: string;
  readonly quality: Quality;
  readonly target: string;
  readonly main: string;
}

/** Drafts and moves a consumer of `kit`, and requires that everything compiles and passes `check`. */
function isolate(declaration: string, main: string, more: Readonly<Record<string, string>> = {}): Drafted {
  const root = project({
    ...installed("kit", declaration),
    "package.json": '{ "name": "office", "type": "module" }',
    ...(declaration.includes("export =")
      ? {}
      : {
          "node_modules/kit/package.json":
            '{ "name": "kit", "version": "1.0.0", "type": "module", "types": "index.d.ts" }',
        }),
    "tsconfig.json": JSON.stringify({ compilerOptions: SETTINGS, include: ["src"] }),
    "src/main.ts": main,
    ...more,
  });
  const drafted = sleeve(root, "draft", "kit", "--write", "--json");
  expect(drafted.stderr).toBe("");
  expect(sleeve(root, "move", "kit", "--write", "--uncommitted").code).toBe(0);
  expect(spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout).toBe("");
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
  const { quality, files } = JSON.parse(drafted.stdout) as {
    quality: Quality;
    files: readonly { role: string; text: string }[];
  };
  const moved = readFileSync(join(root, "src/main.ts"), "utf8");
  expect(moved).not.toMatch(/from ["']kit["']|import\(["']kit["']\)/);
  return { root, quality, target: files.find(({ role }) => role === "target")?.text ?? "", main: moved };
}

const DAY = "interface Day { add(n: number): Day; text(): string; other(): void }";
const HASH = "interface Hash { update(d: Input): this; digest(): Uint8Array }";
const SHA = "{ (m: Input): Uint8Array; create(): Hash; blockLen: number }";

/** What a declaration and a use of it give: own members, and lines of the target. */
const OWN: readonly (readonly [
  form: string,
  declaration: string,
  main: string,
  ...lines: readonly string[],
])[] = [
  [
    "options in an optional parameter",
    "export interface Options { suffix?: boolean; locale?: string; unused?: number } export declare function text(n: number, options?: Options): string;",
    'import { text } from "kit";\ntext(1, { suffix: true, locale: "de" });\n',
    "  text(n: number, options: { suffix: boolean; locale: string }): unknown;",
  ],
  [
    "options in a union",
    "export interface Options { suffix?: boolean; unused?: number } export declare function text(options: number | Options): string;",
    'import { text } from "kit";\ntext({ suffix: true });\ntext(2);\n',
    "  text(options: number | { suffix: boolean }): unknown;",
  ],
  [
    "callbacks nested in options",
    "export interface O { fmt?: { level?: (label: string) => string }; deep: boolean } export declare function f(o: O): void;",
    'import { f } from "kit";\nf({ deep: true, fmt: { level: (label) => label.trim() } });\n',
    "  f(o: { deep: boolean; fmt: { level: (label: string) => string } }): void;",
  ],
  [
    "an empty object as a constraint",
    "export declare class Cache<K extends {}, V extends {}> { get(key: K): V | undefined; set(key: K, value: V): this }",
    'import { Cache } from "kit";\nconst cache = new Cache<string, number>();\ncache.set("a", 1).get("a");\n',
    "  createCache<K extends {}, V extends {}>(): Cache<K, V>;",
  ],
  [
    "a function that accepts what it returns",
    `declare function make(d?: string | make.Day): make.Day; declare namespace make { ${DAY} } export = make;`,
    'import make from "kit";\nmake(make("x")).add(1).text();\n',
    "  make(d: Day | string): Day;",
    "  add(n: number): Day;",
    "  text(): unknown;",
  ],
  [
    "a constructor that accepts instances",
    "export declare class B { constructor(v: B.Value); plus(v: B.Value): B } export declare namespace B { type Value = string | number | B }",
    'import { B } from "kit";\nexport const add = (v: B.Value): B => new B(1).plus(v);\nadd("2");\n',
    "  createB(v: number): B;",
    "  plus(v: Value): B;",
    "export type Value = string | number | B;",
  ],
  [
    "a private constructor",
    "export declare class Time { private constructor(config: unknown); static parse(t: string): Time; plus(n: number): Time }",
    'import { Time } from "kit";\nTime.parse("x").plus(1);\n',
    "  readonly Time: { parse(t: string): Time };",
    "  plus(n: number): unknown;",
  ],
  [
    "type parameters of a type without used members",
    "export interface Struct<T, S> { readonly schema: S; refine(v: T): boolean } export declare function string(): Struct<string, null>; export declare function coerce<T, S, C>(s: Struct<T, S>, c: Struct<C, any>, f: (v: C) => unknown): Struct<T, S>;",
    'import { coerce, string } from "kit";\ncoerce(string(), string(), (t) => t.trim());\n',
    "  coerce(s: Struct, c: Struct, f: (v: string) => unknown): unknown;",
    "export type Struct = object;",
  ],
  [
    "a type parameter that the reduced type does not use",
    "export interface Opt<E> { fail?: (e: E) => void; times?: number } export declare function retry<E = Error>(o: number | Opt<E>): string;",
    'import { retry } from "kit";\nretry({ times: 3 });\n',
    "  retry(o: { times: number }): unknown;",
  ],
  [
    "an object without a type, with functions and properties",
    `export type Input = Uint8Array | string; ${HASH} export declare const sha: ${SHA}; export declare const sha2: ${SHA}; export declare function mac(h: { create(): Hash }, key: Input): Uint8Array;`,
    'import { mac, sha, sha2 } from "kit";\nconst pick = (name: "sha" | "sha2") => ({ sha, sha2 })[name];\npick("sha")("a");\nmac(sha, "k");\n',
    "  readonly sha: { (m: string | Uint8Array): Uint8Array; create(): Hash };",
  ],
  [
    "call signatures that nothing calls",
    "interface Static { (value: string): { a: 1 }; <T>(value: T[]): { b: T }; chunk<T>(a: T[], n: number): T[][] } declare const _: Static; export default _;",
    'import _ from "kit";\n_.chunk([1], 1);\n',
    "  chunk(a: number[], n: number): unknown;",
  ],
  [
    "one overload, with the comment that belongs to it",
    "/** First. */\nexport declare function f(a: string): string;\n/** Second. */\nexport declare function f(a: number): number;",
    'import { f } from "kit";\nf(1);\n',
    "  /** Second. */",
    "  f(a: number): unknown;",
  ],
  [
    "a value that is passed to a function of ours and of the module",
    "export declare class Ver { constructor(r: string); raw: string; compare(o: Ver): number } export declare function valid(v: string | Ver): string;",
    'import { valid, Ver } from "kit";\nvalid(new Ver("1"));\n',
    "  createVer(r: string): Ver;",
    "  valid(v: Ver): unknown;",
  ],
  [
    "conditional, mapped and inferred types",
    "export interface Box<T> { readonly out: T; get(): T } export type Out<S> = S extends Box<infer T> ? T : never; export type Getters<T> = { readonly [K in keyof T as K extends string ? Uppercase<K> : never]: T[K] }; export declare function box<T>(v: T): Box<T>; export declare function show(of: Getters<{ tons: number }>): string;",
    'import { box, type Out, show } from "kit";\nconst one = box(1);\nexport const twice = (n: Out<typeof one>): number => n * 2;\ntwice(one.get());\nshow({ TONS: 3 });\n',
    "export type Out<S> = S extends Box<infer T> ? T : never;",
  ],
  [
    "a fluent builder",
    "export declare class Query<T> { where(k: keyof T & string, v: unknown): this; limit(n: number): Query<T>; run(): Promise<T[]>; other(): void } export declare function from<T>(name: string): Query<T>;",
    'import { from } from "kit";\nawait from<{ id: number }>("berths").where("id", 1).limit(2).run();\nexport {};\n',
    "  limit(n: number): Query<T>;",
  ],
  [
    "a module that is imported when it is needed",
    "export declare class Crane { lift(): number }",
    'export const load = () => import("kit").then((module) => new module.Crane());\n(await load()).lift();\n',
    "export interface Crane {",
  ],
  [
    "a rest parameter whose type extends an array",
    "export type Part = string | boolean | Parts; export interface Parts extends Array<Part> {} export declare function join(...parts: Parts): string;",
    'import { join } from "kit";\njoin("a", ["b", true]);\n',
    "  join(...parts: (string | (string | boolean)[])[]): unknown;",
  ],
  [
    "a type that is awaited",
    "export interface Res { status: number; other: string } export interface Req extends Promise<Res> { set(key: string, value: string): this; other(): void } export declare function get(url: string): Req;",
    'import { get } from "kit";\nconst { status } = await get("x").set("a", "b");\nexport const twice: number = status * 2;\n',
    "export interface Req extends Promise<Res> {",
    "  set(key: string, value: string): Req;",
  ],
  [
    "a type in a namespace that a class implements",
    "export declare class Panel { show(): void } export declare namespace Panel { interface Renderer { draw(x: number): string } } export declare function use(renderer: Panel.Renderer): void;",
    'import { Panel, use } from "kit";\nclass Mine implements Panel.Renderer {\n  draw(x: number): string {\n    return String(x);\n  }\n}\nuse(new Mine());\nnew Panel().show();\n',
    "  draw(x: number): string;",
  ],
  [
    "an operator on what the module returns",
    "export interface Stream<T> { pipe<R>(op: Operator<T, R>): Stream<R>; value(): T; other(): void } export interface Operator<T, R> { (source: Stream<T>): Stream<R> } export declare function of<T>(v: T): Stream<T>; export declare function map<T, R>(f: (v: T) => R): Operator<T, R>;",
    'import { map, of } from "kit";\nexport const text: string = of(1).pipe(map((n) => String(n))).value();\n',
    "  call(source: Stream<T>): Stream<R>;",
  ],
  [
    "a generic constructor that accepts instances in options",
    "export declare namespace Cache { interface Options<K extends {}, V extends {}> { max?: number; from?: Cache<K, V>; onGone?: (cache: Cache<K, V>, key: K) => void } } export declare class Cache<K extends {}, V extends {}> { constructor(options: Cache.Options<K, V> | Cache<K, V>); get(key: K): V | undefined; other(): void }",
    'import { Cache } from "kit";\nconst first = new Cache<string, number>({ max: 2, onGone: (cache, key) => cache.get(key) });\nnew Cache<string, number>({ from: first }).get("a");\n',
    "  onGone?: (cache: Cache<K, V>, key: K) => void;",
  ],
];

/** The forms that are isolated in this run. */
const CHOSEN = sampled(OWN);

/** The chosen forms in one project, each with a module and a consumer of its own. */
function isolateForms(): ReadonlyMap<string, { readonly quality: Quality; readonly target: string }> {
  const files = CHOSEN.flatMap(([, declaration, main], index) => {
    const name = `kit${index}`;
    const type = declaration.includes("export =") ? "commonjs" : "module";
    const manifest = { name, version: "1.0.0", type, types: "index.d.ts" };
    return [
      [`node_modules/${name}/package.json`, JSON.stringify(manifest)],
      [`node_modules/${name}/index.d.ts`, declaration],
      [`src/${name}/main.ts`, main.replaceAll('"kit"', `"${name}"`)],
    ] as const;
  });
  const root = project({
    ...Object.fromEntries(files),
    "package.json": '{ "name": "office", "type": "module" }',
    "tsconfig.json": JSON.stringify({ compilerOptions: SETTINGS, include: ["src"] }),
  });
  const found = CHOSEN.map(([form], index) => {
    const drafted = sleeve(root, "draft", `kit${index}`, "--write", "--json");
    expect([form, drafted.stderr]).toEqual([form, ""]);
    expect([form, sleeve(root, "move", `kit${index}`, "--write", "--uncommitted").code]).toEqual([form, 0]);
    const { quality, files } = JSON.parse(drafted.stdout) as {
      quality: Quality;
      files: readonly { role: string; text: string }[];
    };
    const target = files.find(({ role }) => role === "target")?.text ?? "";
    return [form, { quality, target }] as const;
  });
  expect(spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout).toBe("");
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
  return new Map(found);
}

/** Drafting and moving all forms, one after the other, takes most of a minute. */
const FORMS_TIMEOUT = 300_000;

test("each form of a declaration becomes types of our own", { timeout: FORMS_TIMEOUT }, () => {
  const isolated = isolateForms();
  for (const [form, , , ...lines] of CHOSEN) {
    const { quality, target } = isolated.get(form) as { quality: Quality; target: string };
    expect([form, ...target.split("\n")]).toEqual(expect.arrayContaining([form, ...lines]));
    expect([form, quality.members.dependent, quality.members.reexported]).toEqual([form, 0, 0]);
    expect(target).not.toMatch(/\bimport\b/);
  }
});

test("every form is listed", () => {
  expect(OWN.length).toBe(21);
});

test("a misspelt option is an error after the move, as before", () => {
  const { root, main } = isolate(OWN[0]?.[1] ?? "", OWN[0]?.[2] ?? "");
  writeFileSync(join(root, "src/main.ts"), main.replace("suffix: true", "sufix: true"));
  expect(spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout).toContain("sufix");
});

test("a type that cannot be copied affects only itself", () => {
  const { quality, target, root } = isolate(
    "declare enum Knot { Bowline } export interface Load { readonly tons: number; unused: string } export declare function lift(load: Load): number; export declare function rig(load: Load): Knot;",
    'import { lift, type Load, rig } from "kit";\nconst load: Load = { tons: 3, unused: "" };\nexport const feet: number = lift(load);\nexport const text = String(rig(load));\n',
  );
  expect(quality).toMatchObject({
    members: { independent: 1, dependent: 1, reexported: 0 },
    dependents: [{ member: "rig", why: "its type mentions RigValue" }],
  });
  expect(target).toContain("readonly rig: RigValue;");
  expect(target).toContain("lift(load: Load): number;");
  expect(readFileSync(join(root, "src/kit/kit-outside.ts"), "utf8")).toContain(
    "export type RigValue = typeof rig;",
  );
});

test("a caller that needs a global of the module is named, because it does not compile without the module", () => {
  const { quality } = isolate(
    "declare global { var kitMark: string } export declare function lift(): number;",
    'import { lift } from "kit";\nexport const feet = lift();\nexport const mark = kitMark;\n',
  );
  expect(quality).toMatchObject({
    members: { independent: 1, dependent: 0, reexported: 0 },
    elsewhere: ["without kit, line 3 of main.ts does not compile: Cannot find name 'kitMark'"],
  });
});

test("what is extended, or used as an enumeration, is re-exported, and a namespace import is taken apart", () => {
  const { quality, main } = isolate(
    "export declare class Base { a(): void } export declare enum Kind { A, B } export declare class Str { text: string }",
    'import * as kit from "kit";\nexport class Mine extends kit.Base {}\nexport const kind = kit.Kind.A;\nexport class Holder {\n  s: kit.Str = new kit.Str();\n}\n',
  );
  expect(quality.members.reexported).toBe(2);
  expect(main).toContain("class Mine extends Base {}");
  expect(main).toContain("kind = Kind.A");
  expect(main).toContain("s: Str = kit.createStr();");
});

test("debt is recorded with its reason, limited by maxDebt, and reported when it is settled", () => {
  const { root } = isolate(
    "export declare enum Kind { A, B } export declare function kindOf(n: number): Kind;",
    'import { Kind, kindOf } from "kit";\nexport const isA = (n: number): boolean => kindOf(n) === Kind.A;\n',
  );
  const path = join(root, "sleeve.config.ts");
  const config = readFileSync(path, "utf8");
  expect(config).toContain('Kind: "it is an enumeration",');
  expect(sleeve(root, "check").stdout).toContain("debt of 1 outside name");
  writeFileSync(path, config.replace("export default {", "export default {\n  maxDebt: 0,"));
  const { code, stdout } = sleeve(root, "check", "--json");
  const { borders } = JSON.parse(stdout) as { borders: readonly { findings: readonly { name: string }[] }[] };
  expect([code, borders.flatMap(({ findings }) => findings.map(({ name }) => name))]).toEqual([1, ["debt"]]);
  writeFileSync(path, config.replace('Kind: "it is', 'Gone: "it was", Kind: "it is'));
  expect(sleeve(root, "check").stderr).toContain("lists Gone as debt of kit");
  writeFileSync(path, config.replace(/ {6}debt: \{[^}]*\},\n/, ""));
  expect(sleeve(root, "check").stdout).toMatch(/found\s+Kind re-exported/);
});
