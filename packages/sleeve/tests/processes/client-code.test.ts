import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, test } from "vitest";

interface FormResult {
  readonly attempts: number;
  /** The attempts by which the client's code got the subject, or a member that it may not use. */
  readonly leaks: readonly string[];
}

/** All attempts are over 350,000. One in 41 is made by default, so that each use meets each thing in some form. */
const share = process.env["SLEEVE_CORPUS"] === "all" ? 1 : 41;

test("no form of a checked wrapper hands the subject to classes, accessors, errors or generators of its client", async () => {
  const script = join(import.meta.dirname, "client-code.mjs");
  const { stdout } = await promisify(execFile)(process.execPath, [script, String(share)], {
    maxBuffer: 1 << 26,
  });
  const { "no check": unchecked, ...forms } = JSON.parse(stdout) as Readonly<Record<string, FormResult>>;
  const leaking = Object.entries(forms).flatMap(([form, { leaks }]) =>
    leaks.map((leak) => `${form}: ${leak}`),
  );
  expect(leaking).toEqual([]);
  expect(Object.keys(forms).length).toBe(15);
  const attempts = Object.values(forms).reduce((sum, form) => sum + form.attempts, 0);
  expect(attempts).toBeGreaterThan(368_000 / share);
  // Many uses do not fit a thing, and throw.
  expect(unchecked?.leaks.length).toBeGreaterThan((unchecked?.attempts ?? 0) / 5);
}, 600_000);
