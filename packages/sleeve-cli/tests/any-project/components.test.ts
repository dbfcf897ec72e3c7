import { mkdirSync, readFileSync, symlinkSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const { resolve } = createRequire(import.meta.url);
const MODULES = join(dirname(resolve("svelte/package.json")), "..");

const CRANE = `
export interface Load { readonly tons: number; readonly unused?: string }
export declare function lift(load: Load): number;
export declare function label(tons: number): string;
export declare class Rig { hoist(tons: number): string; unused(): void }
`;

interface Case {
  readonly format: string;
  readonly file: string;
  readonly compiler: string;
  readonly before: string;
  /** With new names; with the same names only the specifier changes. */
  readonly after: string;
  /** Places of `Rig.hoist` and of the import, as `line:column`. */
  readonly places: readonly string[];
}

const CASES: readonly Case[] = [
  {
    format: "Vue, with a script that sets up",
    file: "src/Office.vue",
    compiler: "@vue",
    before: `<template>
  <p title="é 🚢">{{ label(tons) }}</p>
</template>

<script setup lang="ts">
import { label, lift, Rig } from "crane";
const tons = lift({ tons: 3 });
defineExpose({ text: new Rig().hoist(tons) });
</script>
`,
    after: `<template>
  <p title="é 🚢">{{ label(tons) }}</p>
</template>

<script setup lang="ts">
import { label, crane } from "./crane/crane-adapter";
const tons = crane.lift({ tons: 3 });
defineExpose({ text: crane.createRig().hoist(tons) });
</script>
`,
    places: ["6:34", "8:32"],
  },
  {
    format: "Vue, with two scripts",
    file: "src/Office.vue",
    compiler: "@vue",
    before: `<script lang="ts">
import { Rig } from "crane";
export const text = new Rig().hoist(2);
</script>
<script setup lang="ts">
import { label, lift } from "crane";
const tons = lift({ tons: 3 });
</script>
<template><p :title="label(tons)" /></template>
`,
    after: `<script lang="ts">
import { crane } from "./crane/crane-adapter";
export const text = crane.createRig().hoist(2);
</script>
<script setup lang="ts">
import { label } from "./crane/crane-adapter";
const tons = crane.lift({ tons: 3 });
</script>
<template><p :title="label(tons)" /></template>
`,
    places: ["2:21", "3:31", "6:29"],
  },
  {
    format: "Svelte",
    file: "src/Office.svelte",
    compiler: "svelte",
    before: `<script module lang="ts">
  import { Rig } from "crane";
  export const text: string = new Rig().hoist(2);
</script>
<script lang="ts">
  import { label, lift } from "crane";
  let tons: number = lift({ tons: 3 });
</script>

<p title="é 🚢">{label(tons)}</p>
`,
    after: `<script module lang="ts">
  import { crane } from "./crane/crane-adapter";
  export const text: string = crane.createRig().hoist(2);
</script>
<script lang="ts">
  import { label } from "./crane/crane-adapter";
  let tons: number = crane.lift({ tons: 3 });
</script>

<p title="é 🚢">{label(tons)}</p>
`,
    places: ["2:23", "3:41", "6:31"],
  },
  {
    format: "Astro",
    file: "src/office.astro",
    compiler: "@astrojs",
    before: `---
import { label, lift } from "crane";
const tons = lift({ tons: 3 });
---
<p title="é 🚢">{label(tons)}</p>
<script>
  import { Rig } from "crane";
  console.log(new Rig().hoist(2));
</script>
`,
    after: `---
import { label, crane } from "./crane/crane-adapter";
const tons = crane.lift({ tons: 3 });
---
<p title="é 🚢">{label(tons)}</p>
<script>
  import { crane } from "./crane/crane-adapter";
  console.log(crane.createRig().hoist(2));
</script>
`,
    places: ["2:29", "7:23", "8:25"],
  },
  {
    format: "MDX",
    file: "src/office.mdx",
    compiler: "@mdx-js",
    before: `import { label, Rig } from "crane"

# The é 🚢 office

export const text = new Rig().hoist(2)

It lifts {label(3)}.
`,
    after: `import { label, crane } from "./crane/crane-adapter"

# The é 🚢 office

export const text = crane.createRig().hoist(2)

It lifts {label(3)}.
`,
    places: ["1:28", "5:31"],
  },
];

function office({ file, before, compiler }: Case, has = true): string {
  const root = project({
    ...installed("crane", CRANE),
    "package.json": '{ "name": "office", "type": "module" }',
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        module: "esnext",
        moduleResolution: "bundler",
        target: "es2023",
        types: [],
      },
      include: ["src"],
    }),
    "src/main.ts": 'export const other = "file";\n',
    [file]: before,
  });
  if (has) {
    mkdirSync(join(root, "node_modules"), { recursive: true });
    symlinkSync(join(MODULES, compiler), join(root, "node_modules", compiler));
  }
  return root;
}

interface Place {
  readonly file: string;
  readonly line: number;
  readonly column: number;
}

test("every format is listed", () => {
  expect(CASES).toHaveLength(5);
});

test.each(CASES)("$format: imports and uses are surveyed at their places, checked and moved", (given) => {
  const { file, before, after, places } = given;
  const root = office(given);
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
    ...packages[0].members.filter(({ member }) => member === "Rig.hoist").flatMap((member) => member.places),
  ];
  expect(found.map((place) => place.file)).toEqual(found.map(() => file));
  expect(found.map(({ line, column }) => `${line}:${column}`).sort()).toEqual(places);

  writeFileSync(join(root, "sleeve.config.ts"), 'export default { borders: { crane: ["src/main.ts"] } };\n');
  const checked = sleeve(root, "check");
  expect(checked.code).toBe(1);
  expect(checked.stdout).toContain(`border  crane  ${file}:${places[0]}`);
  writeFileSync(join(root, "sleeve.config.ts"), "export default {};\n");

  expect(sleeve(root, "draft", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(sleeve(root, "move", "crane", "--write", "--uncommitted")).toMatchObject({ code: 0, stderr: "" });
  expect(readFileSync(join(root, file), "utf8")).toBe(after);
  expect(sleeve(root, "check")).toMatchObject({ code: 0, stderr: "" });

  const same = office(given);
  expect(sleeve(same, "draft", "crane", "--same-names", "--write").code).toBe(0);
  expect(sleeve(same, "move", "crane", "--write", "--uncommitted").code).toBe(0);
  expect(readFileSync(join(same, file), "utf8")).toBe(
    before.replaceAll('"crane"', '"./crane/crane-adapter"'),
  );
});

test.each(CASES)("$format: a note counts the files if the compiler is missing or must not run", (given) => {
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
});

test("a component that does not compile is reported, and the others are surveyed", () => {
  const [given] = CASES as [Case];
  const root = office(given);
  writeFileSync(join(root, "src/Broken.vue"), "<script setup>import {");
  const { code, stdout, stderr } = sleeve(root, "survey", "--imports");
  expect(code).toBe(2);
  expect(stdout).toContain("crane");
  expect(stderr).toMatch(/^sleeve: src\/Broken\.vue does not compile: .*\[SYNTAX_ERROR\]\n$/);
});
