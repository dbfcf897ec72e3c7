import { spawnSync } from "node:child_process";
import { rmSync, symlinkSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");
const MODULES = join(import.meta.dirname, "../../../../node_modules");

/** Creates a project that is compiled to `out`, with types of the runtime. */
function compiledProject(files: Readonly<Record<string, string>>, options: object): string {
  const root = project({
    "package.json": '{ "name": "office" }',
    "node_modules/@types/.keep": "",
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        module: "nodenext",
        target: "es2022",
        types: ["node"],
        skipLibCheck: true,
        outDir: "out",
        rootDir: "src",
        ...options,
      },
      include: ["src"],
    }),
    ...files,
  });
  for (const name of ["@types/node", "undici-types"])
    symlinkSync(join(MODULES, name), join(root, "node_modules", name));
  return root;
}

function printed(root: string, ...files: readonly string[]): readonly string[] {
  rmSync(join(root, "out"), { recursive: true, force: true });
  const { stdout } = spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" });
  if (stdout !== "") return [stdout];
  return files.map((file) => {
    const run = spawnSync(process.execPath, [join(root, "out", file)], { encoding: "utf8" });
    return run.stdout + run.stderr;
  });
}

/** Isolates a module, and expects the project to print the same. */
function expectSame(root: string, module: string, ...files: readonly string[]): void {
  const before = printed(root, ...files);
  expect(before.join()).not.toContain("error");
  const drafted = sleeve(root, "draft", module, "--write");
  expect(drafted).toMatchObject({ code: 0, stderr: "" });
  expect(sleeve(root, "move", module, "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(printed(root, ...files)).toEqual(before);
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
  const { packages } = JSON.parse(sleeve(root, "survey", "--imports", "--json").stdout) as {
    packages: readonly { name: string; imports: readonly { place: { file: string } }[] }[];
  };
  const left = packages.find(({ name }) => name === module)?.imports ?? [];
  for (const { place } of left) expect(place.file).toMatch(/-(?:adapter|outside)\.ts$/);
}

const WINCH =
  "export declare class Winch { pull(): number }\nexport interface Rope { readonly metres: number }\n";

const META = `
const store = new Map<unknown, unknown>();
(Reflect as unknown as { metadata: unknown }).metadata = (key: string, value: unknown) => (target: unknown, member?: unknown) => {
  store.set(key + String(member ?? ""), value);
};
export const marked = (..._: unknown[]): void => {};
export const nameOf = (key: string): string => {
  const value = store.get(key);
  return ((Array.isArray(value) ? value[0] : value) as { name?: string } | undefined)?.name ?? "none";
};
`;

/** Where a type is in the metadata of a decorated class. */
const POSITIONS: Readonly<Record<string, readonly [code: string, key: string]>> = {
  "a parameter of the constructor": [
    "@marked class Deck { constructor(readonly winch: Winch) {} }",
    "design:paramtypes",
  ],
  "a decorated parameter of the constructor": [
    "class Deck { constructor(@marked readonly winch: Winch) {} }",
    "design:paramtypes",
  ],
  "a property": ["class Deck { @marked winch!: Winch; }", "design:typewinch"],
  "a property that may be null": ["class Deck { @marked winch: Winch | null = null; }", "design:typewinch"],
  "an optional property": ["class Deck { @marked winch?: Winch; }", "design:typewinch"],
  "a parameter of a method": [
    "class Deck { @marked run(winch: Winch): number { return winch.pull(); } }",
    "design:paramtypesrun",
  ],
  "a decorated parameter of a method": [
    "class Deck { run(@marked winch: Winch): number { return winch.pull(); } }",
    "design:paramtypesrun",
  ],
  "a result": ["class Deck { @marked run(): Winch { return new Winch(); } }", "design:returntyperun"],
  "a setter": ["class Deck { @marked set winch(winch: Winch) { winch.pull(); } }", "design:typewinch"],
  "an interface": ["@marked class Deck { constructor(readonly rope: Rope) {} }", "design:paramtypes"],
  "an element of a list": ["class Deck { @marked winches: Winch[] = []; }", "design:typewinches"],
  "no decorator": ["class Deck { constructor(readonly winch: Winch) {} }", "design:paramtypes"],
};

test("every position in metadata is listed", () => {
  expect(Object.keys(POSITIONS)).toHaveLength(12);
});

test.each(sampled(Object.entries(POSITIONS)))(
  "metadata of decorators stays the same: %s",
  (_, [code, key]) => {
    const root = compiledProject(
      {
        ...installed("winch", WINCH),
        "node_modules/winch/index.js": "exports.Winch = class Winch { pull() { return 4; } };\n",
        "src/meta.ts": META,
        "src/main.ts": [
          'import { marked, nameOf } from "./meta.js";',
          `import { ${/Rope/.test(code) ? "type Rope, " : ""}Winch } from "winch";`,
          `export ${code.replace(/^@marked class/, "const Other = 1;\n@marked\nexport class")}`,
          `console.log(nameOf(${JSON.stringify(key)}), new Winch().pull(), marked.length);`,
          "",
        ].join("\n"),
      },
      { experimentalDecorators: true, emitDecoratorMetadata: true },
    );
    expectSame(root, "winch", "main.js");
  },
);

const THIN = `
export declare function h(tag: unknown, props: unknown, ...children: unknown[]): h.JSX.Element;
export declare namespace h { namespace JSX { interface Element { readonly html: string } interface IntrinsicElements { [tag: string]: object } } }
export declare function Fragment(props: unknown): h.JSX.Element;
export declare function render(element: h.JSX.Element): string;
declare const thin: { createElement: typeof h; Fragment: typeof Fragment };
export default thin;
`;
const THIN_CODE = `
exports.h = (tag, props, ...children) => ({ html: typeof tag === "function" ? children.map((c) => c.html ?? c).join("") : "<" + tag + ">" + children.map((c) => c.html ?? c).join("") + "</" + tag + ">" });
exports.Fragment = () => {};
exports.render = ({ html }) => html;
exports.default = { createElement: exports.h, Fragment: exports.Fragment };
exports.__esModule = true;
`;

const JSX: Readonly<Record<string, { readonly options: object; readonly code: string }>> = {
  "a factory of the config": {
    options: { jsx: "react", jsxFactory: "h" },
    code: 'import { h, render } from "thin";\nconsole.log(render(<b>one</b>));\n',
  },
  "a factory for fragments": {
    options: { jsx: "react", jsxFactory: "h", jsxFragmentFactory: "Fragment" },
    code: 'import { Fragment, h, render } from "thin";\nconsole.log(render(<><b>one</b></>));\n',
  },
  "a factory of the file": {
    options: { jsx: "react" },
    code: '/** @jsx make */\nimport { h as make, render } from "thin";\nconsole.log(render(<i>two</i>));\n',
  },
  "a factory in a function": {
    options: { jsx: "react", jsxFactory: "h" },
    code: 'import { h, render } from "thin";\nconst Text = () => <b>one</b>;\nconsole.log(render(Text()));\n',
  },
};

test.each(sampled(Object.entries(JSX)))("JSX elements use their factory: %s", (_, { options, code }) => {
  const root = compiledProject(
    { ...installed("thin", THIN), "node_modules/thin/index.js": THIN_CODE, "src/main.tsx": code },
    options,
  );
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
    packages: readonly { members: readonly { member: string }[] }[];
  };
  const members = packages[0]?.members.map(({ member }) => member);
  expect(members).toEqual(
    expect.arrayContaining(code.includes("<>") ? ["h", "Fragment", "render"] : ["h", "render"]),
  );
  expectSame(root, "thin", "main.js");
});

const CONSTRUCTORS: Readonly<Record<string, string>> = {
  "a function in a variable":
    "var Crew = function () { this.crane = new Crane(); };\nCrew.prototype.up = function () { return this.crane.lift(3); };",
  "a declared function":
    "function Crew() { this.crane = new Crane(); }\nCrew.prototype.up = function () { return this.crane.lift(3); };",
  "an object as the prototype":
    "function Crew() { this.crane = new Crane(); }\nCrew.prototype = { up: function () { return this.crane.lift(3); } };",
  "methods that are assigned":
    "function Crew() { this.crane = new Crane(); }\nObject.assign(Crew.prototype, { up() { return this.crane.lift(3); } });",
  "an exported function":
    "exports.Crew = function () { this.crane = new Crane(); };\nvar Crew = exports.Crew;\nexports.Crew.prototype.up = function () { return this.crane.lift(3); };",
  "another name of this":
    "function Crew() { var self = this; self.crane = new Crane(); }\nCrew.prototype.up = function () { var self = this; return [1].map(function () { return self.crane.lift(3); })[0]; };",
  "a field that a method assigns":
    "function Crew() { this.open(); }\nCrew.prototype.open = function () { this.crane = new Crane(); };\nCrew.prototype.up = function () { return this.crane.lift(3); };",
  "a class": "class Crew { constructor() { this.crane = new Crane(); } up() { return this.crane.lift(3); } }",
};

test.each(sampled(Object.entries(CONSTRUCTORS)))(
  "fields of objects of a constructor function are followed: %s",
  (_, code) => {
    const root = project({
      ...installed("crane", "export declare class Crane { lift(tons: number): number; unused(): void }\n"),
      "node_modules/crane/index.js": "exports.Crane = class Crane { lift(tons) { return tons * 2; } };\n",
      "package.json": '{ "name": "office" }',
      "main.js": `var Crane = require("crane").Crane;\n${code}\nconsole.log(new Crew().up());\n`,
    });
    rmSync(join(root, "tsconfig.json"));
    const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
      packages: readonly { members: readonly { member: string }[] }[];
    };
    expect(packages[0]?.members.map(({ member }) => member)).toContain("Crane.lift");
    expect(sleeve(root, "draft", "crane", "--write").code).toBe(0);
    expect(sleeve(root, "move", "crane", "--write").code).toBe(0);
    const { stdout, stderr } = spawnSync(process.execPath, [join(root, "main.js")], { encoding: "utf8" });
    expect(stdout + stderr).toBe("6\n");
  },
);

const MODULES_AS_VALUES: Readonly<Record<string, readonly [declaration: string, code: string]>> = {
  "a called namespace": [
    "declare function f(n: number): number;\ndeclare namespace f {}\nexport = f;\n",
    'import * as f from "fnlib";\nconsole.log(f(2));\n',
  ],
  "a called namespace with members": [
    "declare function f(n: number): number;\ndeclare namespace f { const LIMIT: number }\nexport = f;\n",
    'import * as f from "fnlib";\nconsole.log(f(2), f.LIMIT);\n',
  ],
  "a constructed namespace": [
    "declare class f { constructor(n: number); run(): number }\ndeclare namespace f {}\nexport = f;\n",
    'import * as F from "fnlib";\nconsole.log(new F(2).run());\n',
  ],
};

test.each(sampled(Object.entries(MODULES_AS_VALUES)))(
  "a module that is a value is moved: %s",
  (_, [declaration, code]) => {
    const root = project({
      ...installed("fnlib", declaration),
      "package.json": '{ "name": "office" }',
      "tsconfig.json": JSON.stringify({
        compilerOptions: {
          strict: true,
          module: "commonjs",
          moduleResolution: "node",
          esModuleInterop: false,
          target: "es2020",
          types: [],
          noEmit: true,
        },
        include: ["src"],
      }),
      "src/main.ts": code.replaceAll("console.log", "export const value = Array.of<unknown>"),
    });
    expect(sleeve(root, "draft", "fnlib", "--write").code).toBe(0);
    const moved = JSON.parse(sleeve(root, "move", "fnlib", "--write", "--json").stdout) as {
      stays: readonly object[];
      files: readonly object[];
    };
    expect([moved.stays.length, moved.files.length]).toEqual([0, 1]);
    expect(sleeve(root, "check").code).toBe(0);
  },
);

test("a reference to types is an import, and is not drafted", () => {
  const root = project({
    "node_modules/@types/signals/package.json":
      '{ "name": "@types/signals", "version": "1.0.0", "types": "index.d.ts" }',
    "node_modules/@types/signals/index.d.ts": "declare function raise(flag: string): number;\n",
    "src/a.ts": '/// <reference types="signals" />\nexport const n = raise("x");\n',
  });
  for (const options of [[], ["--imports"]]) {
    const { stdout } = sleeve(root, "survey", ...options);
    expect(stdout).toContain("signals");
  }
  const { code, stderr } = sleeve(root, "draft", "signals", "--write");
  expect(code).toBe(2);
  expect(stderr).toMatch(
    /^sleeve: signals is used only through its global declarations, referenced in src\/a\.ts:1:22, .*\[NOT_IMPORTED\]\n$/,
  );
});
