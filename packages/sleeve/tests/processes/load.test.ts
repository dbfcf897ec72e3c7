import { execFileSync } from "node:child_process";
import { join } from "node:path";
import { expect, test } from "vitest";

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

test("300,000 calls in flight through five layers: none is lost, mixed up or left unhandled", () => {
  expect(run("inFlight", 300_000)).toEqual({
    answered: 300_000,
    mixed: 0,
    unhandled: 0,
    timed: 300_000,
    failures: 3_000,
  });
}, 300_000);

test("200,000 calls in flight through six layers, one of them an access check: none is lost or mixed up", () => {
  expect(run("checked", 200_000)).toEqual({
    answered: 200_000,
    mixed: 0,
    unhandled: 0,
    timed: 200_000,
    failures: 2_000,
  });
}, 300_000);

test("ten million calls leave the heap where it was", () => {
  const { grown, calls } = run("heap", 10_000_000) as { readonly grown: number; readonly calls: number };
  expect(calls).toBe(10_000_000);
  expect(grown).toBeLessThan(200_000);
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
