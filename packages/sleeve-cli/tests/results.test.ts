import { readFileSync } from "node:fs";
import { join } from "node:path";
import { Ajv2020 } from "ajv/dist/2020.js";
import { XMLParser } from "fast-xml-parser";
import { checkContract, contract, injectFaults, recordingOf, type SurfaceDocument } from "sleeve/conform";
import { describe, expect, test } from "vitest";
import { project, sleeve } from "./harness.ts";

const schema = (name: string) =>
  new Ajv2020({ allowUnionTypes: true }).compile(
    JSON.parse(readFileSync(join(import.meta.dirname, `../schemas/${name}.schema.json`), "utf8")) as object,
  );

interface Tank {
  fill(litres: number): number;
  drain(): Promise<number>;
}

const right = (): Tank => {
  let litres = 0;
  return {
    fill: (more) => (litres += more),
    drain: async () => {
      const all = litres;
      litres = 0;
      return all;
    },
  };
};

const tank = contract<Tank>("Tank", {
  reference: right,
  examples: { "is <empty> & closed": (tank) => tank.fill(0) === 0 },
});
const suite = contract<Tank>("Tank", { examples: { fills: (tank) => tank.fill(2) === 2 } });

const results = {
  "good.json": await checkContract(tank, {
    "the steel one": { create: right, suppressions: { leak: "not here" } },
  }),
  "bad.json": await checkContract(tank, {
    "the leaky one": () => ({ ...right(), fill: (litres: number) => litres + 1 }),
  }),
  "faults.json": await injectFaults(suite, right, { runs: 20, length: 5, name: "the steel one" }),
};

const folder = () =>
  project(
    Object.fromEntries(Object.entries(results).map(([file, result]) => [file, JSON.stringify(result)])),
  );

describe("sleeve report", () => {
  test("prints the findings of a contract, and sets the exit code", () => {
    const root = folder();
    const good = sleeve(root, "report", "good.json");
    expect([good.code, good.stderr]).toEqual([0, ""]);
    expect(good.stdout).toMatch(/^Tank {2}seed 1\n\nthe steel one: conforms\n {2}ok {2}has every member/);
    const bad = sleeve(root, "report", "bad.json");
    expect(bad.code).toBe(1);
    expect(bad.stdout).toMatch(/result {2}fill\n {6}expected {2}as from the reference/);
    expect(bad.stdout).toContain("expect(subject.fill(");
  });

  test("prints the missed faults, each with an example", () => {
    const { code, stdout } = sleeve(folder(), "report", "faults.json");
    const missed = results["faults.json"].faults.filter(({ isDetected }) => !isDetected);
    expect(code).toBe(1);
    expect(missed.length).toBeGreaterThan(0);
    for (const { member, fault } of missed) expect(stdout).toContain(`missed  ${member}: ${fault}`);
    expect(stdout).toContain(
      `${results["faults.json"].detected} of ${results["faults.json"].faults.length} faults detected`,
    );
  });

  test("--junit has a case for each check and each fault", () => {
    const { stdout } = sleeve(folder(), "report", "--junit", "good.json", "bad.json", "faults.json");
    const parsed = new XMLParser({
      ignoreAttributes: false,
      isArray: (name) => /^(testsuite|testcase|failure)$/.test(name),
    }).parse(stdout) as {
      testsuites: {
        testsuite: {
          "@_name": string;
          "@_tests": string;
          "@_failures": string;
          testcase: { "@_name": string }[];
        }[];
      };
    };
    const suites = parsed.testsuites.testsuite;
    expect(suites.map((suite) => suite["@_name"])).toEqual([
      "Tank: the steel one",
      "Tank: the leaky one",
      "Tank: faults in the steel one",
    ]);
    expect(suites.map((suite) => Number(suite["@_failures"]) > 0)).toEqual([false, true, true]);
    expect(suites[2]?.testcase).toHaveLength(results["faults.json"].faults.length);
    expect(suites[0]?.testcase.map((item) => item["@_name"])).toContain("is <empty> & closed");
  });

  test("--page prints one page without scripts, with every finding", () => {
    const { stdout } = sleeve(folder(), "report", "--page", "bad.json", "faults.json");
    expect(stdout).toMatch(/^<!doctype html>/);
    expect(stdout).not.toMatch(/<script|src=|href=/);
    expect(stdout).toContain('<h2>the leaky one: <span class="bad">does not conform</span></h2>');
    expect(stdout).toContain("is &#60;empty&#62; &#38; closed");
  });

  test.each([
    ["gone.json", "", "UNREADABLE", "there is no such file"],
    ["cut.json", '{"contract":', "BROKEN_RESULT", "not JSON"],
    ["other.json", '{"contract":"Tank"}', "BROKEN_RESULT", "not a result of checkContract: seed"],
  ])("says of %s what is wrong with it", (file, text, code, reason) => {
    const root = project(text ? { [file]: text } : {});
    const run = sleeve(root, "report", file);
    expect(run.code).toBe(2);
    expect(run.stderr).toContain(`[${code}]`);
    expect(run.stderr).toContain(reason);
    expect(run.stderr.trim().split("\n")).toHaveLength(1);
  });
});

test("the documents of the library conform to the published schemas", () => {
  const validate = schema("result");
  for (const item of Object.values(results))
    expect([validate(JSON.parse(JSON.stringify(item))), validate.errors]).toEqual([true, null]);
  expect(validate({ ...results["good.json"], conforms: "yes" })).toBe(false);
  const recording = recordingOf("the tank", { values: [/\d{4}/g] });
  recording.of(right()).fill(2);
  const recorded = schema("recording");
  expect([recorded(JSON.parse(recording.toText())), recorded.errors]).toEqual([true, null]);
});

describe("sleeve surface", () => {
  const SOURCE = `
export type Metres = number & { readonly metres: true };
export interface Turn { readonly kind: "high" | "low"; readonly at: Date; height?: Metres }
export interface Tides {
  readonly port: string;
  mark: number | null;
  /** The height at a time. In metres. */
  heightAt(time: Date, datum?: "chart" | "land"): Promise<Metres>;
  turns(from: Date, ...more: readonly string[]): readonly Turn[];
  turns(day: number): Turn[];
  each(send: (turn: Turn) => void): this;
  all(): Iterable<Turn>;
  readonly later?: () => Promise<[number, string]>;
}
export class Gauge { #feet = 0; private secret = 1; protected inner = 2; get feet(): number { return this.#feet; } set feet(feet: number) { this.#feet = feet; } read(): number { return this.secret + this.inner; } }
`;
  const surfaceOf = (name: string) => {
    const root = project({ "src/tides.ts": SOURCE });
    const run = sleeve(root, "surface", `src/tides.ts#${name}`);
    expect([run.code, run.stderr]).toEqual([0, ""]);
    return JSON.parse(run.stdout) as SurfaceDocument;
  };

  test("prints the members of an interface, with parameters and results", () => {
    const document = surfaceOf("Tides");
    const validate = schema("surface");
    expect([validate(document), validate.errors]).toEqual([true, null]);
    const { port, mark, heightAt, turns, each, all, later } = document.members;
    expect(port).toEqual({ kind: "property", readonly: true, value: { type: "string" } });
    expect(mark?.value?.anyOf).toHaveLength(2);
    expect(heightAt).toMatchObject({
      kind: "method",
      doc: "The height at a time. In metres.",
      signatures: [
        {
          parameters: [
            { name: "time", schema: { instanceOf: "Date" } },
            { name: "datum", optional: true },
          ],
          result: { promise: { type: "number" } },
        },
      ],
    });
    expect(turns?.signatures).toHaveLength(2);
    expect(turns?.signatures?.[0]?.parameters[1]).toMatchObject({ name: "more", rest: true });
    expect(turns?.signatures?.[1]?.result).toMatchObject({
      type: "array",
      items: { type: "object", required: ["kind", "at"] },
    });
    expect(each?.signatures?.[0]).toMatchObject({
      parameters: [{ schema: { function: true } }],
      result: { self: true },
    });
    expect(all?.signatures?.[0]?.result).toHaveProperty("iterable");
    expect(later).toMatchObject({
      kind: "method",
      optional: true,
      signatures: [{ result: { promise: { prefixItems: [{ type: "number" }, { type: "string" }] } } }],
    });
  });

  test("prints the public members of a class", () => {
    const { members } = surfaceOf("Gauge");
    expect(Object.keys(members).sort()).toEqual(["feet", "read"]);
    expect(members["feet"]?.readonly).toBeUndefined();
  });

  test("a contract generates arguments from it, and checks results against it", async () => {
    const surface = surfaceOf("Tides");
    const tides = contract<object>("Tides", { surface: surface as never });
    const seen: unknown[] = [];
    const make = (height: unknown) => () => ({
      port: "Port Ellery",
      mark: null,
      heightAt: async (time: unknown, datum: unknown) => (seen.push([time, datum]), height),
      turns: () => [{ kind: "high", at: new Date(0) }],
      each(this: object) {
        return this;
      },
      all: () => [],
    });
    expect((await checkContract(tides, { right: make(4) })).conforms).toBe(true);
    expect(
      seen.every(
        (outcome) =>
          Array.isArray(outcome) &&
          outcome[0] instanceof Date &&
          [undefined, "chart", "land"].includes(outcome[1] as never),
      ),
    ).toBe(true);
    const { implementations } = await checkContract(tides, { wrong: make("4 m") });
    expect(implementations[0]?.checks.flatMap(({ findings }) => findings)).toEqual([
      expect.objectContaining({ name: "result", place: "heightAt" }),
    ]);
  });

  test.each([
    ["src/tide.ts#Tides", "NO_SUCH_FILE", "Did you mean src/tides.ts?"],
    ["src/tides.ts#Tide", "NO_SUCH_EXPORT", "Did you mean Tides?"],
    ["src/tides.ts", "NO_SUCH_EXPORT", "Name one as file#export"],
  ])("says of %s what is meant", (name, code, reason) => {
    const { code: exit, stderr } = sleeve(project({ "src/tides.ts": SOURCE }), "surface", name);
    expect([exit, stderr.includes(`[${code}]`), stderr.includes(reason)]).toEqual([2, true, true]);
  });
});
