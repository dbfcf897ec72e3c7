import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { sampled, sleeve } from "../harness.ts";
import { renderedBy } from "./built-components.ts";
import { CASES, type ComponentCase, office } from "./component-cases.ts";

interface Place {
  readonly file: string;
  readonly line: number;
  readonly column: number;
}

test("every format is listed", () => {
  expect(CASES).toHaveLength(7);
});

test.each(sampled(CASES))(
  "$format: imports and uses are surveyed at their places, checked and moved, and the page stays the same",
  async (given) => {
    const { file, before, after, places } = given;
    const root = office(given);
    const page = await renderedBy(root, given);
    expect(page).toContain(given.format === "MDX" ? "3 t" : "6 t");
    const { packages, problems } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
      packages: readonly [
        {
          imports: readonly { place: Place }[];
          members: readonly { member: string; places: readonly Place[] }[];
        },
      ];
      problems: readonly object[];
    };
    expect(problems).toEqual([]);
    const found = [
      ...packages[0].imports.map(({ place }) => place),
      ...packages[0].members
        .filter(({ member }) => member === "Rig.hoist")
        .flatMap((member) => member.places),
    ];
    expect(found.map((place) => place.file)).toEqual(found.map(() => file));
    expect(found.map(({ line, column }) => `${line}:${column}`).sort()).toEqual(places);

    writeFileSync(
      join(root, "sleeve.config.ts"),
      'export default { borders: { crane: ["src/main.ts"] } };\n',
    );
    const checked = sleeve(root, "check");
    expect(checked.code).toBe(1);
    expect(places.some((place) => checked.stdout.includes(`border  crane  ${file}:${place}`))).toBe(true);
    writeFileSync(join(root, "sleeve.config.ts"), "export default {};\n");

    expect(sleeve(root, "draft", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
    expect(sleeve(root, "move", "crane", "--write", "--uncommitted")).toMatchObject({ code: 0, stderr: "" });
    expect(readFileSync(join(root, file), "utf8")).toBe(after);
    expect(await renderedBy(root, given)).toBe(page);
    expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });

    const same = office(given);
    expect(sleeve(same, "draft", "crane", "--same-names", "--write").code).toBe(0);
    expect(sleeve(same, "move", "crane", "--write", "--uncommitted").code).toBe(0);
    expect(readFileSync(join(same, file), "utf8")).toBe(
      before.replaceAll('"crane"', '"./crane/crane-adapter"'),
    );
    expect(await renderedBy(same, given)).toBe(page);
  },
);

test.each(sampled(CASES))(
  "$format: a note counts the files if the compiler is missing or must not run",
  (given) => {
    for (const [root, options, reason] of [
      [office(given, false), [], "Install "],
      [office(given), ["--no-config-code"], "--no-config-code and SLEEVE_NO_CONFIG_CODE refuse"],
    ] as const) {
      const { code, stderr, stdout } = sleeve(root, "survey", "--imports", ...options);
      expect(code).toBe(0);
      expect(stdout).not.toContain("crane");
      expect(stderr).toMatch(
        /^sleeve: 1 single-file component \(\.\w+\) was not read\. .*\[COMPONENTS_SKIPPED\]\n$/,
      );
      expect(stderr).toContain(reason);
    }
  },
);

test("a component that does not compile is reported, and the others are surveyed", () => {
  const [given] = CASES as [ComponentCase];
  const root = office(given);
  writeFileSync(join(root, "src/Broken.vue"), "<script setup>import {");
  const { code, stdout, stderr } = sleeve(root, "survey", "--imports");
  expect(code).toBe(2);
  expect(stdout).toContain("crane");
  expect(stderr).toMatch(/^sleeve: src\/Broken\.vue does not compile: .*\[SYNTAX_ERROR\]\n$/);
});
