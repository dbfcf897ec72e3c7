import { mkdirSync, symlinkSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { installed, project } from "../harness.ts";

const { resolve } = createRequire(import.meta.url);
/** The repository's installed packages. */
export const MODULES = join(dirname(resolve("svelte/package.json")), "..");

const CRANE = `
export interface Load { readonly tons: number; readonly unused?: string }
export declare function lift(load: Load): number;
export declare function label(tons: number): string;
export declare class Rig { hoist(tons: number): string; unused(): void }
`;

const CRANE_CODE = `
exports.lift = ({ tons }) => tons * 2;
exports.label = (tons) => tons + " t";
exports.Rig = class Rig { hoist(tons) { return "hoisted " + tons; } };
`;

/** A component in one of the formats, before and after `crane` is isolated. */
export interface ComponentCase {
  readonly format: string;
  readonly file: string;
  readonly compiler: string;
  readonly before: string;
  /** With new names; with the same names only the specifier changes. */
  readonly after: string;
  /** Places of `Rig.hoist` and of the import, as `line:column`. */
  readonly places: readonly string[];
}

export const CASES: readonly ComponentCase[] = [
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
    format: "Vue, with a member that only the template uses",
    file: "src/Office.vue",
    compiler: "@vue",
    before: `<template>
  <p>{{ label(tons) }} {{ rig.hoist(2) }}</p>
</template>

<script setup lang="ts">
import { label, lift, Rig } from "crane";
const tons = lift({ tons: 3 });
const rig = new Rig();
</script>
`,
    after: `<template>
  <p>{{ label(tons) }} {{ rig.hoist(2) }}</p>
</template>

<script setup lang="ts">
import { label, crane } from "./crane/crane-adapter";
const tons = crane.lift({ tons: 3 });
const rig = crane.createRig();
</script>
`,
    places: ["2:31", "6:34"],
  },
  {
    format: "Svelte, with a member that only the template uses",
    file: "src/Office.svelte",
    compiler: "svelte",
    before: `<script module lang="ts">
  export const text: string = "moored";
</script>
<script lang="ts">
  import { label, lift, Rig } from "crane";
  let tons: number = lift({ tons: 3 });
  const rig = new Rig();
</script>

<p>{label(tons)} {rig.hoist(2)}</p>
`,
    after: `<script module lang="ts">
  export const text: string = "moored";
</script>
<script lang="ts">
  import { label, crane } from "./crane/crane-adapter";
  let tons: number = crane.lift({ tons: 3 });
  const rig = crane.createRig();
</script>

<p>{label(tons)} {rig.hoist(2)}</p>
`,
    places: ["10:23", "5:36"],
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

/** Creates a project with a component, and its format's compiler unless it is missing. */
export function office({ file, before, compiler }: ComponentCase, has = true): string {
  const root = project({
    ...installed("crane", CRANE),
    "node_modules/crane/index.js": CRANE_CODE,
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
