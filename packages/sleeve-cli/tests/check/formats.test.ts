import { spawn } from "node:child_process";
import { appendFileSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Ajv2020 } from "ajv/dist/2020.js";
import { XMLParser } from "fast-xml-parser";
import type { Log } from "sarif";
import { FINDINGS } from "sleeve/conform";
import { describe, expect, onTestFinished, test } from "vitest";
import { CLI, project, sleeve } from "../harness.ts";

const FIXTURE = join(import.meta.dirname, "../fixtures/wrong-wrappers");
const SCHEMA = join(import.meta.dirname, "../../schemas/check.schema.json");

interface CheckOutput {
  readonly conforms: boolean;
  readonly wrappers: readonly {
    readonly members: readonly { readonly findings: readonly Finding[] }[];
    readonly findings: readonly Finding[];
  }[];
  readonly borders: readonly { readonly findings: readonly Finding[] }[];
}

interface Finding {
  readonly name: string;
  readonly member: string | null;
  readonly place: { readonly file: string; readonly line: number; readonly column: number };
  readonly severity: string;
  readonly suppressed: string | null;
}

function findingsOf({ wrappers, borders }: CheckOutput): readonly Finding[] {
  return [
    ...wrappers.flatMap(({ members, findings }) => [
      ...members.flatMap((member) => member.findings),
      ...findings,
    ]),
    ...borders.flatMap(({ findings }) => findings),
  ];
}

const reported = JSON.parse(sleeve(FIXTURE, "check", "--json").stdout) as CheckOutput;

test("the output of --json conforms to the published schema", () => {
  const validate = new Ajv2020().compile(JSON.parse(readFileSync(SCHEMA, "utf8")) as object);
  expect([validate(reported), validate.errors]).toEqual([true, null]);
  const broken = structuredClone(reported) as { conforms: unknown };
  broken.conforms = "yes";
  expect(validate(broken)).toBe(false);
});

test("--sarif prints the same findings, each by a rule that is declared", () => {
  const { code, stdout } = sleeve(FIXTURE, "check", "--sarif");
  const log = JSON.parse(stdout) as Log;
  const [{ tool, results = [] } = { tool: { driver: { name: "" } }, results: [] }] = log.runs;
  expect([code, log.version, tool.driver.name]).toEqual([1, "2.1.0", "sleeve"]);
  expect(
    results.map(({ ruleIndex = -1, locations = [] }) => {
      const { artifactLocation, region } = locations[0]?.physicalLocation ?? {};
      return [
        tool.driver.rules?.[ruleIndex]?.id,
        artifactLocation?.uri,
        region?.startLine,
        region?.startColumn,
      ];
    }),
  ).toEqual(findingsOf(reported).map(({ name, place }) => [name, place.file, place.line, place.column]));
});

test("a finding that contracts report too has the same description there", () => {
  const [run] = (JSON.parse(sleeve(FIXTURE, "check", "--sarif").stdout) as Log).runs;
  const descriptions = new Map<string, string>(Object.entries(FINDINGS));
  const shared = (run?.tool.driver.rules ?? []).flatMap(({ id, shortDescription }) =>
    descriptions.has(id) ? [[id, shortDescription?.text]] : [],
  );
  expect(shared.map(([name]) => name)).toEqual(["missing", "kind", "result", "async", "leak"]);
  expect(shared).toEqual(shared.map(([name]) => [name, descriptions.get(String(name))]));
});

test("--junit prints the same findings as failures, and counts them", () => {
  const { stdout } = sleeve(FIXTURE, "check", "--junit");
  const parsed = new XMLParser({
    ignoreAttributes: false,
    isArray: (name) => ["testsuite", "testcase", "failure"].includes(name),
  }).parse(stdout) as {
    testsuites: {
      "@_tests": string;
      "@_failures": string;
      testsuite: readonly { testcase: readonly { failure?: readonly { "@_type": string }[] }[] }[];
    };
  };
  const cases = parsed.testsuites.testsuite.flatMap(({ testcase }) => testcase);
  const failures = cases.flatMap(({ failure = [] }) => failure.map((item) => item["@_type"]));
  expect(failures).toEqual(findingsOf(reported).map(({ name }) => name));
  const failing = cases.filter(({ failure }) => failure).length;
  expect([parsed.testsuites["@_tests"], parsed.testsuites["@_failures"]]).toEqual([
    String(cases.length),
    String(failing),
  ]);
});

test("--page prints one page with every finding, escaped", () => {
  const root = project({
    "src/a.ts":
      "export interface T { a(x: '<b>&'): number }\nexport class w { a(x: '<i>') { return x.length; } }\n",
    "sleeve.config.ts": 'export default { targets: { "src/a.ts#T": ["src/a.ts#w"] } };',
  });
  const { stdout } = sleeve(root, "check", "--page");
  expect(stdout).toMatch(/^<!doctype html>/);
  expect(stdout).toContain("&#60;b&#62;&#38;");
  expect(stdout).not.toMatch(/<(b>&|i>)/);
});

describe("the config turns a finding into", () => {
  const source =
    "export interface T { a: number; b(): void }\nexport class w { get a() { return 1; } async b() {} }\n";
  const check = (settings: string) => {
    const root = project({
      "src/a.ts": source,
      "sleeve.config.ts": `export default { targets: { "src/a.ts#T": ["src/a.ts#w"] }, ${settings} };`,
    });
    const { code, stdout, stderr } = sleeve(root, "check", "--json");
    const found = findingsOf(JSON.parse(stdout) as CheckOutput);
    return {
      code,
      stderr,
      found: found.map(({ name, severity, suppressed }) => [name, severity, suppressed]),
    };
  };

  test.each([
    [
      "an error by default",
      "",
      1,
      [
        ["readonly", "error", null],
        ["async", "error", null],
      ],
    ],
    [
      "a warning",
      'severities: { readonly: "warning", async: "warning" }',
      0,
      [
        ["readonly", "warning", null],
        ["async", "warning", null],
      ],
    ],
    ["nothing", 'severities: { readonly: "off", async: "off" }', 0, []],
    [
      "what the nearest path says",
      'severities: { readonly: { "*": "off", "src/": "warning", "src/a.ts": "error" }, async: { "lib/": "off" } }',
      1,
      [
        ["readonly", "error", null],
        ["async", "error", null],
      ],
    ],
    [
      "one that is accepted",
      'severities: { async: "off" }, suppressions: [{ finding: "readonly", in: "src/", member: "a", reason: "never written" }]',
      0,
      [["readonly", "error", "never written"]],
    ],
  ])("%s", (_what, settings, code, found) => {
    expect(check(settings)).toEqual({ code, stderr: "", found });
  });

  test("a suppression without a finding is reported", () => {
    const { code, stderr } = check(
      'severities: { async: "off", readonly: "off" }, suppressions: [{ finding: "enum", in: "src/a.ts", reason: "old" }]',
    );
    expect([code, stderr]).toEqual([
      2,
      expect.stringMatching(/suppresses enum in src\/a\.ts, but there is no such finding.*\[NOT_FOUND\]/),
    ]);
  });
});

/** Waits until new output of a stream matches a pattern. The order between two streams is undefined. */
function listening(stream: NodeJS.ReadableStream) {
  let said = "";
  let look = () => {};
  stream.on("data", (chunk: Buffer) => {
    said += chunk.toString();
    look();
  });
  return (pattern: RegExp) =>
    new Promise<void>((resolve, reject) => {
      const fail = (what: string) => reject(new Error(`${what} without ${pattern}: ${said}`));
      stream.once("close", () => fail("The output ended"));
      // Before the test itself times out, which would not show what was printed.
      setTimeout(() => fail("45 seconds passed"), 45_000).unref();
      look = () => {
        const found = pattern.exec(said);
        if (!found) return;
        said = said.slice(found.index + found[0].length);
        look = () => {};
        resolve();
      };
      look();
    });
}

test("--watch checks again after each save, and reports what it can while a file is broken", async () => {
  const fine = "export interface T { a: number }\nexport class w { a = 1; }\n";
  const root = project({
    "src/a.ts": fine,
    "sleeve.config.ts": 'export default { targets: { "src/a.ts#T": ["src/a.ts#w"] } };',
  });
  const child = spawn(process.execPath, [CLI, "check", "--watch"], {
    cwd: root,
    env: { ...process.env, NO_COLOR: "1" },
  });
  onTestFinished(() => {
    child.kill("SIGKILL");
  });
  const [reported, complained] = [listening(child.stdout), listening(child.stderr)];
  await reported(/no findings\.[\s\S]*Watching/);
  writeFileSync(join(root, "src/a.ts"), fine.replace("a = 1", "a = 'x'"));
  await reported(/src\/a\.ts saved[\s\S]*result {2}a[\s\S]*1 finding\.[\s\S]*Watching/);
  writeFileSync(join(root, "src/b.ts"), "export const = 1;\n");
  await complained(/src\/b\.ts:1:14 does not parse/);
  await reported(/src\/b\.ts saved[\s\S]*Watching/);
  // A file that is created and written again at once is new, and one that stays broken is reported each time.
  writeFileSync(join(root, "src/c.ts"), "");
  appendFileSync(join(root, "src/c.ts"), "export const = 2;\n");
  await complained(/src\/b\.ts:1:14 does not parse[\s\S]*src\/c\.ts:1:14 does not parse/);
  rmSync(join(root, "src/c.ts"));
  await reported(/saved[\s\S]*Watching/);
  rmSync(join(root, "src/b.ts"));
  writeFileSync(join(root, "src/a.ts"), fine);
  await reported(/saved[\s\S]*no findings\.[\s\S]*Watching/);
  appendFileSync(join(root, "sleeve.config.ts"), "\nthrow new Error('half');\n");
  await complained(/cannot be loaded: half/);
  await reported(/no findings\.[\s\S]*Watching/);
  const ended = new Promise((resolve) => child.once("exit", resolve));
  child.kill("SIGINT");
  expect(await ended).toBe(0);
});
