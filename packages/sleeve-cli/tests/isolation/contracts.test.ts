import { spawnSync } from "node:child_process";
import { readFileSync, symlinkSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const LIBRARY = join(import.meta.dirname, "../../../sleeve");

const DECLARATION = `
export declare class Gauge {
  constructor(options: { station: string; unit?: "m" | "ft" });
  readonly station: string;
  heightAt(hour: number): number;
  on(event: "level", listener: (metres: number) => void): void;
  rise(metres: number): void;
  save(file: string): Promise<void>;
}
export interface Sheet { readonly name: string; readonly tons: number; readonly raw: object; rows(): string[] }
export declare function parse(text: string): Sheet;
export declare class ParseError extends Error { readonly line: number; constructor(line: number) }
export declare function sum<Item>(items: readonly Item[], of: (item: Item) => number): number;
export declare function halt(code: number): void;
`;

const CODE = `
import { writeFileSync } from "node:fs";
export class Gauge {
  #level = 1; #listeners = [];
  constructor({ station, unit = "m" }) { this.station = station + (unit === "m" ? "" : " in feet"); }
  heightAt(hour) { return this.#level + hour / 4; }
  on(_, listener) { this.#listeners.push(listener); }
  rise(metres) { this.#level += metres; for (const listener of this.#listeners) listener(this.#level); }
  async save(file) { writeFileSync(file, String(this.#level)); }
}
export class ParseError extends Error { constructor(line) { super("line " + line); this.line = line; } }
export function parse(text) {
  if (!text.includes(":")) throw new ParseError(1);
  const [name, tons] = text.split(":");
  return { name, tons: Number(tons), raw: new Map([[name, tons]]), rows: () => [name, tons] };
}
export const sum = (items, of) => items.reduce((total, item) => total + of(item), 0);
export const halt = (code) => process.exit(code);
`;

const CALLERS = {
  "src/berth.ts": "export interface Berth { readonly number: number; readonly metres: number }\n",
  "src/gauges.ts": `
import { Gauge } from "kit";
interface Reading { readonly station: string; readonly metres: number }
export class Station {
  readonly #gauge: Gauge;
  constructor(name: string) { this.#gauge = new Gauge({ station: name }); }
  at(hour: number): Reading { return { station: this.#gauge.station, metres: this.#gauge.heightAt(hour) }; }
  watch(): void {
    this.#gauge.on("level", (metres) => console.log("level", metres));
    this.#gauge.rise(0.5);
  }
  keep(): Promise<void> { return this.#gauge.save("gauge.txt"); }
}
`,
  "src/sheets.ts": `
import { halt, parse, ParseError, sum } from "kit";
import type { Berth } from "./berth.ts";
interface Load { readonly tons: number }
export const tonsOf = (text: string): number => parse(text).tons;
export function describe(text: string): string {
  try {
    const { name } = parse(text);
    return name;
  } catch (error) {
    if (error instanceof ParseError) return \`line \${error.line}\`;
    throw error;
  }
}
const berths: readonly Berth[] = [{ number: 1, metres: 40 }, { number: 2, metres: 90 }, { number: 3, metres: 140 }];
export const quay = (loads: readonly Load[]) => sum(loads, ({ tons }) => tons) + sum(berths, ({ metres }) => metres);
export const stop = (code: number) => halt(code);
`,
  "src/main.ts": `
import { Station } from "./gauges.ts";
import { describe, quay, tonsOf } from "./sheets.ts";
const station = new Station("Outer Mole");
console.log(station.at(2), station.at(6));
station.watch();
for (const text of ["Curlew:40", "fog"]) console.log(describe(text));
console.log(tonsOf("Heron:12"), quay([{ tons: 3 }, { tons: 4 }]));
`,
};

type Files = Readonly<Record<string, string>>;

function office(files: Files, code = CODE): string {
  const root = project({
    ...installed("kit", DECLARATION),
    "node_modules/kit/package.json":
      '{ "name": "kit", "version": "1.0.0", "type": "module", "exports": { "types": "./index.d.ts", "default": "./index.js" } }',
    "node_modules/kit/index.js": code,
    "package.json": '{ "name": "office", "type": "module" }',
    ...files,
  });
  symlinkSync(LIBRARY, join(root, "node_modules/sleeve"), "dir");
  return root;
}

interface DraftResult {
  readonly scenarios: {
    readonly written: number;
    readonly isRun: boolean;
    readonly leftOut: readonly { readonly title: string; readonly why: string }[];
  };
  readonly notes: readonly { readonly code: string }[];
  readonly files: readonly { readonly file: string; readonly role: string; readonly text: string }[];
}

function drafted(root: string, ...options: readonly string[]) {
  const { stdout, stderr, code } = sleeve(root, "draft", "kit", "--json", ...options);
  expect({ code, stderr: code === 0 ? "" : stderr }).toEqual({ code: 0, stderr: "" });
  const { scenarios, files, notes } = JSON.parse(stdout) as DraftResult;
  const { file = "", text = "" } = files.find(({ role }) => role === "contract") ?? {};
  return { scenarios, file, text, notes: notes.map((note) => note.code) };
}

const CONTRACT = `import { contract, thrownBy } from "sleeve/conform";
import type { Berth } from "../berth.ts";
import { kit } from "./kit-adapter.ts";
import type { Kit } from "./kit.ts";

/**
 * What every Kit must do: what its callers do, with the results of the adapter over kit.
 *
 * Add scenarios for these, in which they have values that a test can use:
 * - \`save\`: it may have effects, because the module uses files
 * - \`halt\`: no caller uses what it returns
 */
export const kitContract = contract<Kit>("Kit", {
  surface: {
    createGauge: "method",
    isParseError: "method",
    halt: "method",
    parse: "method",
    sum: "method",
  },
  reference: () => kit,
  generated: [],
  scenarios: {
    "station, heightAt, on, as in src/gauges.ts": function*(kit) {
      const gauge = kit.createGauge({ station: "Outer Mole" });
      yield gauge.station;
      yield gauge.heightAt(2);
      yield gauge.station;
      yield gauge.heightAt(6);
      const printed: unknown[] = [];
      gauge.on("level", (metres) => printed.push("level", metres));
      gauge.rise(0.5);
      yield printed;
    },
    "describe, as in src/sheets.ts": function*(kit) {
      const error = thrownBy(() => kit.parse("Curlew:40"));
      yield kit.isParseError(error);
      yield kit.isParseError(error) && error.line;
    },
    "describe, as in src/sheets.ts, 2": function*(kit) {
      const error = thrownBy(() => kit.parse("fog"));
      yield kit.isParseError(error);
      yield kit.isParseError(error) && error.line;
    },
    "tonsOf, as in src/sheets.ts": (kit) => kit.parse("Heron:12").tons,
    "quay, as in src/sheets.ts": (kit) => kit.sum([{ tons: 3 }, { tons: 4 }], ({ tons }) => tons),
    "quay, as in src/sheets.ts, 2": function*(kit) {
      const berths: readonly Berth[] = [{ number: 1, metres: 40 }, { number: 2, metres: 90 }, {
        number: 3,
        metres: 140,
      }];
      yield kit.sum(berths, ({ metres }) => metres);
    },
    "describe, as in src/sheets.ts, 3": function*(kit) {
      const result = kit.parse("Curlew:40");
      yield { name: result.name, tons: result.tons };
    },
    "describe, as in src/sheets.ts, 4": function*(kit) {
      const result = kit.parse("fog");
      yield { name: result.name, tons: result.tons };
    },
  },
});
`;

const LEFT_OUT = [
  { title: "save", why: "it may have effects, because the module uses files" },
  { title: "halt", why: "no caller uses what it returns" },
];

test("a contract compares what callers do, with their values, in the fields that they read", () => {
  const { scenarios, text, file } = drafted(office(CALLERS));
  expect(text).toBe(CONTRACT);
  expect(file).toBe("src/kit/kit.contract.ts");
  expect(scenarios).toEqual({ written: 8, isRun: false, leftOut: LEFT_OUT });
});

/** Wrong second implementations: a text of the module, and what stands there instead. */
const FAULTS: Readonly<Record<string, readonly [string, string]>> = {
  none: ["", ""],
  "another number": ["Number(tons)", "Number(tons) + 1"],
  "another text": ["return { name,", "return { name: name.toUpperCase(),"],
  "another field of an error": ["throw new ParseError(1)", "throw new ParseError(2)"],
  "an error of another class": ["throw new ParseError(1)", 'throw new Error("1")'],
  "an error that is swallowed": ["throw new ParseError(1)", "text += ':'"],
  "an argument that is ignored": ["hour / 4", "0.5"],
  "a callback that gets another value": ["listener(this.#level)", "listener(metres)"],
  "a callback that is not called": ["this.#listeners.push(listener)", ""],
  "an option that is ignored": ["this.station = station +", 'this.station = "Quay" +'],
  "a promise for a value": ["export function parse", "export async function parse"],
  "a function that is not applied to all items": ["items.reduce", "items.slice(1).reduce"],
};

const COMPILED = {
  compilerOptions: {
    ...{ strict: true, module: "nodenext", target: "es2023", lib: ["es2023", "dom"], types: [] },
    ...{ rewriteRelativeImportExtensions: true, skipLibCheck: true, outDir: "out", rootDir: "." },
  },
  include: ["src", "tests"],
};

test("the contract is green over its own adapter, and finds faults of a second one", () => {
  const root = office({ ...CALLERS, "tsconfig.json": JSON.stringify(COMPILED) });
  expect(drafted(root, "--write").file).toBe("tests/kit.contract.ts");
  expect(sleeve(root, "move", "kit", "--write", "--uncommitted").code).toBe(0);
  expect(run(root, TSC, "-p", ".")).toEqual({ stdout: "", stderr: "" });
  const adapter = readFileSync(join(root, "out/src/kit/kit-adapter.js"), "utf8");
  const names = Object.entries(FAULTS).map(([name, [text, fault]], index) => {
    writeFileSync(join(root, `out/src/kit/module${index}.js`), CODE.replace(text, fault));
    writeFileSync(
      join(root, `out/src/kit/adapter${index}.js`),
      adapter.replace('from "kit"', `from "./module${index}.js"`),
    );
    return name;
  });
  const script = `
    import { checkContract } from "sleeve/conform";
    import { kitContract } from "./tests/kit.contract.js";
    for (let index = 0; index < ${names.length}; index++) {
      const { kit } = await import("./src/kit/adapter" + index + ".js");
      console.log((await checkContract(kitContract, { kit: () => kit })).conforms);
    }`;
  writeFileSync(join(root, "out/check.js"), script);
  const { stdout, stderr } = run(root, join(root, "out/check.js"));
  expect(stderr).toBe("");
  const verdicts = stdout.trim().split("\n");
  expect(names.filter((_, index) => verdicts[index] === "true")).toEqual(["none"]);
});

const TSC = join(import.meta.dirname, "../../../../node_modules/typescript/bin/tsc");

function run(cwd: string, ...args: readonly string[]) {
  const { stdout, stderr } = spawnSync(process.execPath, args, { cwd, encoding: "utf8" });
  return { stdout, stderr };
}

test("values, functions and types that refer to each other end, and code that cannot stand alone is left out", () => {
  const { text, scenarios } = drafted(
    office({
      "src/main.ts": `
import { Gauge, parse, sum } from "kit";
interface Quay { readonly berths: readonly Berth[] }
interface Berth { readonly quay: Quay | undefined; readonly tons: number }
const berth: Berth = { quay: { berths: [{ quay: undefined, tons: 4 }] }, tons: parse("Curlew:40").tons };
const isEven = (count: number): boolean => count === 0 || isOdd(count - 1);
const isOdd = (count: number): boolean => count !== 0 && isEven(count - 1);
const gauges: { self(): Gauge } = { self: () => new Gauge({ station: gauges.self().station }) };
export const tons = sum([berth], (item: Berth) => item.tons);
export const even = sum([3], (count) => (isEven(count) ? 1 : 0));
export const station = new Gauge({ station: gauges.self().station }).station;
let calls = 0;
export const counted = sum([1], (item) => { calls += 1; return item; });
const shown = (text: string): string => \`\${text}!\`;
console.log(sum([shown(shown("fog"))], (text) => text.length));
export const turns = (count: number): number => (count === 0 ? parse("fog:1").tons : turns(count - 1));
console.log(turns(2), calls);
`,
    }),
  );
  expect(text).toContain("interface Quay {");
  expect(text).toContain("interface Berth {");
  const calls = [...text.matchAll(/^\s*(?:yield |"[^"]*": \(kit\) => )(.*?)[;,]$/gm)].map(([, code]) => code);
  expect(calls).toEqual([
    'kit.parse("Curlew:40").tons',
    "kit.sum([berth], (item: Berth) => item.tons)",
    // biome-ignore lint/suspicious/noTemplateCurlyInString: it is code.
    'kit.sum([`${`${"fog"}!`}!`], (text) => text.length)',
    'kit.parse("fog:1").tons',
  ]);
  expect(scenarios.leftOut.map(({ title, why }) => `${title}: ${why}`)).toEqual([
    "sum: isEven refers to itself",
    "createGauge.station: gauges.self refers to itself",
  ]);
});

const SAMPLES = `
import { Gauge, parse, sum } from "kit";
export const levelAt = (hour: number, isHigh: boolean) => new Gauge({ station: isHigh ? "Bar" : "Quay" }).heightAt(hour);
export const counted = (day: Date, unit: "day" | "hour") => sum([day.getTime()], (time) => time / (unit === "day" ? 24 : 1));
export const tonsOf = (text: string) => parse(text).tons;
`;

test.each([
  ["kit", []],
  ["kit, with the outside names kept", ["--same-names"]],
])(
  "where no call writes a value out, numbers, flags, literals and dates are samples, and texts are not: %s",
  (_, options) => {
    const { scenarios, ...contract } = drafted(office({ "src/main.ts": SAMPLES }), ...options);
    const text = contract.text.replace(/\s+/g, " ");
    const created = options.length > 0 ? "new kit.Gauge" : "kit.createGauge";
    expect(text).toContain(`${created}({ station: true ? "Bar" : "Quay" }).heightAt(3)`);
    expect(text).toContain(
      '[new Date("2031-05-06T06:00:00Z").getTime()], (time) => time / ("day" === "day" ? 24 : 1)',
    );
    expect(scenarios.leftOut).toEqual([{ title: "parse.tons", why: "text is known only when it runs" }]);
  },
);

/** Returns the scenarios of a contract with their results, and what is left out. */
function recorded(main: string, code = CODE) {
  const root = office({ "src/main.ts": main }, code);
  const { scenarios, text } = drafted(root, "--run-scenarios");
  const results = [
    ...text.matchAll(/use: \(kit\) => ([\s\S]*?),\s*results: (\[[^;]*?\])(, fails: true)?,? \}?/g),
  ];
  return {
    scenarios,
    calls: results.map(([, call, list, fails]) => `${call} ${list}${fails ?? ""}`),
    hasReference: text.includes("reference:"),
  };
}

const USES = `
import { parse, sum } from "kit";
console.log(parse("Curlew:40").tons, sum([1, 2], (item) => item));
try { console.log(parse("fog").tons); } catch { console.log("no sheet"); }
`;

test("on request, scenarios are run: results are recorded, and need no reference", () => {
  expect(recorded(USES)).toEqual({
    scenarios: { written: 3, isRun: true, leftOut: [] },
    calls: [
      'kit.parse("Curlew:40").tons [40]',
      "kit.sum([1, 2], (item) => item) [3]",
      'kit.parse("fog").tons [], fails: true',
    ],
    hasReference: false,
  });
});

test("what fails where no caller handles it is left out, and so is what ends the process", () => {
  const failing = recorded(
    `${USES}import { halt } from "kit";\nconsole.log(parse("rain").tons);\nhalt(3);\n`,
  );
  expect(failing.scenarios.leftOut).toEqual([
    { title: "tons, as in src/main.ts, 2", why: "it throws ParseError: line 1" },
    { title: "halt", why: "no caller uses what it returns" },
  ]);
  const ending = recorded(USES, CODE.replace("items.reduce(", "process.exit(1) ?? items.reduce("));
  expect(ending.scenarios).toEqual({
    written: 2,
    isRun: true,
    leftOut: [{ title: "sum, as in src/main.ts", why: "it ends the process" }],
  });
});

test("an adapter that cannot be loaded leaves no scenario, and says why", () => {
  const { scenarios, hasReference } = recorded(USES, 'throw new Error("no licence");');
  expect(scenarios.written).toBe(0);
  expect(hasReference).toBe(true);
  expect(new Set(scenarios.leftOut.map(({ why }) => why))).toContain(
    "the adapter cannot be loaded: no licence",
  );
});

test.each([
  ["a folder of tests", { "test/a.test.ts": "export {};\n" }, undefined, "test/kit.contract.ts"],
  ["tests beside the code", { "src/a.test.ts": "export {};\n" }, "out", "src/kit/kit.contract.ts"],
  ["no tests and a build", {}, "out", "tests/kit.contract.ts"],
  ["no tests and no build", {}, undefined, "src/kit/kit.contract.ts"],
])("with %s, the contract stands where the tests are", (_, files, outDir, place) => {
  const compilerOptions = { ...COMPILED.compilerOptions, rootDir: "src", outDir };
  const tsconfig = JSON.stringify({ compilerOptions, include: ["src"] });
  const { file, notes } = drafted(office({ ...CALLERS, ...files, "tsconfig.json": tsconfig }));
  expect(file).toBe(place);
  // A build would compile it.
  const isBuilt = outDir !== undefined && place.startsWith("src/");
  expect(notes).toEqual(isBuilt ? ["CONTRACT_COMPILED"] : []);
});
