import { spawnSync } from "node:child_process";
import { readdirSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { expect, test } from "vitest";
import { project, sleeve } from "../harness.ts";

const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");

/** The code of a package without types. */
const CODE = `
exports.slug = (text, options) => text.toLowerCase() + (options ? options.sep : "");
exports.Queue = class { constructor(limit) { this.limit = limit; this.items = []; } push(item) { this.items.push(item); return this; } get size() { return this.items.length; } drain(each) { this.items.forEach((item, index) => each({ item, index })); } };
exports.open = (name, callback) => callback(null, { read() { return name; } });
exports.load = async (name) => ({ name, tags: [name, "x"] });
exports.list = () => [{ label: "a" }, { label: "b" }];
exports.upper = (name) => name.toUpperCase();
exports.sum = (values) => values.reduce((sum, value) => sum + value, 0);
exports.settings = { limits: { depth: 2 }, verbose: false };
`;

/** Uses of its exports, one a file, with `$` before each name. */
const USES: readonly string[] = [
  "const text: string = $slug('Ab', { sep: '-' });\nprint(text, $slug('C'));",
  "const queue = new $Queue(3);\nqueue.push('a').push('b');\nprint(queue.size);",
  "const queue = new $Queue(1);\nqueue.limit = 5;\nconst size: number = queue.push('a').size;\nprint(size);",
  "const queue = new $Queue(1).push('a');\nqueue.drain(({ item, index }) => print(String(item), index));",
  "$open('x', (error, handle) => print(error === null, handle.read()));",
  "(async () => { const { name, tags } = await $load('n'); for (const tag of tags) print(name, tag); })();",
  "for (const { label } of $list()) print(label);",
  "const depth: number = $settings.limits.depth + 1;\nprint(depth);",
  "const found = $settings.missing?.deep ?? 'none';\nprint(found);",
  "const name = 'Ab';\nprint($upper(name), $upper(name) + 1);",
  "const total = $sum([1, 2, 3]) * 2;\nprint(total, $sum([4]) > 3 ? 'more' : 'less');",
];

/** What all of them together show. */
const TARGET: readonly RegExp[] = [
  /createQueue\(value1: number\): Queue;|Queue: new \(value1: number\) => Queue;/,
  /slug\(value1: string, options\?: \{ sep: string \}\): string;/,
  /push\(value1: string\): Queue;/,
  / size: number;/,
  / limit: number;/,
  /drain\(callback: \(argument1: \{ item: unknown; index: unknown \}\) => void\): unknown;/,
  /open\( ?value1: string, callback: \(error: unknown, handle: \{ read\(\): unknown \}\) => /,
  /load\(value1: string\): Promise<\{ name: unknown; tags: readonly unknown\[\] \}>;/,
  /list\(\): readonly \{ label: unknown \}\[\];/,
  /limits: \{ depth: number \}/,
  /missing: \{ deep: unknown \} \| undefined/,
  /upper\(name: string\): /,
  /sum\(value1: readonly number\[\]\): number;/,
];

type Names = readonly string[];

const IMPORTS: Readonly<Record<string, (names: Names) => readonly [line: string, prefix: string]>> = {
  named: (names) => [`import { ${names.join(", ")} } from "oldlib";`, ""],
  namespace: () => ['import * as old from "oldlib";', "old."],
  default: () => ['import old from "oldlib";', "old."],
};

const PRINT = "const print = (...values: readonly unknown[]) => console.log(JSON.stringify(values));\n";

const SETTINGS = {
  strict: true,
  noImplicitAny: false,
  module: "nodenext",
  target: "es2023",
  lib: ["es2023", "dom"],
  types: [],
  outDir: "out",
  rootDir: "src",
};

/** A project with the uses; `shorthand` declares the package as one without types, as strict projects do. */
function office(imports: string, uses: readonly string[], shorthand?: string): string {
  const files = uses.map((use, index) => {
    const names = [...new Set([...use.matchAll(/\$(\w+)/g)].map(([, name = ""]) => name))];
    const [line, prefix] = IMPORTS[imports]?.(names) ?? ["", ""];
    return [`src/use${index}.ts`, `${line}\n${PRINT}${use.replaceAll("$", prefix)}\n`] as const;
  });
  return project({
    "package.json": '{ "name": "office", "type": "module" }',
    "node_modules/oldlib/package.json": '{ "name": "oldlib", "version": "1.0.0", "main": "index.js" }',
    "node_modules/oldlib/index.js": CODE,
    "tsconfig.json": JSON.stringify({
      compilerOptions: { ...SETTINGS, noImplicitAny: shorthand !== undefined },
      include: ["src"],
    }),
    "src/main.ts": uses.map((_, index) => `import "./use${index}.js";\n`).join(""),
    ...(shorthand === undefined ? {} : { "src/types.d.ts": shorthand }),
    ...Object.fromEntries(files),
  });
}

/** Compiles and runs the project, and returns what it prints. */
function printed(root: string): string {
  const compiled = spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" });
  expect(compiled.stdout).toBe("");
  const run = spawnSync(process.execPath, [join(root, "out/main.js")], { encoding: "utf8" });
  expect(run.stderr).toBe("");
  return run.stdout;
}

interface Drafted {
  readonly files: readonly { readonly role: string; readonly text: string }[];
  readonly quality: {
    readonly members: Readonly<Record<"independent" | "dependent" | "reexported", number>>;
  };
}

function isolate(root: string): { readonly target: string; readonly quality: Drafted["quality"] } {
  const before = printed(root);
  const drafted = sleeve(root, "draft", "oldlib", "--write", "--json");
  expect(drafted.stderr).toContain("[TYPES_FROM_USE]");
  expect(drafted.code).toBe(0);
  const { files, quality } = JSON.parse(drafted.stdout) as Drafted;
  expect(sleeve(root, "move", "oldlib", "--write", "--uncommitted").code).toBe(0);
  for (const file of readdirSync(join(root, "src")).filter((name) => name.startsWith("use")))
    expect(readFileSync(join(root, "src", file), "utf8")).not.toContain('"oldlib"');
  expect(printed(root)).toBe(before);
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
  const target = files.find(({ role }) => role === "target")?.text ?? "";
  return { target: target.replace(/\s+/g, " "), quality };
}

test("both lists are complete", () => {
  expect(USES).toHaveLength(11);
  expect(TARGET).toHaveLength(13);
});

test.each(Object.keys(IMPORTS))("a package without types has types from its uses, %s import", (imports) => {
  const { target, quality } = isolate(office(imports, USES));
  expect(quality.members).toMatchObject({ dependent: 0, reexported: 0 });
  for (const line of TARGET) expect(target).toMatch(line);
});

test("a package that the project declares without types has types from its uses", () => {
  const root = office("named", USES.slice(0, 3), 'declare module "other";\ndeclare module "oldlib";\n');
  expect(isolate(root).target).toMatch(/size: number;/);
});

test("an export whose uses contradict each other stays without types, and others do not", () => {
  const contradiction =
    "const text: string = $slug('a');\nconst count: number = $slug('b');\nprint(text, count);";
  const { target, quality } = isolate(office("named", [contradiction, ...USES.slice(6, 7)]));
  expect(quality.members).toMatchObject({ independent: 1, dependent: 0, reexported: 1 });
  expect(target).toMatch(/list\(\): readonly \{ label: unknown \}\[\];/);
});
