import { spawnSync } from "node:child_process";
import { symlinkSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { checkContract } from "sleeve/conform";
import { describe, expect, test } from "vitest";
import { project, sampled, sleeve } from "../harness.ts";

const ROOT = join(import.meta.dirname, "../../../..");
const TSC = join(ROOT, "node_modules/typescript/bin/tsc");

interface Proposal {
  readonly member: string;
  readonly uses?: string;
  readonly why: string;
  readonly candidates: readonly { readonly uses: string; readonly score: number; readonly why: string }[];
}

interface Adapted {
  readonly root: string;
  readonly file: string;
  readonly text: string;
  readonly proposals: readonly Proposal[];
  readonly uses: Readonly<Record<string, string | undefined>>;
}

function adapt(root: string, target: string, adaptee: string): Adapted {
  const { stdout, stderr } = sleeve(
    root,
    "wrap",
    target,
    "--as",
    "adapter",
    "--over",
    adaptee,
    "--write",
    "--json",
  );
  expect(stderr).toBe("");
  const { wrappers } = JSON.parse(stdout) as { readonly wrappers: readonly [Adapted] };
  const [{ file, text, proposals }] = wrappers;
  const uses = Object.fromEntries(proposals.map((proposal) => [proposal.member, proposal.uses]));
  return { root, file, text, proposals, uses };
}

function compile(root: string): string {
  return spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout;
}

const OPTIONS = {
  strict: true, exactOptionalPropertyTypes: true, noUncheckedIndexedAccess: true, noImplicitOverride: true, noUnusedLocals: true,
  module: "nodenext", target: "es2023", lib: ["es2023", "dom", "esnext.disposable"], types: ["node"], noEmit: true, skipLibCheck: true,
  allowImportingTsExtensions: true,
}; // biome-ignore format: a list

function projectOf(files: Readonly<Record<string, string>>): string {
  const root = project({
    ...files,
    "package.json": '{ "name": "office", "type": "module" }',
    "tsconfig.json": JSON.stringify({ compilerOptions: OPTIONS, include: ["src"] }),
  });
  symlinkSync(join(ROOT, "node_modules"), join(root, "node_modules"));
  return root;
}

// biome-ignore lint/suspicious/noExplicitAny: each translation has a type of its own, which its project's compiler checks
type Any = any;

/** One translation: the target's member, the adaptee's with its code, a use, and what the use gives. */
interface Translation {
  readonly name: string;
  readonly target: string;
  readonly adaptee: string;
  readonly use: (adapter: never) => unknown;
  readonly result: unknown;
}

const NOON = new Date("2026-03-01T12:00:00Z");

const TRANSLATIONS: readonly Translation[] = [
  { name: "the same member", target: "heightAt(gauge: string): number", adaptee: "heightAt(gauge: string): number { return gauge.length; }", use: (it: Any) => it.heightAt("abc"), result: 3 },
  { name: "a synonym", target: "remove(key: string): boolean", adaptee: "delete(key: string): boolean { return key === 'a'; }", use: (it: Any) => it.remove("a"), result: true },
  { name: "other words", target: "getUserName(): string", adaptee: "user_name(): string { return 'Ada'; }", use: (it: Any) => it.getUserName(), result: "Ada" },
  { name: "an abbreviation", target: "printMessage(text: string): number", adaptee: "printMsg(text: string): number { return text.length; }", use: (it: Any) => it.printMessage("abcd"), result: 4 },
  { name: "a synonym of a domain", target: "bookBerth(berth: number): boolean", adaptee: "reserveMooring(berth: number): boolean { return berth > 2; }", use: (it: Any) => it.bookBerth(3), result: true },
  { name: "a callback to a promise", target: "readGauge(gauge: string): Promise<number>", adaptee: "readGauge(gauge: string, callback: (error: Error | null, value?: number) => void): void { callback(null, gauge.length); }", use: (it: Any) => it.readGauge("abc"), result: 3 },
  { name: "a failing callback to a promise", target: "readGauge(gauge: string): Promise<number>", adaptee: "readGauge(gauge: string, callback: (error: Error | null, value?: number) => void): void { callback(new Error('silent ' + gauge)); }", use: (it: Any) => it.readGauge("x").catch((error: Error) => error.message), result: "silent x" },
  { name: "a promise to a callback", target: "load(key: string, done: (error: Error | null, value?: number) => void): void", adaptee: "async load(key: string): Promise<number> { return key.length; }", use: (it: Any) => new Promise((resolve) => it.load("ab", (_: unknown, value: number) => resolve(value))), result: 2 },
  { name: "a synchronous member to an asynchronous one", target: "find(key: string): Promise<number>", adaptee: "find(key: string): number { return key.length; }", use: (it: Any) => it.find("abc"), result: 3 },
  { name: "a date from milliseconds", target: "nextTide(): Date", adaptee: `nextTide(): number { return ${NOON.getTime()}; }`, use: (it: Any) => it.nextTide(), result: NOON },
  { name: "a date from a string", target: "nextTide(): Promise<Date>", adaptee: `async nextTide(): Promise<string> { return "${NOON.toISOString()}"; }`, use: (it: Any) => it.nextTide(), result: NOON },
  { name: "a date to milliseconds", target: "tideAfter(time: Date): number", adaptee: "tideAfter(time: number): number { return time + 1; }", use: (it: Any) => it.tideAfter(NOON), result: NOON.getTime() + 1 },
  { name: "null to undefined", target: "berthOf(vessel: string): number | undefined", adaptee: "berthOf(vessel: string): number | null { return vessel === 'a' ? 4 : null; }", use: (it: Any) => [it.berthOf("a"), it.berthOf("b")], result: [4, undefined] },
  { name: "a list from an iterable", target: "names(): string[]", adaptee: "names(): Set<string> { return new Set(['a', 'b']); }", use: (it: Any) => it.names(), result: ["a", "b"] },
  { name: "an iterator from a list", target: "entries(): Generator<number, void>", adaptee: "entries(): number[] { return [1, 2]; }", use: (it: Any) => [...it.entries()], result: [1, 2] },
  { name: "a list of converted items", target: "tides(): Date[]", adaptee: `tides(): number[] { return [${NOON.getTime()}]; }`, use: (it: Any) => it.tides(), result: [NOON] },
  { name: "parameters to an object", target: "reserve(berth: number, vessel: string): boolean", adaptee: "reserve(request: { berth: number; vessel: string }): boolean { return request.berth === 2 && request.vessel === 'a'; }", use: (it: Any) => it.reserve(2, "a"), result: true },
  { name: "parameters in another order", target: "move(vessel: string, berth: number): string", adaptee: "move(berth: number, vessel: string): string { return vessel + berth; }", use: (it: Any) => it.move("a", 2), result: "a2" },
  { name: "an optional parameter that is not used", target: "get(key: string, options?: { fresh: boolean }): string", adaptee: "get(key: string): string { return key; }", use: (it: Any) => it.get("k"), result: "k" },
  { name: "a method to a property", target: "readonly size: number", adaptee: "length(): number { return 3; }", use: (it: Any) => it.size, result: 3 },
  { name: "a property to a method", target: "isValid(): boolean", adaptee: "readonly isValid = true;", use: (it: Any) => it.isValid(), result: true },
  { name: "a written property", target: "level: number", adaptee: "level = 2;", use: (it: Any) => ((it.level = 5), it.level), result: 5 },
  { name: "feet to metres", target: "depthMetres(): number", adaptee: "depthFeet(): number { return 10; }", use: (it: Any) => it.depthMetres(), result: 3.048 },
  { name: "seconds to milliseconds", target: "wait(milliseconds: number): number", adaptee: "wait(seconds: number): number { return seconds; }", use: (it: Any) => it.wait(2000), result: 2 },
  { name: "bytes to a Buffer", target: "write(data: Uint8Array): number", adaptee: "write(data: Buffer): number { return data.toString().length; }", use: (it: Any) => it.write(new Uint8Array([65, 66])), result: 2 },
  { name: "a fluent member", target: "add(berth: number): Target", adaptee: "add(berth: number): this { this.total += berth; return this; }\n total = 0;", use: (it: Any) => it.add(2).add(3) === it, result: true },
  { name: "a new object of the adaptee's type", target: "plus(berth: number): Target; valueOf(): number", adaptee: "constructor(readonly total = 1) {}\n plus(berth: number): Adaptee { return new Adaptee(this.total + berth); }\n valueOf(): number { return this.total; }", use: (it: Any) => it.plus(2).plus(3).valueOf(), result: 6 },
  { name: "some of several signatures", target: "at(hour: number): string; at(span: { from: Map<string, number> }): number", adaptee: "at(hour: number): string { return 'h' + hour; }", use: (it: Any) => [it.at(2), thrown(() => it.at({}))], result: ["h2", "at: these arguments are not adapted"] },
  { name: "a text enumeration to a union", target: "state(): 'open' | 'closed'", adaptee: "state(): State { return State.Open; }", use: (it: Any) => it.state(), result: "open" },
  { name: "a union to a text enumeration", target: "move(to: 'open' | 'closed'): string", adaptee: "move(to: State): string { return 'to ' + to; }", use: (it: Any) => it.move("closed"), result: "to closed" },
  { name: "a numeric enumeration to a union, by its names", target: "kind(): Promise<'low-water' | 'high-water'>", adaptee: "kind(): Kind { return Kind.HighWater; }", use: (it: Any) => it.kind(), result: "high-water" },
  { name: "a union to a numeric enumeration, by its names", target: "count(kind: 'low-water' | 'high-water'): number", adaptee: "count(kind: Kind): number { return kind + 10; }", use: (it: Any) => [it.count("low-water"), it.count("high-water")], result: [10, 11] },
  { name: "a list of values of an enumeration", target: "kinds(): ('lowWater' | 'highWater')[]", adaptee: "kinds(): Kind[] { return [Kind.HighWater, Kind.LowWater]; }", use: (it: Any) => it.kinds(), result: ["highWater", "lowWater"] },
  { name: "some of several texts", target: "startOf(unit: 'year' | 'month' | 'quarter'): number", adaptee: "startOf(unit: 'year' | 'month' | 'day'): number { return unit.length; }", use: (it: Any) => [it.startOf("month"), thrown(() => it.startOf("quarter"))], result: [5, "startOf: unit has a value that is not adapted"] },
  { name: "a text to one of several", target: "setLevel(level: string): string", adaptee: "setLevel(level: 'debug' | 'info'): string { return 'now ' + level; }", use: (it: Any) => [it.setLevel("info"), thrown(() => it.setLevel("loud"))], result: ["now info", "setLevel: level has a value that is not adapted"] },
  { name: "an error number to an error", target: "book(berth: number): Promise<void>", adaptee: "book(berth: number): Fault { return berth > 3 ? Fault.NoBerth : Fault.None; }", use: async (it: Any) => [await it.book(2), await it.book(5).catch((error: Any) => [error.message, error.code])], result: [undefined, ["book: error number 2", 2]] },
  { name: "no error number, where 0 is a value like others", target: "turn(berth: number): void", adaptee: "turn(berth: number): Side { return berth > 3 ? Side.Port : Side.None; }", use: (it: Any) => it.turn(5), result: undefined },
  { name: "a composition of two calls", target: "heightAt(gauge: string, hour: number): number", adaptee: "gauge(name: string): Gauge { return new Gauge(name); }", use: (it: Any) => it.heightAt("abc", 4), result: 7 },
  { name: "a composition of two calls, of which the first returns a promise", target: "heightAt(gauge: string, hour: number): Promise<number>", adaptee: "async gauge(name: string): Promise<Gauge> { return new Gauge(name); }", use: (it: Any) => it.heightAt("abc", 4), result: 7 },
  { name: "a member of a property", target: "gaugeName(): string", adaptee: "readonly gauge = new Gauge('abc');", use: (it: Any) => it.gaugeName(), result: "abc" },
]; // biome-ignore format: a table

/** Types that adaptees use. */
const TYPES = `
export enum State { Open = "open", Closed = "closed" }
export enum Kind { LowWater, HighWater }
export enum Side { None, Port }
export enum Fault { None, NoGauge, NoBerth }
export class Gauge {
  constructor(readonly name: string) {}
  heightAt(hour: number): number { return this.name.length + hour; }
}
`;

function thrown(run: () => unknown): string {
  try {
    run();
  } catch (error) {
    return (error as Error).message;
  }
  return "nothing was thrown";
}

describe("a proposal translates", () => {
  test.each(sampled(TRANSLATIONS))("$name", async ({ target, adaptee, use, result }) => {
    const root = projectOf({
      "src/target.ts": `export interface Target { ${target} }\n`,
      "src/adaptee.ts": `${TYPES}export class Adaptee {\n ${adaptee}\n}\n`,
    });
    const { file, proposals } = adapt(root, "src/target.ts#Target", "src/adaptee.ts#Adaptee");
    expect(proposals.filter(({ uses }) => uses === undefined)).toEqual([]);
    expect(compile(root)).toBe("");
    const load = (path: string) => import(pathToFileURL(join(root, path)).href) as Promise<Any>;
    const { Adaptee } = await load("src/adaptee.ts");
    const { TargetAdapter } = await load(file);
    expect(await use(new TargetAdapter(new Adaptee()) as never)).toEqual(result);
  });

  test("in many ways, each of which is tested", () => {
    expect(TRANSLATIONS.length).toBe(40);
  });
});

test("a member without a good proposal does not compile until it is completed, and lists its candidates", () => {
  const root = projectOf({
    "src/target.ts":
      "export interface Target { bookTug(tug: string): boolean; paint(colour: string): void; dock(): string }\n",
    "src/adaptee.ts":
      "export class Adaptee { bookTug(tug: { id: number }): boolean { return tug.id > 0; } moorings = 3; }\n",
  });
  const { text, uses, proposals } = adapt(root, "src/target.ts#Target", "src/adaptee.ts#Adaptee");
  expect(uses).toEqual({ bookTug: undefined, paint: undefined, dock: undefined });
  expect(text).toMatch(/Complete this member\. Candidates.*\n.*- bookTug \(0\.\d\d\): /);
  expect(text).toContain("The adaptee has no similar one.");
  expect(compile(root).match(/target-adapter\.ts\(.*error TS2322/g)).toHaveLength(3);
  expect(proposals[0]?.candidates[0]?.why).toContain("parameter `tug`");
  const explained = sleeve(
    root,
    "wrap",
    "src/target.ts#Target",
    "--as",
    "adapter",
    "--over",
    "src/adaptee.ts#Adaptee",
    "--explain",
  );
  expect(explained.stdout).toMatch(/bookTug +- +0\.\d\d/);
  expect(explained.stdout).toContain("3 to complete.");
});

test("an adapter needs an adaptee, and nothing else takes one", () => {
  const root = projectOf({ "src/target.ts": "export interface Target { at(): number }\n" });
  expect(sleeve(root, "wrap", "src/target.ts#Target", "--as", "adapter").stderr).toContain("Add --over");
  expect(sleeve(root, "wrap", "src/target.ts#Target", "--over", "src/target.ts#Target").stderr).toContain(
    "--over is for adapters",
  );
});

test("a bridge has an abstraction, an adapter for each implementation, and a contract that runs over all of them", async () => {
  const root = projectOf({
    "src/channel.ts":
      "export interface Channel { post(notice: string): Promise<boolean>; readonly label: string }\n",
    "src/vhf.ts":
      "export class Vhf { readonly label: string = 'vhf'; post(notice: string): boolean { return notice !== ''; } }\n",
    "src/lights.ts":
      "export class Lights { readonly label: string = 'lights'; post(_: string, done: (error: Error | null, ok?: boolean) => void): void { done(null, true); } }\n",
  });
  const over = ["--over", "src/vhf.ts#Vhf", "--over", "src/lights.ts#Lights"];
  const args = ["src/channel.ts#Channel", "--as", "bridge", ...over, "--to", "src/notices"];
  const { stdout, code } = sleeve(root, "wrap", ...args, "--write");
  expect([code, stdout.match(/src\/notices\/\S+/g)]).toEqual([
    0,
    [
      "src/notices/channel-bridge.ts",
      "src/notices/vhf-channel.ts",
      "src/notices/lights-channel.ts",
      "src/notices/channel-contract.ts",
    ],
  ]);
  expect(compile(root)).toBe("");
  expect(sleeve(root, "wrap", "--check").code).toBe(0);
  const load = (file: string) => import(pathToFileURL(join(root, "src", file)).href) as Promise<Any>;
  const { channelContract, implementationsOver } = await load("notices/channel-contract.ts");
  const [{ Vhf }, { Lights }, { ChannelBridge }] = [
    await load("vhf.ts"),
    await load("lights.ts"),
    await load("notices/channel-bridge.ts"),
  ];
  const implementations = implementationsOver({
    vhfChannel: () => new Vhf(),
    lightsChannel: () => new Lights(),
  });
  const bridge = () =>
    new ChannelBridge({ vhf: implementations.vhfChannel(), lights: implementations.lightsChannel() }, "vhf");
  const report = await checkContract(channelContract, { ...implementations, bridge });
  expect(report.implementations.map(({ conforms }) => conforms)).toEqual([true, true, true]);
  const channel = bridge();
  expect([channel.label, await channel.post("")]).toEqual(["vhf", false]);
  channel.use("lights");
  expect([channel.label, await channel.post("")]).toEqual(["lights", true]);
  expect(() => channel.use("flags")).toThrow("There is no implementation flags. There are: vhf, lights.");
});

/** Pairs of packages for one job. What members of the first should use of the second. Others may use one of the same name. */
const PAIRS: readonly (readonly [target: string, adaptee: string, expected: string])[] = [
  ["dayjs#Dayjs", "luxon#DateTime", "isValid year month date:day hour minute second millisecond format:toFormat valueOf daysInMonth toDate:toJSDate toJSON toISOString:toISO toString add:plus subtract:minus utcOffset:offset startOf get"],
  ["luxon#DateTime", "dayjs#Dayjs", "isValid locale year month day hour minute second millisecond toString valueOf toJSON toJSDate:toDate toFormat:format toISO:toISOString plus:add minus:subtract offset:utcOffset startOf get"],
  ["pino#BaseLogger", "winston#Logger", "level error warn info debug"],
  ["winston#Logger", "pino#Logger", "level error warn info debug isLevelEnabled eventNames getMaxListeners setMaxListeners emit listenerCount listeners off removeListener:off rawListeners removeAllListeners child verbose:trace silly:trace warning:warn"],
  ["eventemitter3#EventEmitter", "node:events#EventEmitter", "eventNames listeners listenerCount emit on addListener once removeListener off removeAllListeners"],
  ["bignumber.js#BigNumber", "decimal.js#Decimal", "absoluteValue abs decimalPlaces dp dividedBy div dividedToIntegerBy pow eq isFinite gt gte isInteger lt lte isNaN isNegative isPositive isZero minus modulo mod times negated plus precision sd squareRoot sqrt toExponential toFixed toJSON toNumber toPrecision toString valueOf isGreaterThan:greaterThan isLessThan:lessThan isGreaterThanOrEqualTo:greaterThanOrEqualTo isLessThanOrEqualTo:lessThanOrEqualTo e s"],
  ["decimal.js#Decimal", "bignumber.js#BigNumber", "absoluteValue abs decimalPlaces dp isFinite isInteger isInt:isInteger isNaN isNegative isNeg:isNegative isPositive isPos:isPositive isZero negated neg:negated precision sd squareRoot sqrt toExponential toFixed toJSON toNumber toPrecision toString valueOf e s toDecimalPlaces:decimalPlaces comparedTo dividedBy div dividedToIntegerBy eq gt gte lt lte minus modulo mod plus times pow greaterThan:isGreaterThan greaterThanOrEqualTo:isGreaterThanOrEqualTo lessThan:isLessThan lessThanOrEqualTo:isLessThanOrEqualTo sub:minus add:plus mul:times divToInt:dividedToIntegerBy equals:eq"],
  ["node:fs/promises#*", "fs-extra#*", "access copyFile rename truncate rmdir rm mkdir readdir readlink symlink lstat stat link unlink chmod lchmod lchown chown utimes realpath mkdtemp opendir constants lutimes statfs cp"],
]; // biome-ignore format: a table

test.each(sampled(PAIRS))(
  "members of %s that %s has are found, and no others",
  (target, adaptee, expected) => {
    const { uses } = adapt(projectOf({ "src/main.ts": "export {};\n" }), target, adaptee);
    const wanted = new Map(
      expected.split(" ").map((entry) => {
        const [member = "", other = member] = entry.split(":");
        return [member, other] as const;
      }),
    );
    const proposed = Object.entries(uses).filter(([, other]) => other !== undefined);
    const wrong = proposed.filter(([member, other]) => other !== member && wanted.get(member) !== other);
    const missed = [...wanted].filter(([member, other]) => uses[member] !== other).map(([member]) => member);
    expect(wrong).toEqual([]);
    expect(missed.length / wanted.size, missed.join()).toBeLessThanOrEqual(0.15);
  },
);
