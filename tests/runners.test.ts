import { spawnSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { expect, test } from "vitest";

const examples = join(import.meta.dirname, "../examples/runners");

/** Runs Node.js in a folder, outside the test runner that runs this test. */
function node(
  args: readonly string[],
  folder = examples,
): { readonly status: number | null; readonly text: string } {
  const { NODE_OPTIONS: _, VITEST: __, ...env } = process.env;
  const { status, stdout, stderr } = spawnSync(process.execPath, args, {
    cwd: folder,
    encoding: "utf8",
    env: { ...env, NO_COLOR: "1" },
  });
  return { status, text: stdout + stderr };
}

/** Returns the version and the command of the Vitest that a folder uses. */
function vitestOf(folder: string): readonly [version: string, command: string] {
  const manifest = createRequire(join(folder, "package.json")).resolve("vitest/package.json");
  const { version } = JSON.parse(readFileSync(manifest, "utf8")) as { version: string };
  return [version, join(dirname(manifest), "vitest.mjs")];
}

test.each([
  ["4.", examples],
  ["3.2.", join(examples, "vitest-3")],
])("the example for Vitest %s runs each check as a test", (release, folder) => {
  const [version, command] = vitestOf(folder);
  expect(version.startsWith(release)).toBe(true);
  const { status, text } = node([command, "run"], folder);
  expect([status, text]).toEqual([0, expect.stringMatching(/Tests +20 passed \(20\)/)]);
});

test("the example for the test runner of Node.js runs each check as a test", () => {
  const { status, text } = node(["--test", "--test-reporter=tap", "node-test.mjs"]);
  expect([status, text]).toEqual([0, expect.stringMatching(/# tests 20\n[\s\S]*# pass 20\n/)]);
});

test("the example without a test runner prints the report", () => {
  const { status, text } = node(["script.mjs"]);
  expect([status, text]).toEqual([0, expect.stringContaining("all conform")]);
  expect(text.match(/^ {2}ok /gm)).toHaveLength(20);
});
