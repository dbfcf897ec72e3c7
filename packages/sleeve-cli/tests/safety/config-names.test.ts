import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const FILES = {
  ...installed("crane", "export declare function lift(): number;\n"),
  "package.json": '{ "name": "office", "dependencies": { "crane": "1", "winch": "2" } }',
  "src/legacy/old.ts": "export const old = 1;\n",
  "src/target.ts": "export interface Lifts { lift(): number }\n",
  "src/adapter.ts":
    'import { lift } from "crane";\nimport type { Lifts } from "./target.ts";\nexport const lifts: Lifts = { lift };\n',
};

const TARGETS = 'targets: { "src/target.ts#Lifts": ["src/adapter.ts#lifts"] }';

interface Setting {
  readonly key: string;
  /** Writes the setting with a name. */
  readonly config: (name: string) => string;
  readonly right: readonly string[];
}

const SETTINGS: readonly Setting[] = [
  {
    key: "borders",
    config: (name) => `borders: { ${JSON.stringify(name)}: ["src/adapter.ts"] }`,
    right: ["crane", "winch", "node:fs", "src/legacy/"],
  },
  {
    key: "isolated",
    config: (name) =>
      `isolated: { ${JSON.stringify(name)}: { target: "src/target.ts#Lifts", adapter: "src/adapter.ts#lifts", names: {} } }`,
    right: ["crane", "winch"],
  },
  {
    key: "severities",
    config: (name) => `severities: { unused: { ${JSON.stringify(name)}: "off" } }`,
    right: ["src/legacy/", "src/target.ts", "*"],
  },
  {
    key: "legacy",
    config: (name) => `legacy: [${JSON.stringify(name)}]`,
    right: ["src/legacy/", "src/target.ts"],
  },
  { key: "facades", config: (name) => `facades: [${JSON.stringify(name)}]`, right: ["src/adapter.ts#lifts"] },
];

/** Slips in a name. */
const SLIPS: Readonly<Record<string, (name: string) => string>> = {
  "a letter too many": (name) => name.replace(/[a-z](?=[^a-z]*$)/, "$&$&"),
  "a letter missing": (name) => name.replace(/[a-z](?=[^a-z]*$)/, ""),
  "two letters swapped": (name) => name.replace(/([a-z])([a-z])(?=[^a-z]*$)/, "$2$1"),
};

const CASES = SETTINGS.flatMap(({ key, config, right }) =>
  right
    .filter((name) => name !== "*" && name !== "node:fs" && !(key === "borders" && name.includes("/")))
    .flatMap((name) =>
      Object.entries(SLIPS).map(([slip, misspell]) => ({
        key,
        config,
        name,
        slip,
        misspelt: misspell(name),
      })),
    ),
);

test("every setting is combined with every slip", () => {
  expect(CASES).toHaveLength(27);
});

test.each(sampled(CASES))(
  "a name that matches nothing is a finding: $misspelt under $key",
  ({ key, config, name, misspelt }) => {
    const root = project({
      ...FILES,
      "sleeve.config.ts": `export default {\n  ${TARGETS},\n  ${config(misspelt)},\n};\n`,
    });
    const { code, stdout } = sleeve(root, "check", "--json");
    expect(code).toBe(1);
    const { config: findings, conforms } = JSON.parse(stdout) as {
      config: readonly {
        name: string;
        place: { file: string; line: number };
        found: string;
        remedy: string;
      }[];
      conforms: boolean;
    };
    expect(conforms).toBe(false);
    expect(findings).toMatchObject([
      {
        name: "unmatched",
        place: { file: "sleeve.config.ts", line: 3 },
        found: `${misspelt} under \`${key}\`, which matches nothing`,
      },
    ]);
    // Folders have no similar file.
    if (!name.endsWith("/")) expect(findings[0]?.remedy).toBe(`Did you mean ${name}?`);
  },
);

test.each(SETTINGS)("names that match something are no finding: $key", ({ config, right }) => {
  for (const name of right) {
    const legacy =
      name === "src/legacy/" && !config(name).startsWith("legacy") ? 'legacy: ["src/legacy/"],' : "";
    const root = project({
      ...FILES,
      "sleeve.config.ts": `export default { ${TARGETS}, ${legacy} ${config(name)} };\n`,
    });
    const { config: findings } = JSON.parse(sleeve(root, "check", "--json").stdout) as {
      config: readonly object[];
    };
    expect(findings).toEqual([]);
  }
});

test("a border that no file may cross keeps out a package that is not there", () => {
  const config = (name: string) => `export default { borders: { ${name}: [] } };\n`;
  const unmatched = (name: string) =>
    (
      JSON.parse(
        sleeve(project({ ...FILES, "sleeve.config.ts": config(name) }), "check", "--json").stdout,
      ) as { config: readonly object[] }
    ).config.length;
  expect([unmatched("lodash"), unmatched("wnich")]).toEqual([0, 1]);
});

test("an unmatched name is in every format, and can be suppressed", () => {
  const root = project({
    ...FILES,
    "sleeve.config.ts": `export default { ${TARGETS}, borders: { crnae: ["src/adapter.ts"] } };\n`,
  });
  for (const format of ["--sarif", "--junit", "--page"]) {
    const { code, stdout } = sleeve(root, "check", format);
    expect([code, stdout.includes("crnae")]).toEqual([1, true]);
  }
  const suppressed = project({
    ...FILES,
    "sleeve.config.ts": `export default { ${TARGETS}, borders: { crnae: ["src/adapter.ts"] }, suppressions: [{ finding: "unmatched", in: "sleeve.config.ts", reason: "soon" }] };\n`,
  });
  expect(sleeve(suppressed, "check")).toMatchObject({ code: 0, stderr: "" });
});
