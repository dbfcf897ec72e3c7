import { spawnSync } from "node:child_process";
import { readdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { project } from "../harness.ts";
import { isolate } from "./isolate.ts";

/** A project of scripts that run without compilation. */
interface Scripts {
  readonly style: string;
  readonly files: Readonly<Record<string, string>>;
  readonly prints: string;
  readonly options?: readonly string[];
  readonly main?: string;
  readonly type?: "module";
  /** Expected text of the drafted adapter. */
  readonly drafts: RegExp;
  /** Files other than the adapter that still import the package. */
  readonly stays?: readonly string[];
  /** Code of the one note that is printed. Default: none. */
  readonly note?: string;
}

const lines = (...text: readonly string[]) => `${text.join("\n")}\n`;

const COMMON_CRANE = {
  "node_modules/crane/package.json": '{ "name": "crane", "version": "1.0.0", "main": "index.js" }',
  "node_modules/crane/index.d.ts": lines(
    "export interface Load { tons: number; label?: string }",
    "export declare class Crane { constructor(name: string); lift(tons: number): string; }",
    "export declare function weigh(load: Load): number;",
    "export declare function request(name: string, then: (error: Error | null, tons?: number) => void): void;",
  ),
  "node_modules/crane/index.js": lines(
    "class Crane { constructor(name) { this.name = name; } lift(tons) { return this.name + ' lifts ' + tons; } }",
    "exports.Crane = Crane;",
    "exports.weigh = (load) => load.tons * 2;",
    "exports.request = (name, then) => setTimeout(() => then(null, name.length), 1);",
  ),
};

const SCRIPTS: readonly Scripts[] = [
  {
    style: "CommonJS, in parts and whole",
    files: {
      ...COMMON_CRANE,
      "src/quay.js": lines(
        '"use strict";',
        'const { Crane, weigh: weighed } = require("crane");',
        "module.exports = { go: () => new Crane('big').lift(weighed({ tons: 4 })) };",
      ),
      "src/main.js": lines(
        'const crane = require("crane");',
        'console.log(require("./quay.js").go(), crane.weigh({ tons: 1 }));',
      ),
    },
    prints: "big lifts 8 2",
    drafts: /createCrane: \(name\) => new Crane\(name\)/,
  },
  {
    style: "modules, with new names",
    type: "module",
    files: {
      ...COMMON_CRANE,
      "src/main.js": lines(
        "// The quay's own.",
        'import { Crane, weigh } from "crane";',
        "",
        "const crane = new Crane('big');",
        "console.log(crane.lift(weigh({ tons: 4 })));",
      ),
    },
    prints: "big lifts 8",
    drafts: /createCrane: \(name\) => new Crane\(name\)/,
  },
  {
    style: "modules that keep their names",
    type: "module",
    options: ["--same-names"],
    files: {
      ...COMMON_CRANE,
      "src/main.js": lines(
        'import * as crane from "crane";',
        'import { weigh as weighed } from "crane";',
        "console.log(new crane.Crane('big').lift(weighed({ tons: 4 })), new crane.Crane('x') instanceof crane.Crane);",
      ),
    },
    prints: "big lifts 8 true",
    drafts: /export const Crane = cranes?\.Crane/,
  },
  {
    style: "modules recognised by their extensions, beside scripts of CommonJS",
    main: "src/main.mjs",
    files: {
      ...COMMON_CRANE,
      "src/old.cjs": 'const { weigh } = require("crane");\nexports.old = () => weigh({ tons: 3 });\n',
      "src/main.mjs": lines(
        'import { weigh } from "crane";',
        'import { old } from "./old.cjs";',
        "console.log(weigh({ tons: 1 }), old());",
      ),
    },
    prints: "2 6",
    drafts: /^exports\.crane = crane;/m,
  },
  {
    style: "a function that is all that CommonJS exports, called and read from",
    files: {
      "node_modules/sum/package.json": '{ "name": "sum", "version": "1.0.0", "main": "index.js" }',
      "node_modules/sum/index.d.ts":
        "declare function sum(...values: number[]): number;\ndeclare namespace sum { const zero: number; }\nexport = sum;\n",
      "node_modules/sum/index.js":
        "module.exports = (...values) => values.reduce((a, b) => a + b, 0);\nmodule.exports.zero = 0;\n",
      "src/main.js": 'const sum = require("sum");\nconsole.log(sum(1, 2), sum.zero);\n',
    },
    prints: "3 0",
    drafts: /require\("sum"\)/,
  },
  {
    style: "functions that call back",
    type: "module",
    files: {
      ...COMMON_CRANE,
      "src/main.js": lines(
        'import { request } from "crane";',
        "request('abc', (error, tons) => {",
        "  console.log(error, tons);",
        "});",
      ),
    },
    prints: "null 3",
    drafts: /requestAsync: \(name\) =>\n\s+new Promise/,
  },
  {
    style: "a function that is called, and data beside it that cannot be replaced",
    files: {
      "node_modules/sum/package.json": '{ "name": "sum", "version": "1.0.0", "main": "index.js" }',
      "node_modules/sum/index.js": "module.exports = (...values) => values.length;\n",
      "node_modules/sum/units.json": '{ "feet": 3.28 }',
      "src/main.js":
        'const sum = require("sum"),\n\tunits = require("sum/units.json");\nconsole.log(sum(1, 2), units.feet);\n',
    },
    prints: "2 3.28",
    drafts: /module\.exports = require\("sum"\)/,
    stays: ["main.js"],
  },
  {
    style: "parts that are imported for what they do, and a declaration that imports types",
    type: "module",
    files: {
      ...COMMON_CRANE,
      "node_modules/crane/oil.js": "globalThis.oiled = true;\n",
      "src/types.d.ts": 'import type { Load } from "crane";\nexport type Loads = Load[];\n',
      "src/main.js":
        'import "crane/oil.js";\nimport { weigh } from "crane";\nconsole.log(globalThis.oiled, weigh({ tons: 1 }));\n',
    },
    prints: "true 2",
    drafts: /import "crane\/oil\.js"/,
  },
  {
    style: "a package without types",
    files: {
      "node_modules/plain/package.json": '{ "name": "plain", "version": "1.0.0", "main": "index.js" }',
      "node_modules/plain/index.js": "exports.go = () => 'gone';\n",
      "src/main.js": 'const { go } = require("plain");\nconsole.log(go());\n',
    },
    prints: "gone",
    drafts: /require\("plain"\)/,
    note: "TYPES_FROM_USE",
  },
];

function printed(root: string, main: string): string {
  const { stdout, stderr } = spawnSync(process.execPath, [join(root, main)], { encoding: "utf8" });
  return `${stdout}${stderr}`.trim();
}

test.each(SCRIPTS)("scripts stay scripts, and behave as before: $style", (scripts) => {
  const { files, prints, options = [], main = "src/main.js", type, drafts, stays = [], note } = scripts;
  const root = project({
    "package.json": JSON.stringify({ name: "office", ...(type && { type }) }),
    ...files,
  });
  rmSync(join(root, "tsconfig.json"));
  expect(printed(root, main)).toBe(prints);
  const [folder = ""] = readdirSync(join(root, "node_modules"));
  const { drafted, moved } = isolate(root, folder, ...options);
  const codes = [...(drafted.stderr + moved.stderr).matchAll(/\[(\w+)\]/g)].map(([, code]) => code);
  expect(codes).toEqual(note === undefined ? [] : [note]);
  expect(printed(root, main)).toBe(prints);
  const own = readdirSync(join(root, "src"), { recursive: true, encoding: "utf8" }).filter((file) =>
    /\.[cm]?[jt]s$/.test(file),
  );
  const importers = own.filter((file) =>
    new RegExp(`["']${folder}[/"']`).test(readFileSync(join(root, "src", file), "utf8")),
  );
  const [adapter = ""] = importers.filter((file) => /-adapter\.[cm]?js$/.test(file));
  expect(importers.filter((file) => file !== adapter)).toEqual(stays);
  expect(readFileSync(join(root, "src", adapter), "utf8")).toMatch(drafts);
});

const REQUIRED = {
  "src/main.js": lines(
    '"use strict";',
    'var path = require("node:path"),',
    '  crane = require("crane");',
    'const { weigh: weighed } = require("crane");',
    'const sum = require("sum");',
    "const { Crane: Hoist } = crane;",
    "function lifted(tons) {",
    '  const { Crane } = require("crane");',
    "  return new Crane(path.basename('quay/big')).lift(tons);",
    "}",
    'console.log(lifted(weighed({ tons: 4 })), require("crane").weigh({ tons: 1 }), crane.weigh({ tons: 2 }));',
    'console.log(sum(1, 2), require("sum")(4), sum.zero, new Hoist("small").lift(1));',
  ),
};

const SUM = {
  "node_modules/sum/package.json": '{ "name": "sum", "version": "1.0.0", "main": "index.js" }',
  "node_modules/sum/index.d.ts":
    "declare function sum(...values: number[]): number;\ndeclare namespace sum { const zero: number; }\nexport = sum;\n",
  "node_modules/sum/index.js":
    "module.exports = (...values) => values.reduce((a, b) => a + b, 0);\nmodule.exports.zero = 0;\n",
};

test("a script requires the adapter's object where it required the module, and uses its members, also of names that it took from the module", () => {
  const root = project({
    "package.json": '{ "name": "office" }',
    ...COMMON_CRANE,
    ...SUM,
    ...REQUIRED,
  });
  rmSync(join(root, "tsconfig.json"));
  const before = printed(root, "src/main.js");
  for (const module of ["crane", "sum"]) expect(isolate(root, module).drafted.code).toBe(0);
  expect(readFileSync(join(root, "src/main.js"), "utf8").split("\n")).toEqual([
    '"use strict";',
    'var path = require("node:path"),',
    '  { cranes } = require("./crane/crane-adapter.js");',
    'const { sum } = require("./sum/sum-adapter.js");',
    "function lifted(tons) {",
    '  const { cranes } = require("./crane/crane-adapter.js");',
    "  return cranes.createCrane(path.basename('quay/big')).lift(tons);",
    "}",
    'console.log(lifted(cranes.weigh({ tons: 4 })), require("./crane/crane-adapter.js").cranes.weigh({ tons: 1 }), cranes.weigh({ tons: 2 }));',
    'console.log(sum.call(1, 2), require("./sum/sum-adapter.js").sum.call(4), sum.zero, cranes.createCrane("small").lift(1));',
    "",
  ]);
  expect(printed(root, "src/main.js")).toBe(before);
  expect(readFileSync(join(root, "src/crane/crane.d.ts"), "utf8").split("\n")).toEqual([
    "/** The parts of crane that this project uses. */",
    "export interface Cranes {",
    "  createCrane(name: string): Crane;",
    "  weigh(load: { tons: number }): number;",
    "}",
    "",
    "export interface Crane {",
    "  lift(tons: number): string;",
    "}",
    "",
  ]);
});

test("a script that requires a module in blocks of its own still runs", () => {
  const root = project({
    "package.json": '{ "name": "office" }',
    ...COMMON_CRANE,
    "src/main.js": lines(
      "function twice() {",
      '  const crane = require("crane");',
      '  const { weigh } = require("crane");',
      "  return crane.weigh({ tons: 1 }) + weigh({ tons: 2 });",
      "}",
      "function once(kind) {",
      "  switch (kind) {",
      '    case "crane":',
      '      const { Crane } = require("crane");',
      '      return new Crane("big").lift(1);',
      "    default:",
      '      const { weigh } = require("crane");',
      "      return weigh({ tons: 3 });",
      "  }",
      "}",
      'for (const crane = require("crane"); ; ) {',
      "  console.log(crane.weigh({ tons: 4 }));",
      "  break;",
      "}",
      'if (process.argv0) var { weigh: later = 1 } = require("crane");',
      'console.log(twice(), once("crane"), once("load"), typeof later);',
    ),
  });
  rmSync(join(root, "tsconfig.json"));
  const before = printed(root, "src/main.js");
  expect(before).toBe("8\n6 big lifts 1 6 function");
  expect(isolate(root, "crane").drafted.code).toBe(0);
  expect(printed(root, "src/main.js")).toBe(before);
  expect(readFileSync(join(root, "src/main.js"), "utf8")).not.toContain('require("crane")');
});

test("every case is listed", () => {
  expect([SCRIPTS.length]).toEqual([9]);
});
