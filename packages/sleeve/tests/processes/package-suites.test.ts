import { execFile } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { availableParallelism, tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, test } from "vitest";
import { isInShare, RUNS_ALL, SHARE, sampled } from "../../../../tests/rotation.ts";

/** What a test suite reported: its numbers of assertions, and the titles of the tests with failures. */
interface Report {
  readonly exitCode: number;
  readonly titles: readonly string[];
  readonly passed: number;
  readonly failed: readonly string[];
  readonly wrapped: number;
}

function run(...args: readonly string[]): Promise<Report> {
  const script = join(import.meta.dirname, "run-suite.mjs");
  // Suites write files with fixed names, and several run at the same time.
  const folder = mkdtempSync(join(tmpdir(), "sleeve-suite-"));
  const env = { ...process.env, TMPDIR: folder, TEMP: folder, TMP: folder };
  return new Promise((resolve, reject) => {
    execFile(
      process.execPath,
      [script, ...args],
      { maxBuffer: 1 << 26, timeout: 600_000, env },
      (error, stdout, stderr) => {
        rmSync(folder, { recursive: true, force: true });
        const wrapped = Number(/^wrapped (\d+)$/m.exec(stderr)?.[1] ?? Number.NaN);
        if (Number.isNaN(wrapped))
          reject(new Error(`${args.join(" ")} did not end: ${stderr}`, { cause: error }));
        else resolve({ exitCode: Number(error?.code ?? 0), wrapped, ...reportIn(stdout) });
      },
    );
  });
}

function reportIn(tap: string): Pick<Report, "titles" | "passed" | "failed"> {
  const titles: string[] = [];
  const failed = new Set<string>();
  let passed = 0;
  for (const line of tap.split("\n")) {
    const [, title] = /^# (?!tests |pass |fail |ok$)(.*)$/.exec(line) ?? [];
    if (title) titles.push(title);
    if (/^ok \d+/.test(line)) passed += 1;
    if (/^not ok \d+/.test(line)) failed.add(titles.at(-1) ?? line);
  }
  return { titles, passed, failed: [...failed] };
}

/** Runs suites with as many processes as there are processors. */
async function runAll(runs: readonly (readonly string[])[]): Promise<readonly Report[]> {
  const reports: Report[] = [];
  let next = 0;
  const work = async () => {
    for (let index = next++; index < runs.length; index = next++) {
      reports[index] = await run(...(runs[index] as readonly string[]));
    }
  };
  await Promise.all(Array.from({ length: availableParallelism() }, work));
  return reports;
}

const WAYS = ["exports", "results"];
const STACKS = ["empty", "watched", "open"];
const MODES = [...STACKS, "deep", "access", "deep-access"];

/** Test suites, and what is wrapped. The results of minimist are plain objects, which its tests compare with their prototypes. */
const suites: Readonly<Record<string, readonly string[]>> = {
  events: WAYS,
  "tiny-emitter": WAYS,
  "side-channel": WAYS,
  minimist: ["exports"],
  mutexify: WAYS,
  "memory-chunk-store": WAYS,
  bl: WAYS,
  duplexify: WAYS,
  through: WAYS,
  qs: WAYS,
  "call-bind": WAYS,
  traverse: WAYS,
  "internal-slot": WAYS,
  "functional-red-black-tree": WAYS,
};

// `on` and `addListener` are two functions of a wrapper, because layers may treat them differently.
const ALIASES = ["./add-listeners.js"];
// The tests compare a function of the package that a client's function gets with the same function of the bare package.
const DEFAULTS = [
  "receives the default decoder as a second argument",
  "receives the default encoder as a second argument",
];
// The bare constructor gets a client's objects, which come out of the wrapped result as those of the subject.
const RESULTS = ["deepCircular", "deepInstances", "json test", "super_deep"];

/** Tests that fail because of a difference that docs/fidelity.md documents. */
const DIFFERENT: Readonly<Record<string, readonly string[]>> = {
  "events exports access": [...ALIASES, "./method-names.js"],
  "events exports deep-access": [...ALIASES, "./method-names.js"],
  "events results empty": ALIASES,
  "events results watched": ALIASES,
  "events results access": ALIASES,
  "events results deep-access": ALIASES,
  // Logging reads the fields of arguments.
  "side-channel results watched": ["assert"],
  // Classes are hidden.
  "tiny-emitter exports access": ["exports an instance"],
  "tiny-emitter exports deep-access": ["exports an instance"],
  "qs exports deep": DEFAULTS,
  "qs exports access": DEFAULTS,
  "qs exports deep-access": DEFAULTS,
  "traverse results deep": RESULTS,
  "traverse results access": ["circular", ...RESULTS],
  "traverse results deep-access": ["circular", ...RESULTS],
};

/** Returns the runs of a database's tests of the current share: one, because they take long. */
function chosen<Run>(runs: readonly Run[]): readonly Run[] {
  return RUNS_ALL ? runs : runs.filter((_, index) => index === SHARE % runs.length);
}

/** Each suite in each way and mode, of which each share has a tenth. */
const ALL_RUNS = Object.entries(suites).flatMap(([name, ways]) =>
  ways.flatMap((way) => MODES.map((mode) => [name, way, mode] as const)),
);
const RUNS = sampled(ALL_RUNS);
const cases = Object.keys(suites).flatMap((name) => {
  const wrappings = RUNS.filter(([suite]) => suite === name);
  return wrappings.length > 0 ? [[name, wrappings] as const] : [];
});

test.each(cases)(
  "the tests of %s have the same results with wrapped exports or results",
  async (name, wrappings) => {
    const [bare, ...reports] = await runAll([[name, "bare", "empty"], ...wrappings]);
    expect((bare?.passed ?? 0) + (bare?.titles.length ?? 0)).toBeGreaterThan(10);
    expect(bare?.failed).toEqual([]);
    reports.forEach((report, index) => {
      const label = wrappings[index]?.join(" ") ?? "";
      expect(report.wrapped, label).toBeGreaterThan(0);
      expect([report.titles, report.failed], label).toEqual([bare?.titles, DIFFERENT[label] ?? []]);
      if (!DIFFERENT[label]) expect(report.passed, label).toBe(bare?.passed);
    });
  },
  300_000,
);

describe("the tests of a database with its class or its instances wrapped", () => {
  /** The tests that compare `db` of an object that the database created, which was given the bare database. */
  const PARENT = [
    "chained batch has db reference",
    "iterator() has db reference",
    "keys() has db reference",
    "values() has db reference",
    "chained batch with descendant sublevel option",
    "prewrite hook function can add operations with descendant sublevel option",
  ];

  test.runIf(isInShare(0, 3))(
    "fail only where a child's parent is compared",
    async () => {
      const runs = chosen(
        WAYS.flatMap((way) => STACKS.map((stack) => ["memory-level", way, stack] as const)),
      );
      const [bare, ...reports] = await runAll([["memory-level", "bare", "empty"], ...runs]);
      expect([bare?.passed, bare?.failed]).toEqual([5120, []]);
      reports.forEach((report, index) => {
        const isClass = runs[index]?.[1] === WAYS[0];
        expect(report.wrapped).toBeGreaterThan(isClass ? 0 : 500);
        expect(report.failed).toEqual(isClass ? [] : PARENT);
        expect(report.titles).toEqual(bare?.titles);
      });
    },
    120_000,
  );

  test.runIf(isInShare(1, 3))(
    "pass at least 5,100 of 5,120 assertions behind a membrane, whose promises settle later",
    async () => {
      const modes = ["deep", "access", "deep-access"];
      const runs = WAYS.flatMap((way) => modes.map((mode) => ["memory-level", way, mode] as const));
      const reports = await runAll(chosen(runs));
      for (const { passed, failed } of reports) {
        expect(passed).toBeGreaterThanOrEqual(5100);
        expect(failed.filter((title) => !/open|close|closing/.test(title))).toEqual([]);
      }
    },
    240_000,
  );
});

test.runIf(isInShare(2, 3))(
  "Promises/A+ holds for decorated promise classes and wrapped promises",
  async () => {
    // At the same time, because these tests mostly wait for timers.
    const reports = await Promise.all([
      ...STACKS.flatMap((stack) => WAYS.map((way) => run("promises-aplus-tests", way, stack))),
      ...["deep", "access"].map((stack) => run("promises-aplus-tests", "exports", stack)),
    ]);
    for (const { passed, failed, exitCode } of reports)
      expect([passed, failed, exitCode]).toEqual([872, [], 0]);
  },
  180_000,
);

test("every case is listed", () => {
  expect([Object.keys(suites).length, ALL_RUNS.length]).toEqual([14, 162]);
});
