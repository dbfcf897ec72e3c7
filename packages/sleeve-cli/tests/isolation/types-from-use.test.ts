import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, sleeve } from "../harness.ts";
import { isolate, printed, projectOf } from "./isolate.ts";

interface Case {
  readonly rule: string;
  /** Declarations of the package, and its code. */
  readonly types: string;
  readonly code: string;
  readonly main: string;
  /** The target, without its comment. */
  readonly target: string;
}

const MANIFEST =
  '{ "name": "kit", "version": "1.0.0", "type": "module", "types": "index.d.ts", "main": "index.js" }';

function officeOf({ types, code, main }: Pick<Case, "types" | "code" | "main">): string {
  return projectOf({
    module: "kit",
    files: {
      ...installed("kit", types),
      "node_modules/kit/package.json": MANIFEST,
      "node_modules/kit/index.js": code,
      "src/main.ts": main,
    },
  });
}

/** Drafts and moves; the program must print the same, and `check` must find nothing. */
function targetOf(office: Pick<Case, "types" | "code" | "main">): {
  readonly root: string;
  readonly target: string;
} {
  const root = officeOf(office);
  const before = printed(root);
  const { drafted, moved } = isolate(root, "kit");
  expect([drafted.stderr, moved.stderr]).toEqual(["", ""]);
  expect(printed(root)).toBe(before);
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });
  const { files } = JSON.parse(drafted.stdout) as {
    files: readonly { readonly role: string; readonly text: string }[];
  };
  const target = files.find(({ role }) => role === "target")?.text ?? "";
  return { root, target: target.replace(/^\/\*\*.*\*\/\n/, "") };
}

const CASES: readonly Case[] = [
  {
    rule: "members of a default export become members of the target, a class on the right of instanceof a type guard",
    types: `export interface Client { read<T>(channel: string, options?: { every?: "minute" | "hour"; raw?: boolean }): Promise<Answer<T>>; close(): void }
export interface Answer<T, H = {}> { data: T; status: number; headers: H & { etag?: string } }
export declare class NoSignal<T = unknown> extends Error { station: string; data: T }
declare const gauge: { connect(options: { host: string; timeout?: number; proxy?: string }): Client; version: string };
export default gauge;`,
    code: `export class NoSignal extends Error { station = "quay" }
export default { connect: ({ host }) => ({ read: async (channel) => { if (channel === "none") throw new NoSignal("none"); return { data: { level: 3, at: host } }; } }) };`,
    main: `import gauge, { NoSignal } from "kit";
interface Reading { readonly level: number; readonly at: string }
const client = gauge.connect({ host: "quay", timeout: 300 });
const { data } = await client.read<Reading>("level", { every: "minute" });
console.log(data.level, data.at);
try { await client.read<Reading>("none", { every: "minute" }); } catch (error) { if (error instanceof NoSignal) console.log(error.station); }
`,
    target: `export interface Kit {
  isNoSignal(value: unknown): value is NoSignal;
  connect(options: { host: string; timeout: number }): Client;
}

export interface NoSignal extends Error {
  station: string;
}

export interface Client {
  read<T>(channel: string, options: { every: "minute" }): Promise<Answer<T>>;
}

export interface Answer<T> {
  data: T;
}
`,
  },
  {
    rule: "parameters follow from all arguments: optional where a call omits them, wide unless the module is particular",
    types: `export type Unit = "day" | "hour" | "month" | "year";
export interface Day { add(count: number, unit?: Unit): Day; format(template?: string): string; isBefore(other: Day | string | number): boolean; toDate(): Date }
export declare function day(value?: string | number | Date): Day;`,
    code: `const make = (n) => ({ add: (c) => make(n + c), format: () => String(n), isBefore: (o) => n < Number(o.format()) });
export const day = (v) => make(Number(v));`,
    main: `import { day, type Day, type Unit } from "kit";
function later(from: Day, count: number, unit: Unit): Day { return from.add(count, unit); }
const start = day("3");
console.log(later(start, 2, "hour").format("HH"), start.add(1).format("D"), start.isBefore(later(start, 1, "month")));
`,
    target: `export interface Kit {
  day(value: string): Day;
}

export interface Day {
  add(count: number, unit?: Unit): Day;
  format(template: string): string;
  isBefore(other: Day): boolean;
}

export type Unit = "hour" | "month";
`,
  },
  {
    rule: "calls with different event names are overloads, and a callback that returns what it receives keeps its type",
    types: `export interface Config { readonly url: string; headers: Record<string, string>; adapter: unknown }
export interface Bus { on(event: "ready", listener: () => void): this; on(event: "level", listener: (metres: number, at: Date) => void): this; use(change: (config: Config) => Config): number; emit(): void }
export declare function bus(): Bus;`,
    code: `export const bus = () => { const all = {}; let change = (c) => c; return { on(e, f) { all[e] = f; return this; }, use(f) { change = f; return 1; }, emit() { all.ready(); all.level(3); change({ url: "a", headers: {} }); } }; };`,
    main: `import { bus } from "kit";
const one = bus();
one.on("ready", () => console.log("ready"));
one.on("level", (metres) => console.log(metres.toFixed(1)));
one.use((config) => { config.headers["x"] = "1"; return config; });
one.emit();
`,
    target: `export interface Kit {
  bus(): Bus;
}

export interface Bus {
  on(event: "ready", listener: () => void): unknown;
  on(event: "level", listener: (metres: number) => void): unknown;
  use(change: <Value extends Config>(config: Value) => Value): unknown;
  emit(): void;
}

export interface Config {
  headers: Record<string, string>;
}
`,
  },
  {
    rule: "a type parameter remains only where results differ by it, and its class has it only if callers write it or instances differ",
    types: `export declare class Store<K, V> { constructor(options?: { max?: number; ttl?: number }); get(key: K): V | undefined; set(key: K, value: V): this; clear(): void }
export declare class Box<T> { constructor(value: T); readonly value: T }
export declare class Queue<T> { push(item: T): number; take(): T | undefined; size: number }
export declare function queueOf<T>(first: T): Queue<T>;
export declare function last<T>(items: readonly T[]): T | undefined;`,
    code: `export class Store { m = new Map(); get(k) { return this.m.get(k); } set(k, v) { this.m.set(k, v); return this; } }
export class Box { constructor(v) { this.value = v; } }
export const queueOf = (first) => ({ items: [first], push(i) { return this.items.push(i); }, take() { return this.items.shift(); } });
export const last = (items) => items.at(-1);`,
    main: `import { Box, last, queueOf, Store } from "kit";
const queue = queueOf("a");
queue.push("b");
console.log(queue.take()?.length);
const store = new Store<string, number>({ max: 2 });
store.set("a", 1);
console.log(store.get("a"), new Box("x").value.length, new Box(3).value.toFixed());
console.log(last([1, 2])?.toFixed(), last(["a"])?.toUpperCase());
`,
    target: `export interface Kit {
  createBox<T>(value: T): Box<T>;
  createStore<K, V>(options: { max: number }): Store<K, V>;
  last<T>(items: readonly T[]): T | undefined;
  queueOf(first: string): Queue;
}

export interface Box<T> {
  readonly value: T;
}

export interface Store<K, V> {
  get(key: K): V | undefined;
  set(key: K, value: V): Store<K, V>;
}

export interface Queue {
  push(item: string): unknown;
  take(): string | undefined;
}
`,
  },
  {
    rule: "two exports of one thing are one member, and a callable export is named after what it returns",
    types: `declare function kit(name: string): kit.Crane;
declare namespace kit { interface Crane { lift(tons: number): number; name: string } function weigh(load: { tons: number; owner?: string }): number }
export default kit;
export import weigh = kit.weigh;`,
    code: `const kit = (name) => ({ lift: (t) => t, name }); kit.weigh = (l) => l.tons; export default kit; export const weigh = kit.weigh;`,
    main: `import kit, { weigh } from "kit";
console.log(kit("a").lift(2), kit.weigh({ tons: 1 }), weigh({ tons: 2 }));
`,
    target: `export interface Kit {
  crane(name: string): Crane;
  weigh(load: { tons: number }): number;
}

export interface Crane {
  lift(tons: number): number;
}
`,
  },
  {
    rule: "set-up at the start of a module moves to the adapter, and a call that follows other code does not",
    types: `export interface Clock { now(zone: string): string; extend(plugin: Plugin, options?: object): Clock; print(): void; locale(name: string): void }
export type Plugin = (option: unknown, clock: Clock) => void;
export declare const tides: Plugin;
declare const clock: Clock;
export default clock;`,
    code: `const zones = []; export const tides = (o, c) => zones.push("tides");
export default { extend(p) { p(undefined, this); return this; }, locale(n) { zones.push(n); }, now: (z) => z + zones.join(), print: () => console.log(zones.join()) };`,
    main: `import clock, { tides } from "kit";
// Tides are everywhere.
clock.extend(tides);
clock.locale("en");
console.log(clock.now("quay"));
clock.print();
`,
    target: `export interface Kit {
  now(zone: string): string;
  print(): void;
}
`,
  },
];

test.each(CASES)("$rule", (office) => {
  expect(targetOf(office).target).toBe(office.target);
});

test("another implementation is put behind a target by editing the adapter alone, without any assertion", () => {
  const [office] = CASES;
  if (!office) throw new Error("There is no case.");
  const { root } = targetOf(office);
  const before = printed(root);
  writeFileSync(
    join(root, "src/kit/kit-adapter.ts"),
    `import type { Answer, Client, Kit, NoSignal } from "./kit.js";

class Silence extends Error implements NoSignal {
  readonly station = "quay";
}

function clientOf(host: string): Client {
  return {
    async read<T>(channel: string): Promise<Answer<T>> {
      if (channel === "none") throw new Silence();
      return { data: JSON.parse(JSON.stringify({ level: 3, at: host })) };
    },
  };
}

export const kit: Kit = {
  isNoSignal: (value) => value instanceof Silence,
  connect: ({ host }) => clientOf(host),
};
`,
  );
  expect(printed(root)).toBe(before);
});

test("parameters that the adapter passes on do not hide the outside value, and are no reserved words", () => {
  const { root } = targetOf({
    types:
      "declare const tide: { high(tide: string, interface: number): string };\nexport default tide;\nexport declare class Sun { constructor(static: string); name: string }",
    code: "export class Sun { constructor(n) { this.name = n; } }\nexport default { high: (t, n) => t + n };",
    main: 'import tide, { Sun } from "kit";\nconsole.log(tide.high("a", 1), new Sun("s").name);\n',
  });
  const adapter = readFileSync(join(root, "src/kit/kit-adapter.ts"), "utf8");
  expect(adapter).toMatch(/createSun: \(static_\) => new Sun\(static_\)/);
  expect(adapter).toMatch(/high: \(tide, interface_\) => (?!tide\b)\w+\.high\(tide, interface_\)/);
});

test("declared types are copied on request", () => {
  const [office] = CASES;
  if (!office) throw new Error("There is no case.");
  const root = officeOf(office);
  writeFileSync(
    join(root, "sleeve.config.mjs"),
    'export default { isolated: { kit: { target: "src/kit/kit.ts#Kit", adapter: "src/kit/kit-adapter.ts#kit", names: {}, types: "declared" } } };\n',
  );
  expect(sleeve(root, "draft", "kit", "--write", "--json")).toMatchObject({ code: 0 });
  const target = readFileSync(join(root, "src/kit/kit.ts"), "utf8");
  expect(target).toContain('every?: "hour" | "minute"');
  writeFileSync(
    join(root, "sleeve.config.mjs"),
    'export default { isolated: { kit: { target: "src/kit/kit.ts#Kit", adapter: "src/kit/kit-adapter.ts#kit", names: {}, types: "seen" } } };\n',
  );
  const { stderr } = sleeve(root, "draft", "kit");
  expect(stderr).toContain('must set `types` of kit under `isolated` to "used" or "declared"');
});

test("a module whose class is extended has declared types, and its other exports stay usable", () => {
  const { target } = targetOf({
    types:
      "export declare class Base { name: string; run(): string } export declare function start(base: Base): string;",
    code: 'export class Base { name = "b"; run() { return this.name; } } export const start = (b) => b.run();',
    main: 'import { Base, start } from "kit";\nclass Mine extends Base { override name = "m"; }\nconsole.log(start(new Mine()));\n',
  });
  expect(target).toContain("start(base: Base): string;");
});

test("each rule has a case", () => {
  expect(CASES.length).toBe(6);
});
