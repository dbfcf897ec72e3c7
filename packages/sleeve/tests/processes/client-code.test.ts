import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, test } from "vitest";
import { RUNS_ALL, SHARE } from "../../../../tests/rotation.ts";

interface FormResult {
  readonly attempts: number;
  /** The attempts by which the client's code got the subject, or a member that it may not use. */
  readonly leaks: readonly string[];
}

/** All attempts are over 350,000, of which each share makes a tenth. */
const shares = RUNS_ALL ? 1 : 10;

test("no form of a checked wrapper hands the subject to classes, accessors, errors or generators of its client", async () => {
  const script = join(import.meta.dirname, "client-code.mjs");
  const { stdout } = await promisify(execFile)(
    process.execPath,
    [script, String(shares), String(SHARE % shares)],
    {
      maxBuffer: 1 << 26,
    },
  );
  const { "no check": unchecked, ...forms } = JSON.parse(stdout) as Readonly<Record<string, FormResult>>;
  const leaking = Object.entries(forms).flatMap(([form, { leaks }]) =>
    leaks.map((leak) => `${form}: ${leak}`),
  );
  expect(leaking).toEqual([]);
  expect(Object.keys(forms).length).toBe(15);
  const attempts = Object.values(forms).reduce((sum, form) => sum + form.attempts, 0);
  expect(attempts).toBeGreaterThan(368_000 / shares);
  // Many uses do not fit a thing, and throw.
  expect(unchecked?.leaks.length).toBeGreaterThan((unchecked?.attempts ?? 0) / 5);
}, 600_000);
