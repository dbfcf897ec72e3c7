import { cpSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { project, sleeve } from "../harness.ts";

interface Surveyed {
  readonly name: string;
  readonly sameJobAs: readonly {
    readonly package: string;
    readonly keywords: readonly string[];
    readonly members: readonly string[];
  }[];
}

const FIXTURES = join(import.meta.dirname, "../fixtures/packages");
const MODULES = join(import.meta.dirname, "../../../../node_modules");

/** Returns the pairs of packages that may do the same job, with why. */
function pairsIn(root: string): readonly string[] {
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as {
    readonly packages: readonly Surveyed[];
  };
  const pairs = packages.flatMap(({ name, sameJobAs }) =>
    sameJobAs.map((other) => ({ names: [name, other.package], ...other })),
  );
  // Each pair is listed with both packages.
  for (const { names, keywords, members } of pairs)
    expect(pairs).toContainEqual({ names: names.toReversed(), package: names[0], keywords, members });
  return pairs
    .filter(({ names: [left = "", right = ""] }) => left < right)
    .map(
      ({ names, keywords, members }) => `${names.join(" ")}: ${keywords.join(", ")}; ${members.join(", ")}`,
    )
    .sort();
}

test("of 40 packages in one project, those that do the same job are found, and no others", () => {
  const root = project({
    "package.json": '{ "name": "office", "type": "module" }',
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        module: "nodenext",
        target: "es2023",
        skipLibCheck: true,
        noEmit: true,
      },
      include: ["src"],
    }),
  });
  cpSync(join(FIXTURES, "consumers"), join(root, "src"), { recursive: true });
  symlinkSync(MODULES, join(root, "node_modules"));
  expect(pairsIn(root).map((pair) => pair.slice(0, pair.indexOf(":")))).toEqual([
    "@noble/hashes tweetnacl",
    "bignumber.js decimal.js",
    "commander yargs",
    "csv-parse papaparse",
    "dayjs luxon",
    "debug winston",
    "ejs handlebars",
    "pino winston",
    "redux zustand",
  ]);
});

function kit(name: string, keywords: unknown, members: readonly string[], deprecated = false) {
  const folder = `node_modules/${name}`;
  const declarations = members.map((member) => `export declare function ${member}(): void;`);
  return {
    [`${folder}/package.json`]: JSON.stringify({ name, version: "1.0.0", types: "index.d.ts", keywords }),
    [`${folder}/index.d.ts`]: `${declarations.join("\n")}\nexport {};\n`,
    [`src/${name}.ts`]: `import { ${members.join(", ")} } from "${name}";\n${members.map((member) => `${member}();`).join(" ")}\n`,
    ...(deprecated && {
      "package-lock.json": JSON.stringify({
        lockfileVersion: 3,
        packages: { [folder]: { version: "1.0.0", deprecated: "Use another one." } },
      }),
    }),
  };
}

test.each([
  [
    "a keyword and a member",
    ["tides", "tables"],
    ["heightAt"],
    ["Tide"],
    ["heightAt", "close"],
    ["kit-a kit-b: tide; heightAt"],
  ],
  [
    "a word of a keyword",
    ["tide-table"],
    ["heightAt"],
    ["moon tide"],
    ["heightAt"],
    ["kit-a kit-b: tide; heightAt"],
  ],
  ["keywords in one text", "tide", ["heightAt"], ["tide"], ["heightAt"], ["kit-a kit-b: tide; heightAt"]],
  ["a keyword only", ["tide"], ["heightAt"], ["tide"], ["levelAt"], []],
  ["a member only", ["tide"], ["heightAt"], ["crane"], ["heightAt"], []],
  [
    "a keyword that says nothing",
    ["typescript", "api"],
    ["heightAt"],
    ["TypeScript", "APIs"],
    ["heightAt"],
    [],
  ],
  ["a member that most objects have", ["tide"], ["on", "once"], ["tide"], ["on", "once"], []],
  ["keywords that are no texts", [1, null], ["heightAt"], { tide: true }, ["heightAt"], []],
] as const)("packages with %s in common", (_, leftWords, leftMembers, rightWords, rightMembers, expected) => {
  const root = project({
    ...kit("kit-a", leftWords, leftMembers),
    ...kit("kit-b", rightWords, rightMembers),
  });
  expect(pairsIn(root)).toEqual([...expected]);
});

test("the table says why a package stands where it does, and a deprecated one comes first", () => {
  const root = project({
    ...kit("crane", ["hoist"], ["lift", "swing", "lower"]),
    ...kit("tides", ["tide"], ["heightAt"], true),
    ...kit("moons", ["tide"], ["heightAt", "phaseAt"]),
    "src/wide.ts": 'import { lift } from "crane";\nlift();\n',
  });
  const { stdout } = sleeve(root, "survey");
  const rows = stdout.split("\n").filter((line) => /^(?:crane|tides|moons) /.test(line));
  expect(rows.map((row) => row.replace(/ {2,}/g, " "))).toEqual([
    "tides 1.0.0 1 1 0 1 1.0 deprecated",
    "crane 1.0.0 2 3 0 2 3.5 in 2 files",
    "moons 1.0.0 1 2 0 1 1.4 same job as tides",
  ]);
  expect(stdout).toContain("Isolate tides first.");
  expect(stdout).toContain("  It is deprecated: Use another one.\n");
  expect(stdout).toContain("note moons and tides may do the same job: both have heightAt (tide)\n");
});
