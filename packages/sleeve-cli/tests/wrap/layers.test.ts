import { spawnSync } from "node:child_process";
import { readdirSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import fc from "fast-check";
import {
  type AccessRequest,
  access,
  between,
  cached,
  decorate,
  guard,
  type Layer,
  type LogEntry,
  limited,
  logging,
  retrying,
  type Sample,
  timing,
} from "sleeve";
import { describe, expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const ROOT = join(import.meta.dirname, "../../../..");
const TSC = join(ROOT, "node_modules/typescript/bin/tsc");

/** A class whose methods end in every way that a call can. */
const SUBJECT = `export class Winch {
  load = 3;
  readonly id = "w";
  trace: string[] = [];
  stop: (reason: string) => string = (reason) => { this.trace.push("stop"); return "stopped: " + reason; };
  haul(tons: number): number { this.trace.push("haul"); if (tons > 7) throw new RangeError("too heavy"); return tons * this.load; }
  async later(tons: number): Promise<number> {
    this.trace.push("later");
    if (tons === 5 && this.trace.filter((name) => name === "later").length % 2 === 1) throw new Error("busy");
    return tons + 1;
  }
  async never(tons: number): Promise<number> { this.trace.push("never"); throw new TypeError("never " + tons); }
  maybe(tons: number): number | Promise<number> { this.trace.push("maybe"); return tons % 2 ? tons : Promise.resolve(tons); }
  async login(user: string, password: string): Promise<string> { return user + password.length; }
  turn(by: number): this { this.trace.push("turn"); this.load += by; return this; }
  release(): void { this.trace.push("release"); }
  self(): Winch { return this; }
  *each(count: number): Generator<number, string> { for (let at = 0; at < count; at++) yield at; return "done"; }
  async *eachLater(count: number): AsyncGenerator<number> { for (let at = 0; at < count; at++) yield at; }
  both(value: string): string;
  both(value: number): number;
  both(value: string | number): string | number { return value; }
  get depth(): number { return this.load * 2; }
  set depth(value: number) { this.load = value / 2; }
}
`;

interface Winch {
  load: number;
  depth: number;
  readonly id: string;
  readonly trace: readonly string[];
  readonly stop: (reason: string) => string;
  haul(tons: number): number;
  later(tons: number): Promise<number>;
  never(tons: number): Promise<number>;
  maybe(tons: number): number | Promise<number>;
  login(user: string, password: string): Promise<string>;
  turn(by: number): this;
  release(): void;
  self(): Winch;
  each(count: number): Generator<number, string>;
  eachLater(count: number): AsyncGenerator<number>;
  both(value: string | number): string | number;
}

/** Uses of a winch. Each is given a small number. */
const USES: Readonly<Record<string, (winch: Winch, number: number) => unknown>> = {
  haul: (winch, number) => winch.haul(number),
  later: (winch, number) => winch.later(number),
  never: (winch, number) => winch.never(number),
  maybe: (winch, number) => winch.maybe(number),
  login: (winch, number) => winch.login("Ada Quill", "x".repeat(number)),
  turn: (winch, number) => winch.turn(number) === winch,
  self: (winch) => winch.self() === winch,
  release: (winch) => winch.release(),
  each: (winch, number) => [...winch.each(number)],
  eachLater: async (winch, number) => {
    const all: number[] = [];
    for await (const item of winch.eachLater(number)) all.push(item);
    return all;
  },
  both: (winch, number) => [winch.both(number), winch.both("a")],
  stop: (winch, number) => winch.stop(String(number)),
  "same function": (winch) => new Set([winch.stop, winch.stop]).size,
  load: (winch, number) => {
    winch.load = number;
    return winch.load;
  },
  depth: (winch, number) => {
    winch.depth = number * 30;
    return winch.depth;
  },
  id: (winch) => winch.id,
};

/** What the layers of one run saw. */
class Seen {
  readonly entries: unknown[] = [];
  readonly samples: unknown[] = [];
  readonly requests: unknown[] = [];
  readonly #numbers = new Map<number, number>();

  readonly log = (entry: LogEntry, message: string): void => {
    const { call, within, ...rest } = entry;
    // A returned winch is logged by the name of its class.
    const value = "value" in rest && /^(turn|self)$/.test(rest.member) ? "a winch" : undefined;
    this.entries.push([
      this.#numberOf(call),
      this.#numberOf(within),
      { ...rest, ...(value && { value }) },
      message,
    ]);
  };
  readonly logger = { info: this.log, error: this.log };
  readonly onSample = ({ member, status }: Sample): void => {
    this.samples.push([member, status]);
  };
  readonly may = ({ use, member, args }: AccessRequest): boolean => {
    this.requests.push([use, member, [...args]]);
    return args[0] !== 4 && !(member === "release");
  };

  #numberOf(call: number): number {
    const number = this.#numbers.get(call) ?? this.#numbers.size;
    this.#numbers.set(call, number);
    return number;
  }
}

const clock = { now: () => 0, after: (_: number, run: () => void) => cancelOf(setTimeout(run, 0)) };
const patient = { now: () => 0, after: () => () => {} };

function cancelOf(timer: ReturnType<typeof setTimeout>): () => void {
  return () => clearTimeout(timer);
}

const CHECKS = {
  haul: [between(0, 6)],
  later: [between(0, 6)],
  load: between(0, 99),
  login: [undefined, (text: string) => text !== ""],
};

/** Each layer: as an option of the command, at run time, and as an option of the generated class. */
const LAYERS: Readonly<
  Record<
    string,
    readonly [option: string, layer: (seen: Seen) => Layer<Winch>, given: (seen: Seen) => unknown]
  >
> = {
  logging: ["logging", ({ logger }) => logging({ logger }), ({ logger }) => ({ logger })],
  timing: ["timing", ({ onSample }) => timing({ onSample, clock }), ({ onSample }) => ({ onSample, clock })],
  access: ["access", ({ may }) => access(may), ({ may }) => may],
  guard: ["guard:haul,later,load,login", () => guard<Winch>(CHECKS as never), () => CHECKS],
  cached: [
    "cached:haul,later",
    () => cached({ only: ["haul", "later"], clearedBy: ["turn"], clock }),
    () => ({ clock }),
  ],
  retrying: [
    "retrying:later,never",
    () => retrying({ only: ["later", "never"], clock, random: () => 0 }) as Layer<Winch>,
    () => ({ clock, random: () => 0 }),
  ],
  limited: [
    "limited:later,never",
    () => limited({ only: ["later", "never"], timeout: 50, clock: patient }) as Layer<Winch>,
    () => ({ timeout: 50, clock: patient }),
  ],
};

type Program = readonly (readonly [use: string, number: number])[];

async function run(winch: Winch, program: Program): Promise<readonly unknown[]> {
  const outcomes: unknown[] = [];
  for (const [use, number] of program) {
    try {
      const result = USES[use]?.(winch, number);
      outcomes.push([use, result instanceof Promise ? "promise" : "value", await result]);
    } catch (error) {
      const { name, message, code } = error as Error & { readonly code?: string };
      outcomes.push([use, name, message, code]);
    }
  }
  return outcomes;
}

/**
 * Uses in which the two differ under an access check. At run time, it wraps generators, so that layers around it do not see them
 * end; it rejects once a method has returned a promise; and logging a wrapper reads its fields.
 */
const DIFFERENT = /^(?:each|eachLater|maybe|self|turn)$/;

function programsFor(names: readonly string[]): fc.Arbitrary<Program> {
  const uses = Object.keys(USES).filter((use) => !names.includes("access") || !DIFFERENT.test(use));
  const step = fc.tuple(fc.constantFrom(...uses), fc.integer({ min: 0, max: 9 }));
  return fc.array(step, { minLength: 1, maxLength: 25 });
}

/** Stacks of one to five layers in random order, the same in each run. */
const STACKS = fc
  .sample(fc.shuffledSubarray(Object.keys(LAYERS), { minLength: 1, maxLength: 5 }), { numRuns: 60, seed: 4 })
  .filter((names, index, all) => all.findIndex((other) => other.join() === names.join()) === index);

interface Generated {
  readonly root: string;
  readonly file: string;
  readonly text: string;
  readonly load: <Exports>(path?: string) => Promise<Exports>;
}

function generate(source: string, ...args: readonly string[]): Generated {
  const root = project({
    ...installed("unused", "export {};\n"),
    "src/winch.ts": source,
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true, exactOptionalPropertyTypes: true, noUncheckedIndexedAccess: true, noUnusedLocals: true,
        noUnusedParameters: true, noImplicitOverride: true, noPropertyAccessFromIndexSignature: true,
        erasableSyntaxOnly: true, module: "nodenext", target: "es2023", noEmit: true, types: [],
        allowImportingTsExtensions: true, paths: { "sleeve/generated": [join(ROOT, "packages/sleeve/dist/generated/index.d.ts")] },
      }, // biome-ignore format: a list
      include: ["src"],
    }),
  });
  symlinkSync(join(ROOT, "packages/sleeve"), join(root, "node_modules/sleeve"));
  const { stdout, stderr } = sleeve(root, "wrap", "src/winch.ts#Winch", ...args, "--write", "--json");
  expect(stderr).toBe("");
  const { wrappers } = JSON.parse(stdout) as {
    readonly wrappers: readonly [
      { readonly file: string; readonly text: string; readonly refused: readonly unknown[] },
    ];
  };
  const [{ file, text, refused }] = wrappers;
  expect(refused).toEqual([]);
  expect(spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout).toBe("");
  const load = <Exports>(path = file) => import(pathToFileURL(join(root, path)).href) as Promise<Exports>;
  return { root, file, text, load };
}

type Constructor = new (subject: unknown, layers?: object) => Winch;

async function compare(names: readonly string[]): Promise<void> {
  const options = names.flatMap((name) => ["--layer", LAYERS[name]?.[0] ?? ""]);
  const cleared = names.includes("cached") ? ["--cleared-by", "turn"] : [];
  const { load } = generate(SUBJECT, "--as", "decorator", ...options, ...cleared);
  const { Winch } = await load<{ readonly Winch: new () => Winch }>("src/winch.ts");
  const { WinchDecorator } = await load<{ readonly WinchDecorator: Constructor }>();
  await fc.assert(
    fc.asyncProperty(programsFor(names), async (program) => {
      const [atRunTime, generated] = [new Seen(), new Seen()];
      const layers = names.map((name) => LAYERS[name]?.[1](atRunTime)) as [Layer<Winch>];
      const given = Object.fromEntries(names.map((name) => [name, LAYERS[name]?.[2](generated)]));
      const [own, other] = [new Winch(), new Winch()];
      const left = decorate(own, ...layers);
      const right = new WinchDecorator(other, given);
      expect(await run(right, program)).toEqual(await run(left, program));
      expect(generated.entries).toEqual(atRunTime.entries);
      expect(generated.samples).toEqual(atRunTime.samples);
      expect(generated.requests).toEqual(atRunTime.requests);
      expect(other.trace).toEqual(own.trace);
    }),
    { numRuns: 60, seed: 7 },
  );
}

describe("a generated decorator and one at run time give the same results, errors, entries, samples and decisions", () => {
  test.each(sampled(STACKS.map((names) => [names.join(" > "), names] as const)))("%s", async (_, names) => {
    await compare(names);
  });
});

test("stacks are of one to five layers, each in many places", () => {
  expect(STACKS.length).toBeGreaterThanOrEqual(50);
  for (const name of Object.keys(LAYERS)) {
    const places = new Set(STACKS.flatMap((names) => (names.includes(name) ? names.indexOf(name) : [])));
    expect(places.size, name).toBeGreaterThanOrEqual(3);
  }
});

const SMALL = `export class Winch {
  haul(tons: number): number { if (tons > 7) throw new RangeError("too heavy"); return tons * 2; }
  async login(user: string, password: string): Promise<string> { return user + password.length; }
  apiToken(): string { return "mackerel"; }
  load = 1;
}
`;

interface SmallWinch {
  load: number;
  haul(tons: number): number;
  login(user: string, password: string): Promise<string>;
}

type SmallClass<Layers> = new (subject: SmallWinch, layers: Layers) => SmallWinch;

async function small<Layers>(
  ...options: readonly string[]
): Promise<Generated & { readonly subject: SmallWinch; readonly Wrapper: SmallClass<Layers> }> {
  const generated = generate(SMALL, "--as", "decorator", ...options);
  const { Winch } = await generated.load<{ readonly Winch: new () => SmallWinch }>("src/winch.ts");
  const { WinchDecorator } = await generated.load<{ readonly WinchDecorator: SmallClass<Layers> }>();
  return { ...generated, subject: new Winch(), Wrapper: WinchDecorator };
}

test("a layer's own failure never reaches the caller, and is reported once", async () => {
  const warnings: unknown[] = [];
  const warned = (warning: Error & { readonly code?: string }) =>
    warning.code === "LAYER_FAILED" && warnings.push(warning);
  process.on("warning", warned);
  try {
    const { subject, Wrapper } = await small("--layer", "logging", "--layer", "timing", "--standalone");
    const fail = () => {
      throw new Error("disk full");
    };
    const late = async () => fail();
    for (const [info, error] of [
      [fail, fail],
      [late, late],
    ] as const) {
      const clock = { now: fail };
      const winch = new Wrapper(subject, {
        logging: { logger: { info, error } },
        timing: { onSample: info, clock },
      } as never);
      expect([winch.haul(1), winch.haul(2), await winch.login("a", "b")]).toEqual([2, 4, "a1"]);
      expect(() => winch.haul(8)).toThrow(RangeError);
    }
    await new Promise((resolve) => setTimeout(resolve, 0));
  } finally {
    process.off("warning", warned);
  }
  expect(warnings).toHaveLength(4);
});

test("a file that stands alone imports nothing, and logs neither objects nor secrets", async () => {
  const { text, subject, Wrapper } = await small<object>("--layer", "logging", "--standalone");
  expect(text).not.toContain("sleeve/generated");
  expect(text.split("\n", 1)[0]).toContain("--standalone");
  const entries: unknown[] = [];
  const keep = (entry: unknown) => entries.push(entry);
  const winch = new Wrapper(subject, { logging: { logger: { info: keep, error: keep } } });
  expect((winch as SmallWinch & { apiToken(): string }).apiToken()).toBe("mackerel");
  expect(JSON.stringify(entries.splice(0))).not.toContain("mackerel");
  await winch.login("Ada Quill", "herring");
  expect(() => winch.haul(8)).toThrow();
  expect(JSON.stringify(entries)).not.toContain("herring");
  expect(entries).toMatchObject([
    { call: 2, member: "login", event: "called", args: ["Ada Quill", "[redacted]"] },
    { call: 2, member: "login", event: "resolved", value: "Ada Quill7" },
    { call: 3, member: "haul", event: "called", args: [8] },
    { call: 3, member: "haul", event: "threw", error: { name: "RangeError", message: "too heavy" } },
  ]);
});

test("calls within logged calls refer to them, across wrappers of both kinds", async () => {
  const { subject, Wrapper } = await small<object>("--layer", "logging");
  const entries: LogEntry[] = [];
  const logger = { info: (entry: LogEntry) => void entries.push(entry), error: () => {} };
  const inner = new Wrapper(subject, { logging: { logger } });
  const office = decorate({ admit: async () => { await null; return inner.haul(2); } }, logging({ logger })); // biome-ignore format: one line
  const outer = new Wrapper(
    { ...subject, haul: () => 1, login: async () => String(await office.admit()) },
    { logging: { logger } },
  );
  await outer.login("a", "b");
  const [first] = entries;
  expect(entries.map(({ member, event }) => `${member} ${event}`)).toEqual([
    "login called", "admit called", "haul called", "haul returned", "admit resolved", "login resolved",
  ]); // biome-ignore format: a list
  expect(new Set(entries.map(({ within }) => within))).toEqual(new Set([first?.call]));
});

test("a level that is off costs no entry, but a failure has one", async () => {
  const { subject, Wrapper } = await small<object>("--layer", "logging");
  const entries: LogEntry[] = [];
  const keep = (entry: LogEntry) => void entries.push(entry);
  const logger = { info: keep, error: keep, isLevelEnabled: (level: string) => level === "error" };
  const winch = new Wrapper(subject, { logging: { logger } });
  winch.haul(1);
  expect(() => winch.haul(8)).toThrow(RangeError);
  expect(entries).toMatchObject([{ member: "haul", event: "threw" }]);
});

test("a proxy creates its subject when it is first used, once, and again after a failure", async () => {
  const { load } = generate(SMALL, "--as", "proxy", "--layer", "guard:haul");
  const { WinchProxy } = await load<{
    readonly WinchProxy: new (create: () => SmallWinch, layers: object) => SmallWinch;
  }>();
  let created = 0;
  const proxied = new WinchProxy(
    () => {
      created += 1;
      if (created === 1) throw new Error("no power");
      return { load: 1, haul: (tons) => tons, login: async () => "" };
    },
    { guard: { haul: [between(0, 6)] } },
  );
  expect(created).toBe(0);
  expect(() => proxied.haul(9)).toThrow("haul: tons is 9, which is not between 0 and 6.");
  expect(created).toBe(0);
  expect(() => proxied.haul(1)).toThrow("no power");
  expect([proxied.haul(1), proxied.haul(2), proxied.load, created]).toEqual([1, 2, 1, 2]);
});

describe("options that cannot be", () => {
  const root = () => project({ "src/winch.ts": SMALL });
  test.each([
    [["decorator"], "BAD_OPTION", "Add --layer with one of: logging, timing"],
    [["decorator", "--layer", "loging"], "BAD_OPTION", "Did you mean logging?"],
    [["decorator", "--layer", "timing", "--layer", "timing:haul"], "BAD_OPTION", "given twice"],
    [["decorator", "--layer", "timing:"], "BAD_OPTION", "names no member"],
    [["decorator", "--layer", "timing:hual"], "BAD_OPTION", "Did you mean haul?"],
    [["decorator", "--layer", "timing:load"], "BAD_OPTION", "load is a property"],
    [["decorator", "--layer", "retrying:haul"], "BAD_OPTION", "haul returns no promise"],
    [["decorator", "--layer", "timing", "--cleared-by", "haul"], "BAD_OPTION", "needs --layer cached"],
    [["decorator", "--layer", "cached", "--cleared-by", "hual"], "BAD_OPTION", "Did you mean haul?"],
    [["fake", "--layer", "timing"], "BAD_OPTION", "not for --as fake"],
    [["decorator", "--layer", "logging"], "DOES_NOT_COMPILE", "npm install sleeve, or add --standalone"],
  ])("%j gives one sentence, and nothing is written", (options, code, sentence) => {
    const place = root();
    const result = sleeve(place, "wrap", "src/winch.ts#Winch", "--as", ...options, "--write");
    expect([result.code, result.stdout]).toEqual([2, ""]);
    expect(result.stderr).toMatch(new RegExp(`^sleeve: .*\\[${code}\\]\n$`));
    expect(result.stderr).toContain(sentence);
    expect(readdirSync(join(place, "src"))).toEqual(["winch.ts"]);
  });

  test("a layer for members of many types gives one sentence", () => {
    const { stderr } = sleeve(root(), "wrap", "src/winch.ts", "--as", "decorator", "--layer", "timing:haul");
    expect(stderr).toContain("names members, and src/winch.ts may have many types");
  });
});

/** Names that the code of layers has for itself. */
const OWN_NAMES = [
  "observe", "observePromise", "observeGenerator", "requireAllowed", "notAllowed", "checkLists", "plainKey", "reportOnce", "layerError",
  "CallLog", "CallTimer", "AccessCheck", "ResultCache", "Retries", "Deadline", "OwnFunctions", "systemClock", "result", "entry", "start",
  "error", "outcome", "denied", "refused", "returned", "method", "args", "log", "timer", "access", "checks", "results", "subject", "layers",
]; // biome-ignore format: a list

describe("members and parameters may have the names of what the layers use", () => {
  const members = OWN_NAMES.map(
    (name, index) =>
      `${name}(${name}: number, tail: string): ${["number", "Promise<string>", "void"][index % 3]};`,
  );
  test.each([
    ["timing"],
    ["guard"],
    ["cached"],
    ["retrying"],
    ["logging", "timing", "access", "guard", "cached", "retrying", "limited"],
  ])("with %s", (...layers) => {
    const options = layers.flatMap((layer) => ["--layer", layer]);
    const { text } = generate(
      `export interface Winch { ${members.join(" ")} }\n`,
      "--as",
      "decorator",
      ...options,
    );
    for (const name of OWN_NAMES) expect(text).toContain(`  ${name}(`);
  });
});
