import { spawnSync } from "node:child_process";
import { appendFileSync, chmodSync, existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { parseSync } from "oxc-parser";
import { decorate, proxy, type Surface } from "sleeve";
import { describe, expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";
import { FEATURES, TYPES } from "./features.ts";

const TSC = join(import.meta.dirname, "../../../../node_modules/typescript/bin/tsc");

interface Result {
  readonly state: string;
  readonly text: string;
  readonly file: string;
  readonly members: number;
  readonly readAsFunctions: readonly { readonly member: string }[];
  readonly refused: readonly { readonly member: string }[];
  readonly problems: readonly { readonly code: string }[];
}

function wrap(root: string, ...args: readonly string[]): Result {
  const { stdout, stderr } = sleeve(root, "wrap", ...args, "--json");
  expect(stdout, stderr).not.toBe("");
  const { wrappers, problems } = JSON.parse(stdout) as {
    wrappers: readonly [Result];
    problems: Result["problems"];
  };
  expect(wrappers).toHaveLength(1);
  return { ...wrappers[0], problems };
}

function typeWith(kind: string, members: readonly string[]): string {
  if (kind === "interface") return `export interface Port { ${members.join("; ")} }`;
  if (kind === "type")
    return `export type Port = { ${members.join("; ").replace(/\): this\b/g, "): Port")} };`;
  const [body, base] = [members.slice(0, members.length / 2), members.slice(members.length / 2)];
  return `declare abstract class Base { ${base.join("; ")} }\nexport declare class Port extends Base { ${body.join("; ")} }`;
}

function compile(root: string): string {
  return spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout;
}

const STRICT = {
  strict: true,
  exactOptionalPropertyTypes: true,
  noImplicitOverride: true,
  noUncheckedIndexedAccess: true,
  noUnusedLocals: true,
  noUnusedParameters: true,
  module: "nodenext",
  target: "es2023",
  lib: ["es2023", "esnext.disposable"],
  noEmit: true,
  skipLibCheck: true,
  types: [],
  allowImportingTsExtensions: true,
};

const FORMS = ["interface", "type", "class"].flatMap((kind) =>
  ["a package", "a file of the project"].flatMap((where) =>
    ["forwarder", "fake"].map((as) => [kind, as, where] as const),
  ),
);

describe("an exported", () => {
  test.each(sampled(FORMS))(
    "%s becomes a %s that has every member that a class can have, in its form, if it is of %s",
    (kind, as, where) => {
      const code = `${TYPES}${typeWith(
        kind,
        FEATURES.map(([, member]) => member),
      )}\n`;
      const isPackage = where === "a package";
      const root = project({
        ...(isPackage ? installed("port", code) : { "src/port.ts": code }),
        "src/main.ts": "export {};\n",
        "tsconfig.json": JSON.stringify({ compilerOptions: STRICT, include: ["src"] }),
      });
      const { text, refused, readAsFunctions, file } = wrap(
        root,
        isPackage ? "port#Port" : "src/port.ts#Port",
        "--as",
        as,
        "--write",
      );
      expect(refused.map(({ member }) => member)).toEqual(["[mark]"]);
      // Declarations of packages have parameters that no module of the project can have.
      const errors = compile(root)
        .split("\n")
        .filter((line) => line !== "" && !/\bport\.ts\(/.test(line));
      expect(errors).toEqual([]);
      const functions = new Set(readAsFunctions.map(({ member }) => member));
      for (const [feature, member, form] of FEATURES) {
        const [, key = ""] = /^(?:readonly |get )?("[^"]+"|\[[^\]]+\]|\w+)/.exec(member) ?? [];
        const isMethod = new RegExp(`^  ${key.replace(/[[\].]/g, "\\$&")}[<(]`, "m").test(text);
        const isAccessor = text.includes(`  get ${key}()`);
        const found = functions.has(key)
          ? "function"
          : isMethod
            ? "method"
            : isAccessor
              ? "accessor"
              : "none";
        // What is not exported is only known as a part of the type.
        expect([feature, found]).toEqual([feature, form]);
      }
      expect(existsSync(join(root, file))).toBe(true);
    },
  );
});

test("every feature is listed", () => {
  expect(FEATURES.length).toBe(36);
});

/** A subject that a generated forwarder and one at run time are compared on. */
const SUBJECT = `export interface Step { next(): Step; readonly at: number }
export class Winch {
  static made = 0;
  #turns = 0;
  load = 3;
  label?: string;
  constructor(readonly id: string) {}
  get turns(): number { return this.#turns; }
  set turns(value: number) { this.#turns = value; }
  turn(by: number, ...more: readonly number[]): this { this.#turns += by + more.length; return this; }
  haul(load: number): number { if (load > 9) throw new RangeError(\`\${this.id} cannot haul \${load}\`); return load * this.#turns; }
  async later(load: number): Promise<number> { await null; return this.haul(load); }
  both(value: number): number; both(value: string): string;
  both(value: number | string): number | string { return value; }
  same(value: object): object { return value; }
  self(): Winch { return this; }
  maybe?(): string;
  *[Symbol.iterator](): Generator<number> { yield this.#turns; yield this.load; }
}
`;

/** A winch, as its clients use it. */
interface Winch extends Iterable<number> {
  load: number;
  turns: number;
  label?: string;
  readonly id: string;
  readonly maybe?: unknown;
  turn(by: number, ...more: readonly number[]): this;
  haul(load: number): number;
  later(load: number): Promise<number>;
  both(value: unknown): unknown;
  same(value: object): object;
  self(): unknown;
}

/** Uses of a winch. Each gives what a client can see of it. */
const USES: readonly (readonly [name: string, use: (winch: Winch) => unknown])[] = [
  ["a read", ({ load, turns, id, label }) => [load, turns, id, label]],
  [
    "a write",
    (winch) => {
      Object.assign(winch, { load: 5, turns: 7, label: "L" });
      return [winch.load, winch.turns, winch.label];
    },
  ],
  ["a fluent call", (winch) => winch.turn(2, 3, 4) === winch],
  ["the subject as a result", (winch) => winch.self() === winch],
  [
    "a result by identity",
    (winch) => {
      const given = {};
      return winch.same(given) === given;
    },
  ],
  [
    "an error",
    (winch) => {
      try {
        return winch.haul(10);
      } catch (error) {
        return [error instanceof RangeError, (error as Error).message];
      }
    },
  ],
  ["a rejection", (winch) => winch.later(11).catch((error: Error) => error.message)],
  ["a promise", (winch) => winch.later(4)],
  ["overloads", (winch) => [winch.both(3), winch.both("three")]],
  ["an iteration", (winch) => [...winch]],
  ["an absent method", (winch) => winch.maybe],
];

test("a generated forwarder behaves as one at run time, and as the subject", async () => {
  const root = project({ "src/winch.ts": SUBJECT });
  const { file, refused } = wrap(root, "src/winch.ts#Winch", "--write");
  expect([refused, compile(root)]).toEqual([[], ""]);
  const load = (path: string) => import(pathToFileURL(join(root, path)).href) as Promise<unknown>;
  const { Winch } = (await load("src/winch.ts")) as { readonly Winch: new (id: string) => Winch };
  const { WinchForwarder: Forwarder } = (await load(file)) as {
    readonly WinchForwarder: new (subject: Winch) => Winch;
  };
  const make = [() => new Winch("w"), () => new Forwarder(new Winch("w")), () => decorate(new Winch("w"))];
  for (const [name, use] of USES) {
    const [bare, ...wrapped] = await Promise.all(make.map(async (create) => use(create())));
    for (const outcome of wrapped) expect([name, outcome]).toEqual([name, bare]);
  }
  // All in a row, on one object each.
  const [bare, ...wrapped] = await Promise.all(
    make.map(async (create) => {
      const winch = create();
      const outcomes: unknown[] = [];
      for (const [, use] of USES) outcomes.push(await use(winch));
      return outcomes;
    }),
  );
  for (const outcome of wrapped) expect(outcome).toEqual(bare);
  class Slow extends Forwarder {
    override haul(load: number): number {
      return super.haul(load) / 2;
    }
  }
  expect(new Slow(new Winch("w")).turn(2).haul(3)).toBe(3);
});

test("a generated fake has the answers that it is given, and nothing else", async () => {
  const root = project({ "src/winch.ts": SUBJECT });
  const { file, refused } = wrap(root, "src/winch.ts#Winch", "--as", "fake", "--write");
  expect([file, refused, compile(root)]).toEqual(["src/fake-winch.ts", [], ""]);
  const { FakeWinch } = (await import(pathToFileURL(join(root, file)).href)) as {
    readonly FakeWinch: new (answers?: Partial<Winch>) => Winch & { readonly answers: Partial<Winch> };
  };
  const fake = new FakeWinch({ load: 3, haul: (load) => load * 2, *[Symbol.iterator]() { yield 5; } }); // biome-ignore format: one line
  expect([fake.load, fake.haul(4), [...fake], fake.label]).toEqual([3, 8, [5], undefined]);
  for (const use of [() => fake.turns, () => fake.turn(2), () => fake.both("x"), () => fake.later(1)])
    expect(use).toThrow(/^FakeWinch: \w+ is not given\. Set it in answers\.$/);
  fake.answers.later = async (load) => load + 1;
  fake.answers.haul = () => 0;
  fake.load = 9;
  expect([await fake.later(1), fake.haul(4), fake.load, fake.answers.load]).toEqual([2, 0, 9, 9]);
  expect(() => new FakeWinch().load).toThrow("FakeWinch: load is not given.");
});

test("a generated surface has the members with their kinds, which a lazy proxy takes", async () => {
  const root = project({ "src/winch.ts": SUBJECT });
  const { file, text } = wrap(root, "src/winch.ts#Winch", "--as", "surface", "--write");
  expect([file, compile(root)]).toEqual(["src/winch-surface.ts", ""]);
  const { winchSurface } = (await import(pathToFileURL(join(root, file)).href)) as {
    readonly winchSurface: Surface<Winch>;
  };
  const { [Symbol.iterator]: iterator, ...named } = winchSurface;
  expect(iterator).toBe("method");
  expect(named).toEqual({
    load: "property", label: "property", id: "property", turns: "property", turn: "method", haul: "method", later: "method",
    both: "method", same: "method", self: "method", maybe: "method",
  }); // biome-ignore format: a list
  const { Winch } = (await import(pathToFileURL(join(root, "src/winch.ts")).href)) as {
    readonly Winch: new (id: string) => Winch;
  };
  let created = 0;
  const lazy = proxy(
    () => {
      created += 1;
      return new Winch("w");
    },
    { surface: winchSurface },
  );
  expect([Object.keys(lazy).length, created]).toEqual([11, 0]);
  expect([lazy.turn(2).haul(3), created]).toEqual([6, 1]);
  // A member that the type gets later is a compile error in the file.
  writeFileSync(join(root, "src/winch.ts"), SUBJECT.replace("load = 3;", "load = 3;\n  tons = 4;"));
  expect(compile(root)).toContain("src/winch-surface.ts");
  expect(text).toContain("satisfies");
  expect(sleeve(root, "wrap", "src/winch.ts#Winch", "--as", "surface", "--check").code).toBe(1);
});

describe("a generated file", () => {
  const files = { "src/tides.ts": "export interface Tides { heightAt(hour: number): number }\n" };
  const target = "src/tides.ts#Tides";
  const file = "src/tides-forwarder.ts";

  test("is the same from run to run, stale after the type has changed, and never written without --write", () => {
    const root = project(files);
    expect([wrap(root, target).state, existsSync(join(root, file))]).toEqual(["new", false]);
    expect(sleeve(root, "wrap", target, "--check").code).toBe(1);
    const first = wrap(root, target, "--write");
    expect(readFileSync(join(root, file), "utf8")).toBe(first.text);
    expect([wrap(root, target, "--write").state, sleeve(root, "wrap", target, "--check").code]).toEqual([
      "the same",
      0,
    ]);
    writeFileSync(
      join(root, "src/tides.ts"),
      "export interface Tides { heightAt(hour: number, gauge: string): number }\n",
    );
    expect([wrap(root, target).state, sleeve(root, "wrap", target, "--check").code]).toEqual(["stale", 1]);
    expect(readFileSync(join(root, file), "utf8")).toBe(first.text);
    expect(wrap(root, target, "--write").state).toBe("stale");
    expect([wrap(root, target).state, compile(root)]).toEqual(["the same", ""]);
  });

  test("names the command that writes it again", () => {
    const root = project(files);
    wrap(root, target, "--to", "src/inner/plain.ts", "--name", "Plain", "--write");
    const [, command = ""] =
      /by: npx sleeve (.+)/.exec(readFileSync(join(root, "src/inner/plain.ts"), "utf8")) ?? [];
    rmSync(join(root, "src/inner"), { recursive: true });
    expect(sleeve(root, ...command.split(" ")).code).toBe(0);
    expect(wrap(root, target, "--to", "src/inner/plain.ts", "--name", "Plain").state).toBe("the same");
  });

  test.each([
    ["edited", "EDITED", (path: string) => appendFileSync(path, "export const mine = 1;\n")],
    ["kept", "NOT_GENERATED", (path: string) => writeFileSync(path, "export const mine = 1;\n")],
  ])("that is %s is reported with the difference, and not overwritten", (state, code, edit) => {
    const root = project(files);
    wrap(root, target, "--write");
    edit(join(root, file));
    const before = readFileSync(join(root, file), "utf8");
    const { code: exit, stdout, stderr } = sleeve(root, "wrap", target, "--write");
    expect([exit, readFileSync(join(root, file), "utf8")]).toEqual([2, before]);
    expect([wrap(root, target).state, stderr]).toEqual([
      state,
      expect.stringMatching(new RegExp(`^sleeve: ${file} .*\\[${code}\\]\n$`)),
    ]);
    expect(stdout).toContain("-export const mine = 1;");
  });

  test("has the indentation and the line endings of the project", () => {
    const root = project({
      "src/tides.ts": "export interface Tides {\r\n    heightAt(hour: number): number;\r\n}\r\n",
    });
    const { text } = wrap(root, target, "--write");
    expect(text.replaceAll("\r\n", "")).not.toContain("\n");
    expect(text).toContain(
      "\r\n    heightAt(hour: number): number {\r\n        return this.#subject.heightAt(hour);\r\n",
    );
    expect(wrap(root, target).state).toBe("the same");
    appendFileSync(join(root, file), "// mine\r\n");
    expect(wrap(root, target).state).toBe("edited");
  });

  test("that does not compile does not hide that a new one would not", () => {
    const root = project({ "src/tides.ts": "export interface Tides { heightAt(hour: number): number }\n" });
    wrap(root, target, "--write");
    writeFileSync(
      join(root, "src/tides.ts"),
      "export interface Tides { levelAt(hour: number): number; [mark]: 1 }\ndeclare const mark: unique symbol;\n",
    );
    const { refused, members } = wrap(root, target, "--write");
    expect([members, refused.map(({ member }) => member), compile(root)]).toEqual([1, ["[mark]"], ""]);
  });

  test("follows the project's formatting and names", () => {
    const root = project({
      "src/TideTable.ts":
        "import type { Metres } from './metres.js'\n\nexport interface TideTable {\n\theightAt(hour: number): Metres\n}\n",
      "src/metres.ts": "export type Metres = number & { readonly unit?: 'm' }\n",
    });
    const { file: name, text } = wrap(root, "src/TideTable.ts#TideTable");
    expect(name).toBe("src/TideTableForwarder.ts");
    expect(text).toContain(
      "import type { TideTable } from './TideTable.js'\nimport type { Metres } from './metres.js'\n",
    );
    expect(text).toContain(
      "\n\theightAt(hour: number): Metres {\n\t\treturn this.#subject.heightAt(hour)\n\t}\n",
    );
  });
});

const WRONG: readonly (readonly [name: string, args: readonly string[], message: RegExp])[] = [
  [
    "a file that does not exist",
    ["src/tide.ts#Tides"],
    /There is no file src\/tide\.ts in the project\. Did you mean src\/tides\.ts\? \[NO_SUCH_FILE\]/,
  ],
  ["a misspelt type", ["src/tides.ts#Tide"], /has no export Tide\. Did you mean Tides\? \[NO_SUCH_EXPORT\]/],
  [
    "a misspelt type of a package",
    ["kit#Crate"],
    /kit has no export Crate\. Did you mean Crane\? \[NO_SUCH_EXPORT\]/,
  ],
  [
    "a package that is not installed",
    ["none#Crane"],
    /none cannot be resolved, or exports nothing\..*\[NO_SUCH_EXPORT\]/,
  ],
  ["one name for all types of a file", ["src/tides.ts", "--name", "A"], /names one class.*\[BAD_OPTION\]/],
  [
    "one file for all types of a file",
    ["src/tides.ts", "--to", "src/a.ts"],
    /Name a folder\. \[BAD_OPTION\]/,
  ],
  ["a module without types", ["src/none.ts"], /exports no types\..*\[NO_SUCH_EXPORT\]/],
  ["any", ["src/tides.ts#Loose"], /is `any`, which has no members to forward\..*\[NOTHING_TO_WRAP\]/],
  [
    "a value",
    ["src/tides.ts#limit"],
    /is a value without members, which has no members to forward\..*\[NOTHING_TO_WRAP\]/,
  ],
  ["a union", ["src/tides.ts#Either"], /is a union, which has no members to forward\..*\[NOTHING_TO_WRAP\]/],
  ["a list", ["src/tides.ts#Row"], /is a list, which has no members to forward\..*\[NOTHING_TO_WRAP\]/],
  [
    "an empty type",
    ["src/tides.ts#Empty"],
    /has no members, so there is nothing to forward\..*\[NOTHING_TO_WRAP\]/,
  ],
  [
    "a place outside the project",
    ["src/tides.ts#Tides", "--to", "../out.ts"],
    /is outside the project\..*\[BAD_OPTION\]/,
  ],
  [
    "a place that is not compiled",
    ["src/tides.ts#Tides", "--to", "out.ts"],
    /does not include out\.ts.*\[BAD_OPTION\]/,
  ],
  [
    "another language",
    ["src/tides.ts#Tides", "--to", "src/out.py"],
    /is neither TypeScript nor JavaScript\..*\[BAD_OPTION\]/,
  ],
  [
    "a name that no class can have",
    ["src/tides.ts#Tides", "--name", "my-tides"],
    /is not a name of a class\..*\[BAD_OPTION\]/,
  ],
];

test.each(WRONG)("%s gives one sentence, and nothing is written", (_, args, message) => {
  const root = project({
    ...installed("kit", "export declare class Crane { lift(): void }"),
    "src/none.ts": "export const none = 1;\n",
    "src/tides.ts":
      "export interface Tides { heightAt(hour: number): number }\nexport type Loose = any;\nexport const limit = 3;\nexport type Either = { a: 1 } | { b: 2 };\nexport type Row = [number, string];\nexport interface Empty {}\n",
  });
  const { code, stdout, stderr } = sleeve(root, "wrap", ...args, "--write");
  expect([code, stdout]).toEqual([2, ""]);
  expect(stderr).toMatch(message);
  expect(stderr.trim().split("\n")).toHaveLength(1);
  expect(existsSync(join(root, "src/tides-forwarder.ts"))).toBe(false);
});

/** Text of a package that would be code, if a quote, a template or a comment around it were lost. It runs where it is loaded. */
const ATTACKS = [
  "plain): void {} static { Math.max(4711); } other1(b: any, c: Kind.plain",
  "): void {} static { Math.max(4711); } other2(b: any, c: string",
  '"): void {} static { Math.max(4711); } other3(b: any, c: "',
  "`): void {} static { Math.max(4711); } other4(b: any, c: `",
  "\u0024{Math.max(4711)}",
  "*/ static { Math.max(4711); } /*",
  "// \\n Math.max(4711);",
  "} from 'kit'; Math.max(4711); import { a",
];

const LAYERS = ["logging", "timing", "access", "guard", "cached"].flatMap((layer) => ["--layer", layer]);

const ATTACKED = ["ts", "js"].flatMap((language) =>
  [
    ["forwarder"],
    ["fake"],
    ["surface"],
    ["decorator", ...LAYERS, "--standalone"],
    ["proxy", ...LAYERS, "--standalone"],
    ["bridge"],
    ["adapter", "--over", "kit#Port"],
  ].map(([kind = "", ...options]) => [kind, language, options] as const),
);

test.each(sampled(ATTACKED))(
  "a %s in %s contains no code that a package has put into its types",
  (kind, language, options) => {
    const quoted = ATTACKS.map((text) => JSON.stringify(text));
    const template = (text: string) => `\`\u0024{string}${text.replace(/[`\\]|\u0024\{/g, "\\$&")}\``;
    const declaration = `
    export declare enum Kind { ${quoted.map((text, index) => `${text} = ${index}`).join(", ")}, plain = 90 }
    declare class Hidden {}
    export { Hidden as ${quoted[7]} };
    export interface Port {
      ${quoted.map((text, index) => `kind${index}(b: (typeof Kind)[${text}]): void; text${index}(b: ${text}): ${text}; ${text}: string; ${JSON.stringify(`()${ATTACKS[index]}`)}(): void;`).join("\n")}
      ${ATTACKS.map((text, index) => `template${index}(b: ${template(text)}): void;`).join("\n")}
      documented(): Hidden;
      picked<Key extends "a//b" ${quoted.map((text) => `| ${text}\n`).join(" ")}>(b: Key): Key extends ${quoted[2]} ? "//" : ${quoted[6]};
    }`;
    const root = project({
      ...installed("kit", declaration),
      [`src/main.${language}`]: "export {};\n",
      "package.json": '{ "type": "module" }',
      "tsconfig.json": JSON.stringify({ compilerOptions: { ...STRICT, allowJs: true }, include: ["src"] }),
    });
    const { text, members } = wrap(root, "kit#Port", "--as", kind, ...options, "--write");
    expect(members).toBe(5 * ATTACKS.length + 2);
    // The open members of an adapter do not compile.
    if (kind !== "adapter") expect(compile(root)).toBe("");
    const { program, errors } = parseSync(`port.${language}`, text);
    expect(errors).toEqual([]);
    expect(JSON.stringify(program)).not.toContain('"value":4711');
  },
);

test("types whose files would have one name are not mixed up", () => {
  const root = project({
    "src/tides.ts": "export interface Tides { a(): void }\nexport interface tides { b(): void }\n",
  });
  const { code, stdout } = sleeve(root, "wrap", "src/tides.ts", "--write");
  expect([code, stdout]).toEqual([
    0,
    expect.stringMatching(
      /src\/tides\.ts#tides would be written to src\/tides-forwarder\.ts, as src\/tides\.ts#Tides is\./,
    ),
  ]);
  expect(readFileSync(join(root, "src/tides-forwarder.ts"), "utf8")).toContain("  a(): void {");
});

test("a folder that cannot be written gives one sentence", () => {
  const root = project({ "src/tides.ts": "export interface Tides { heightAt(hour: number): number }\n" });
  chmodSync(join(root, "src"), 0o555);
  const { code, stderr } = sleeve(root, "wrap", "src/tides.ts#Tides", "--write");
  chmodSync(join(root, "src"), 0o755);
  // The superuser may write everywhere.
  if (process.getuid?.() === 0) expect(code).toBe(0);
  else expect([code, stderr]).toEqual([2, expect.stringContaining("[NOT_WRITABLE]")]);
});

test("a check reports generated files that are stale or edited, but not an adapter that was completed", () => {
  const root = project({
    "src/tides.ts":
      "export interface Tides { heightAt(hour: number): number }\nexport interface Gauge { name: string }\n",
    "sleeve.config.ts": "export default {};\n",
  });
  const found = () => {
    const { stdout } = sleeve(root, "check", "--json");
    const { generated } = JSON.parse(stdout) as {
      readonly generated: readonly { readonly place: { readonly file: string }; readonly found: string }[];
    };
    return generated.map(({ place, found }) => `${place.file}: ${found}`);
  };
  for (const kind of ["forwarder", "fake", "surface"])
    wrap(root, "src/tides.ts#Tides", "--as", kind, "--write");
  wrap(root, "src/tides.ts#Tides", "--as", "adapter", "--over", "src/tides.ts#Gauge", "--write");
  expect(found()).toEqual([]);
  appendFileSync(join(root, "src/tides-adapter.ts"), "// completed\n");
  appendFileSync(join(root, "src/fake-tides.ts"), "// mine\n");
  expect(found()).toEqual(["src/fake-tides.ts: it was edited after it was generated"]);
  writeFileSync(
    join(root, "src/tides.ts"),
    "export interface Tides { levelAt(hour: number): number }\nexport interface Gauge { name: string }\n",
  );
  expect(found()).toEqual([
    "src/fake-tides.ts: it was edited after it was generated",
    "src/tides-forwarder.ts: its type has changed since it was generated",
    "src/tides-surface.ts: its type has changed since it was generated",
  ]);
  writeFileSync(join(root, "src/tides.ts"), "export interface Gauge { name: string }\n");
  expect(found()[1]).toMatch(/it cannot be generated any more: .*has no export Tides/);
  expect(sleeve(root, "check").code).toBe(1);
});
