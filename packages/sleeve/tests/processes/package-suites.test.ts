import { execFile } from "node:child_process";
import { availableParallelism } from "node:os";
import { join } from "node:path";
import { describe, expect, test } from "vitest";

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
  return new Promise((resolve, reject) => {
    execFile(
      process.execPath,
      [script, ...args],
      { maxBuffer: 1 << 26, timeout: 120_000 },
      (error, stdout, stderr) => {
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

/** Test suites, and what is wrapped. The results of minimist are plain objects, which its tests compare with their prototypes. */
const suites: Readonly<Record<string, readonly string[]>> = {
  events: WAYS,
  "tiny-emitter": WAYS,
  "side-channel": WAYS,
  minimist: ["exports"],
  mutexify: WAYS,
  "memory-chunk-store": WAYS,
};

/** Tests that fail because of a difference that docs/fidelity.md documents. */
const DIFFERENT: Readonly<Record<string, readonly string[]>> = {
  // `on` and `addListener` are two functions of a wrapper, because layers may treat them differently.
  "events results empty": ["./add-listeners.js"],
  "events results watched": ["./add-listeners.js"],
  "events results open": ["./add-listeners.js"],
  // Logging reads the fields of arguments.
  "side-channel results watched": ["assert"],
};

test.each(Object.entries(suites))(
  "the tests of %s have the same results with wrapped exports or results",
  async (name, ways) => {
    const wrappings = ways.flatMap((way) => STACKS.map((stack) => [name, way, stack]));
    const [bare, ...reports] = await runAll([[name, "bare", "empty"], ...wrappings]);
    expect((bare?.passed ?? 0) + (bare?.titles.length ?? 0)).toBeGreaterThan(10);
    expect(bare?.failed).toEqual([]);
    expect(reports.length).toBe(ways.length * 3);
    reports.forEach((report, index) => {
      const label = wrappings[index]?.join(" ") ?? "";
      expect(report.wrapped, label).toBeGreaterThan(0);
      expect([report.titles, report.failed], label).toEqual([bare?.titles, DIFFERENT[label] ?? []]);
      if (!DIFFERENT[label]) expect(report.passed, label).toBe(bare?.passed);
    });
  },
  120_000,
);

describe("the tests of a database with wrapped instances", () => {
  /** The tests that compare `db` of an object that the database created, which was given the bare database. */
  const PARENT = [
    "chained batch has db reference",
    "iterator() has db reference",
    "keys() has db reference",
    "values() has db reference",
    "chained batch with descendant sublevel option",
    "prewrite hook function can add operations with descendant sublevel option",
  ];

  test("fail only where a child's parent is compared", async () => {
    const [bare, ...reports] = await runAll([
      ["memory-level", "bare", "empty"],
      ...STACKS.map((stack) => ["memory-level", "results", stack]),
    ]);
    expect([bare?.passed, bare?.failed]).toEqual([5120, []]);
    for (const report of reports) {
      expect(report.wrapped).toBeGreaterThan(500);
      expect(report.failed).toEqual(PARENT);
      expect(report.titles).toEqual(bare?.titles);
    }
  }, 120_000);

  test("pass at least 5,100 of 5,120 assertions behind a membrane, whose promises settle later", async () => {
    const [deep, access] = await runAll(
      ["deep", "access"].map((stack) => ["memory-level", "results", stack]),
    );
    expect(deep?.passed).toBeGreaterThanOrEqual(5100);
    expect(access?.passed).toBeGreaterThanOrEqual(5100);
    const DEEP = deep?.failed ?? [];
    expect(DEEP.every((title) => /open|close/.test(title))).toBe(true);
    expect(access?.failed.filter((title) => !DEEP.includes(title))).toEqual([
      "deferred iterator - cannot operate on closed db",
      "deferred iterator - cannot operate on closing db",
    ]);
  }, 120_000);
});

test("Promises/A+ holds for decorated promise classes and wrapped promises", async () => {
  // At the same time, because these tests mostly wait for timers.
  const reports = await Promise.all([
    ...STACKS.flatMap((stack) => WAYS.map((way) => run("promises-aplus-tests", way, stack))),
    ...["deep", "access"].map((stack) => run("promises-aplus-tests", "exports", stack)),
  ]);
  for (const { passed, failed, exitCode } of reports)
    expect([passed, failed, exitCode]).toEqual([872, [], 0]);
}, 180_000);

test("every case is listed", () => {
  expect([Object.keys(suites).length, Object.keys(DIFFERENT).length]).toEqual([6, 4]);
});
