/** A small project that uses one outside module of a certain style, and what it prints when it runs. */
export interface Style {
  readonly style: string;
  readonly module: string;
  readonly files: Readonly<Record<string, string>>;
  readonly prints: string;
  /** Names of the manual steps. */
  readonly manualSteps?: readonly string[];
}

function pack(name: string, declaration: string, code: string, more: object = {}): Record<string, string> {
  const folder = `node_modules/${name}`;
  return {
    [`${folder}/package.json`]: JSON.stringify({
      name,
      version: "1.0.0",
      type: "module",
      types: "index.d.ts",
      main: "index.js",
      ...more,
    }),
    [`${folder}/index.d.ts`]: declaration,
    [`${folder}/index.js`]: code,
  };
}

const lines = (...text: readonly string[]) => `${text.join("\n")}\n`;

export const STYLES: readonly Style[] = [
  {
    style: "functions, with overloads of which one is used",
    module: "tide-sums",
    files: {
      ...pack(
        "tide-sums",
        lines(
          "export interface Turn { minute: number; level: number; unused: string }",
          "export declare function sum(values: readonly number[]): number;",
          "export declare function sum(values: readonly string[], base: number): string;",
          "export declare function turns(from: number, to: number, step?: number): Turn[];",
          "export declare function never(): void;",
        ),
        "export const sum = (values) => values.reduce((a, b) => a + b, 0);\nexport const turns = (from, to) => [{ minute: from, level: to, unused: '' }];\n",
      ),
      "src/main.ts": lines(
        'import { sum, turns as turnsBetween, type Turn } from "tide-sums";',
        'const show = ({ minute, level }: Turn): string => minute + ":" + level;',
        "const tools = { sum };",
        "console.log(tools.sum([1, 2]), turnsBetween(3, 4).map(show).join());",
      ),
    },
    prints: "3 3:4",
  },
  {
    style: "classes with state, private fields and statics",
    module: "berth-ledger",
    files: {
      ...pack(
        "berth-ledger",
        lines(
          "export declare class Ledger {",
          "  #rows: string[];",
          "  private secret: number;",
          "  static opened: number;",
          "  constructor(name: string, options?: { limit: number });",
          "  readonly name: string;",
          "  book(vessel: string): this;",
          "  get rows(): readonly string[];",
          "  unused(): void;",
          "}",
          "export declare function audit(ledger: Ledger): number;",
        ),
        lines(
          "export class Ledger {",
          "  #rows = []; static opened = 0;",
          "  constructor(name) { this.name = name; Ledger.opened++; }",
          "  book(vessel) { this.#rows.push(vessel); return this; }",
          "  get rows() { return [...this.#rows]; }",
          "}",
          "export const audit = (ledger) => ledger.rows.length;",
        ),
      ),
      "src/open.ts":
        'import { Ledger } from "berth-ledger";\nexport function open(name: string): Ledger {\n  return new Ledger(name);\n}\n',
      "src/main.ts": lines(
        'import { audit } from "berth-ledger";',
        'import { open } from "./open.js";',
        'const ledger = open("north").book("Tern").book("Gull");',
        "console.log(ledger.name, ledger.rows.join(), audit(ledger));",
      ),
    },
    prints: "north Tern,Gull 2",
  },
  {
    style: "a default object",
    module: "quay-post",
    files: {
      ...pack(
        "quay-post",
        lines(
          "export interface Sheet { Heading: string; Body: string; Footer?: string }",
          "interface Post { pinUp(sheet: Sheet): Promise<number>; readonly board: Sheet[]; clear(): void }",
          "declare const post: Post;",
          "export default post;",
        ),
        "const post = { board: [], async pinUp(sheet) { return this.board.push(sheet); } };\nexport default post;\n",
      ),
      "src/main.ts": lines(
        'import post from "quay-post";',
        'const number = await post.pinUp({ Heading: "Arrivals", Body: "Tern" });',
        "console.log(number, post.board.map(({ Body }) => Body).join());",
      ),
    },
    prints: "1 Tern",
  },
  {
    style: "callable with properties",
    module: "chalk-board",
    files: {
      ...pack(
        "chalk-board",
        lines(
          "declare function write(text: string): string;",
          "declare namespace write { let size: number; function bold(text: string): string; function unused(): void }",
          "export default write;",
        ),
        "const write = (text) => '[' + text + ']';\nwrite.size = 2;\nwrite.bold = (text) => '**' + text + '**';\nexport default write;\n",
      ),
      "src/main.ts":
        'import write from "chalk-board";\nconsole.log(write("a"), write.bold("b"), write.size);\n',
    },
    prints: "[a] **b** 2",
  },
  {
    style: "an event emitter with typed events",
    module: "gauge-feed",
    files: {
      ...pack(
        "gauge-feed",
        lines(
          "export interface Reading { feet: number; at: string }",
          "export interface Events { reading: [Reading]; closed: [] }",
          "export declare class Feed {",
          "  on<Name extends keyof Events>(name: Name, then: (...sent: Events[Name]) => void): this;",
          "  emit<Name extends keyof Events>(name: Name, ...sent: Events[Name]): boolean;",
          "  close(): void;",
          "}",
        ),
        lines(
          "export class Feed {",
          "  #all = new Map();",
          "  on(name, then) { this.#all.set(name, then); return this; }",
          "  emit(name, ...sent) { this.#all.get(name)?.(...sent); return true; }",
          "  close() { this.emit('closed'); }",
          "}",
        ),
      ),
      "src/main.ts": lines(
        'import { Feed, type Reading } from "gauge-feed";',
        "const feed = new Feed();",
        "const print = (reading: Reading): void => console.log(reading.feet);",
        'feed.on("reading", print).on("closed", () => console.log("closed"));',
        'feed.emit("reading", { feet: 7, at: "06:00" });',
        "feed.close();",
      ),
    },
    prints: "7\nclosed",
  },
  {
    style: "a builder, fluent to its end",
    module: "notice-maker",
    files: {
      ...pack(
        "notice-maker",
        "export declare class Notice { static to(vessel: string): Notice; line(text: string): Notice; stamp(at: Date): Notice; build(): { text: string } }",
        "export class Notice { parts = []; static to(v) { return new Notice().line(v); } line(t) { this.parts.push(t); return this; } build() { return { text: this.parts.join(' ') }; } }",
      ),
      "src/main.ts":
        'import { Notice } from "notice-maker";\nconsole.log(Notice.to("Tern").line("berth 4").build().text);\n',
    },
    prints: "Tern berth 4",
  },
  {
    style: "generics that compute types",
    module: "deep-chart",
    files: {
      ...pack(
        "deep-chart",
        lines(
          "export type Deep<T> = T extends object ? { readonly [K in keyof T]: Deep<T[K]> } : T;",
          "export declare function freeze<T>(value: T): Deep<T>;",
          "export declare function pick<T extends object, K extends keyof T>(value: T, ...keys: K[]): Pick<T, K>;",
        ),
        "export const freeze = (value) => Object.freeze(value);\nexport const pick = (value, ...keys) => Object.fromEntries(keys.map((key) => [key, value[key]]));\n",
      ),
      "src/main.ts": lines(
        'import { type Deep, freeze, pick } from "deep-chart";',
        "interface Chart { port: string; depth: { metres: number } }",
        'const chart: Deep<Chart> = freeze<Chart>({ port: "Ellery", depth: { metres: 4 } });',
        'console.log(pick(chart, "port").port, chart.depth.metres);',
      ),
    },
    prints: "Ellery 4",
  },
  {
    style: "CommonJS only, exported whole",
    module: "old-tables",
    files: {
      ...pack(
        "old-tables",
        "declare function table(name: string): table.Table;\ndeclare namespace table { interface Table { rows: number; name: string } const version: string; }\nexport = table;\n",
        "module.exports = (name) => ({ rows: 3, name });\nmodule.exports.version = '0.9';\n",
        { type: "commonjs" },
      ),
      "src/main.ts":
        'import table from "old-tables";\nconst one: table.Table = table("north");\nconsole.log(one.rows, table.version);\n',
    },
    prints: "3 0.9",
  },
  {
    style: "types in a package of their own",
    module: "tug-list",
    files: {
      "node_modules/tug-list/package.json":
        '{ "name": "tug-list", "version": "1.0.0", "type": "module", "main": "index.js" }',
      "node_modules/tug-list/index.js": "export const free = () => ['Heron', 'Plover'];\n",
      "node_modules/@types/tug-list/package.json":
        '{ "name": "@types/tug-list", "version": "1.0.0", "types": "index.d.ts" }',
      "node_modules/@types/tug-list/index.d.ts": "export function free(): string[];\n",
      "src/main.ts": 'import { free } from "tug-list";\nconsole.log(free().join());\n',
    },
    prints: "Heron,Plover",
  },
  {
    style: "streams",
    module: "log-lines",
    files: {
      ...pack(
        "log-lines",
        "export interface Line { text: string; at: number }\nexport declare function read(file: string): AsyncIterable<Line>;\nexport declare function write(lines: Iterable<Line>): ReadableStream<string>;\n",
        lines(
          "export async function* read(file) { yield { text: file, at: 1 }; yield { text: 'end', at: 2 }; }",
          "export const write = (all) => new ReadableStream({ start(to) { for (const { text } of all) to.enqueue(text); to.close(); } });",
        ),
      ),
      "src/main.ts": lines(
        'import * as log from "log-lines";',
        "const all: log.Line[] = [];",
        'for await (const line of log.read("a.log")) all.push(line);',
        "const texts: string[] = [];",
        "const reader = log.write(all).getReader();",
        "for (let next = await reader.read(); !next.done; next = await reader.read()) texts.push(next.value);",
        'console.log(texts.join("+"));',
      ),
    },
    prints: "a.log+end",
  },
  {
    style: "a built-in of the runtime",
    module: "node:path",
    files: {
      "src/main.ts":
        'import { basename, join } from "node:path";\nimport * as path from "path";\nconsole.log(basename(join("a", "b.ts"), ".ts"), path.extname("c.json"));\n',
    },
    prints: "b .json",
  },
  {
    style: "errors that callers distinguish",
    module: "radio-desk",
    files: {
      ...pack(
        "radio-desk",
        "export declare class RadioError extends Error { readonly channel: number; constructor(channel: number) }\nexport declare function speak(channel: number): void;\n",
        "export class RadioError extends Error { constructor(channel) { super('no channel'); this.channel = channel; } }\nexport const speak = (channel) => { throw new RadioError(channel); };\n",
      ),
      "src/main.ts": lines(
        'import { RadioError, speak } from "radio-desk";',
        "try {",
        "  speak(99);",
        "} catch (error) {",
        "  if (error instanceof RadioError) console.log(error.message, error.channel);",
        "}",
      ),
    },
    prints: "no channel 99",
  },
  {
    style: "callbacks",
    module: "slow-gauge",
    files: {
      ...pack(
        "slow-gauge",
        "export declare function level(gauge: string, then: (error: Error | null, feet?: number) => void): void;\n",
        "export const level = (gauge, then) => setTimeout(() => then(null, gauge.length), 1);\n",
      ),
      "src/main.ts":
        'import { level } from "slow-gauge";\nlevel("PE-1", (error, feet) => console.log(error, feet));\n',
    },
    prints: "null 4",
  },
  {
    style: "parts with defaults of their own",
    module: "kit",
    files: {
      ...pack("kit", "export declare const kit: string;\n", "export const kit = 'kit';\n", {
        exports: {
          ".": { types: "./index.d.ts", default: "./index.js" },
          "./*": { types: "./*.d.ts", default: "./*.js" },
        },
      }),
      "node_modules/kit/merge.d.ts": "export default function merge(left: object, right: object): object;\n",
      "node_modules/kit/merge.js": "export default (left, right) => ({ ...left, ...right });\n",
      "node_modules/kit/get.d.ts":
        "export default function get(from: object, key: string): unknown;\nexport declare const kit: number;\n",
      "node_modules/kit/get.js": "export default (from, key) => from[key];\nexport const kit = 7;\n",
      "src/main.ts": lines(
        'import { kit } from "kit";',
        'import get, { kit as part } from "kit/get";',
        'import combine from "kit/merge";',
        'console.log(kit, part, get(combine({ a: 1 }, { b: 2 }), "b"));',
      ),
    },
    prints: "kit 7 2",
  },
  {
    style: "enumerations, which are types of their own",
    module: "flags",
    files: {
      ...pack(
        "flags",
        "export declare enum Flag { Red = 1, Green = 2 }\nexport declare function hoist(flag: Flag): string;\nexport declare function count(): number;\n",
        "export const Flag = { Red: 1, Green: 2 };\nexport const hoist = (flag) => 'flag ' + flag;\nexport const count = () => 2;\n",
      ),
      "src/main.ts":
        'import { count, Flag, hoist } from "flags";\nconsole.log(hoist(Flag.Green), count());\n',
    },
    prints: "flag 2 2",
    manualSteps: ["Flag"],
  },
  {
    style: "a class that is extended",
    module: "base-crane",
    files: {
      ...pack(
        "base-crane",
        "export declare class Crane { protected tons: number; lift(): number }\nexport declare const LIMIT: number;\n",
        "export class Crane { tons = 2; lift() { return this.tons; } }\nexport const LIMIT = 9;\n",
      ),
      "src/main.ts": lines(
        'import { Crane, LIMIT } from "base-crane";',
        "class Big extends Crane {",
        "  override lift(): number {",
        "    return this.tons * LIMIT;",
        "  }",
        "}",
        "console.log(new Big().lift());",
      ),
    },
    prints: "18",
    manualSteps: ["Crane"],
  },
  {
    style: "names re-exported by a barrel, and imported later",
    module: "pilots",
    files: {
      ...pack(
        "pilots",
        "export interface Pilot { name: string; boat: string }\nexport declare function onDuty(): Pilot;\nexport default function call(pilot: Pilot): string;\n",
        "export const onDuty = () => ({ name: 'Ines', boat: 'Teal' });\nexport default ({ name }) => 'called ' + name;\n",
      ),
      "src/barrel.ts":
        'export type { Pilot } from "pilots";\nexport { default as call, onDuty } from "pilots";\n',
      "src/main.ts": lines(
        'import { call, onDuty, type Pilot } from "./barrel.js";',
        "const pilot: Pilot = onDuty();",
        'const later = await import("pilots");',
        "console.log(call(pilot), later.onDuty().name);",
      ),
    },
    prints: "called Ines Ines",
  },
  {
    style: "names that are no words, or words of the language",
    module: "odd-names",
    files: {
      ...pack(
        "odd-names",
        'declare const one: number;\ndeclare function two(): string;\nexport { one as "odd name", two as delete };\nexport declare enum Side { Port }\n',
        "const one = 1; const two = () => 'two';\nexport { one as 'odd name', two as delete };\nexport const Side = { Port: 0 };\n",
      ),
      "src/main.ts":
        'import { "odd name" as odd, delete as remove, Side } from "odd-names";\nconsole.log(odd, remove(), Side.Port);\n',
    },
    prints: "1 two 0",
    manualSteps: ["Side"],
  },
  {
    style: "a legacy module of the project's own",
    module: "src/legacy/",
    files: {
      "src/legacy/rates.ts": lines(
        'import type { Vessel } from "../vessel.js";',
        "export class Rates {",
        "  due_for(vessel: Vessel, days: number): number {",
        "    return vessel.tons * days;",
        "  }",
        "}",
        "export const get_rates = (): Rates => new Rates();",
      ),
      "src/vessel.ts": "export interface Vessel {\n  readonly tons: number;\n}\n",
      "src/main.ts":
        'import { get_rates } from "./legacy/rates.js";\nconsole.log(get_rates().due_for({ tons: 3 }, 2));\n',
    },
    prints: "6",
  },
  {
    style: "a module that is added to, by a file that imports nothing else",
    module: "tide-log",
    files: {
      ...pack(
        "tide-log",
        "export interface Entry { level: number }\nexport declare function log(entry: Entry): string;\n",
        "export const log = (entry) => 'level ' + entry.level;\n",
      ),
      "src/added.ts":
        'import type { Entry } from "tide-log";\n\ndeclare module "tide-log" {\n  interface Entry { before?: Entry }\n}\n',
      "src/main.ts": 'import { log } from "tide-log";\nconsole.log(log({ level: 3 }));\n',
    },
    prints: "level 3",
  },
];
