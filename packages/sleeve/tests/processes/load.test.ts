import { execFileSync } from "node:child_process";
import { join } from "node:path";
import { expect, test } from "vitest";
import { RUNS_ALL } from "../../../../tests/rotation.ts";

function run(what: string, count: number): unknown {
  const script = join(import.meta.dirname, "load.mjs");
  const options = [
    "--expose-gc",
    "--max-old-space-size=12000",
    "--max-semi-space-size=256",
    script,
    what,
    String(count),
  ];
  return JSON.parse(
    execFileSync(process.execPath, options, { encoding: "utf8", stdio: ["ignore", "pipe", "ignore"] }),
  );
}

/** Calls in flight; more of them with all cases. */
const [IN_FLIGHT, CHECKED, MADE] = RUNS_ALL ? [300_000, 200_000, 10_000_000] : [100_000, 50_000, 3_000_000];

test("calls in flight through five layers: none is lost, mixed up or left unhandled", () => {
  expect(run("inFlight", IN_FLIGHT)).toEqual({
    answered: IN_FLIGHT,
    mixed: 0,
    unhandled: 0,
    timed: IN_FLIGHT,
    failures: IN_FLIGHT / 100,
  });
}, 300_000);

test("calls in flight through six layers, one of them an access check: none is lost or mixed up", () => {
  expect(run("checked", CHECKED)).toEqual({
    answered: CHECKED,
    mixed: 0,
    unhandled: 0,
    timed: CHECKED,
    failures: CHECKED / 100,
  });
}, 300_000);

test("millions of calls leave the heap where it was", () => {
  const { grown, calls } = run("heap", MADE) as { readonly grown: number; readonly calls: number };
  expect(calls).toBe(MADE);
  // The engine optimises functions meanwhile. A single object for each call would take 24 MB.
  expect(grown).toBeLessThan(1_000_000);
}, 300_000);

test("a layer that throws breaks no call, and is reported once", () => {
  const { right, warnings, unhandled } = run("failing", 500) as {
    readonly right: number;
    readonly warnings: readonly string[];
    readonly unhandled: number;
  };
  expect([right, unhandled]).toEqual([1000, 0]);
  expect(warnings.map((warning) => /The layer "(\w+)" failed: a broken layer/.exec(warning)?.[1])).toEqual([
    "logging",
    "timing",
    "timing",
  ]);
});
