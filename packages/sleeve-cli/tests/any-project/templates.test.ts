import { mkdirSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";
import { MODULES } from "./component-cases.ts";

const CRANE = `
export interface Load { readonly tons: number; readonly label: string; readonly unused: string }
export declare class Rig {
  readonly name: string; readonly first: Load; readonly loads: readonly Load[]; readonly unused: string;
  hoist(tons: number): string; lower(): void; ready(): Promise<Load>;
}
`;

/** A form of an expression in a template, by format; `@` marks each place that uses a member of the outside. */
type Forms = Readonly<Record<string, string>>;

const VUE: Forms = {
  interpolation: "<p>{{ rig.@name }}</p>",
  "a call": "<p>{{ rig.@hoist(2) }}</p>",
  attribute: '<p :title="rig.@first.@label" />',
  event: '<p @click="rig.@lower()" />',
  statements: '<p @click="rig.@lower(); rig.@hoist(3)" />',
  condition: "<p v-if=\"rig.@name === 'x'\">a</p>",
  list: '<p v-for="load in rig.@loads" :key="load.@label">{{ load.@tons }}</p>',
  "list with an index": '<p v-for="(load, at) in rig.@loads">{{ at }} {{ load.@tons }}</p>',
  "list with a pattern": '<p v-for="{ @tons } of rig.@loads">{{ tons }}</p>',
  model: '<input v-model="rig.@name">',
  "a template text": ["<p>{{ `$", "{rig.@name} lifts` }}</p>"].join(""),
};

const SVELTE: Forms = {
  interpolation: "<p>{rig.@name}</p>",
  "a call": "<p>{rig.@hoist(2)}</p>",
  attribute: "<p title={rig.@first.@label}></p>",
  event: "<p on:click={() => rig.@lower()}></p>",
  condition: "{#if rig.@name === 'x'}<p>a</p>{:else}<p>{rig.@first.@tons}</p>{/if}",
  list: "{#each rig.@loads as load (load.@label)}<p>{load.@tons}</p>{/each}",
  "list with an index": "{#each rig.@loads as load, at}<p>{at} {load.@tons}</p>{/each}",
  "list with a pattern": "{#each rig.@loads as { @tons }}<p>{tons}</p>{/each}",
  constant: "{#if true}{@const load = rig.@first}<p>{load.@tons}</p>{/if}",
  HTML: "{@html rig.@name}",
  promise: "{#await rig.@ready()}<p>…</p>{:then load}<p>{load}</p>{/await}",
};

const MDX: Forms = {
  interpolation: "It is {rig.@name}.",
  "a call": "It is {rig.@hoist(2)}.",
  block: "{rig.@first.@label}",
  attribute: "<p title={rig.@name}>text</p>",
  "a template text": ["{`$", "{rig.@name} lifts`}"].join(""),
};

const ASTRO: Forms = {
  interpolation: "<p>{rig.@name}</p>",
  "a call": "<p>{rig.@hoist(2)}</p>",
  attribute: "<p title={rig.@first.@label}></p>",
  list: "<ul>{rig.@loads.map((load) => <li>{load.@tons}</li>)}</ul>",
  condition: "<p>{rig.@name && <b>{rig.@first.@label}</b>}</p>",
};

interface Format {
  readonly file: string;
  readonly compiler: string;
  readonly forms: Forms;
  readonly component: (script: string, template: string) => string;
}

const FORMATS: readonly Format[] = [
  {
    file: "src/Office.vue",
    compiler: "@vue",
    forms: VUE,
    component: (script, template) =>
      `<script setup lang="ts">\n${script}\n</script>\n<template>\n${template}\n</template>\n`,
  },
  {
    file: "src/Office.svelte",
    compiler: "svelte",
    forms: SVELTE,
    component: (script, template) => `<script lang="ts">\n${script}\n</script>\n\n${template}\n`,
  },
  {
    file: "src/office.mdx",
    compiler: "@mdx-js",
    forms: MDX,
    component: (script, template) => `${script.replace("const", "\nexport const")}\n\n${template}\n`,
  },
  {
    file: "src/office.astro",
    compiler: "@astrojs",
    forms: ASTRO,
    component: (script, template) => `---\n${script}\n---\n${template}\n`,
  },
];

const CASES = FORMATS.flatMap((format) =>
  Object.entries(format.forms).map(([form, template]) => ({ ...format, form, template })),
);

function office({ file, compiler }: Format, text: string, script = false): string {
  const root = project({
    ...installed("crane", CRANE),
    "package.json": '{ "name": "office", "type": "module", "dependencies": { "crane": "1" } }',
    "src/main.ts": 'export const other = "file";\n',
    [file]: text,
    ...(script ? {} : { "tsconfig.json": JSON.stringify(TSCONFIG) }),
  });
  mkdirSync(join(root, "node_modules"), { recursive: true });
  symlinkSync(join(MODULES, compiler), join(root, "node_modules", compiler));
  return root;
}

const TSCONFIG = {
  compilerOptions: {
    strict: true,
    module: "esnext",
    moduleResolution: "bundler",
    target: "es2023",
    types: [],
  },
  include: ["src"],
};

test("every form of every format is listed", () => {
  expect(CASES).toHaveLength(32);
});

test.each(sampled(CASES))(
  "members that only a template uses are used, at their places: $file, $form",
  (given) => {
    const marked = given.component('import { Rig } from "crane";\nconst rig = new Rig();', given.template);
    const { text, uses } = withoutMarks(marked);
    const root = office(given, text);
    const surveyed = sleeve(root, "survey", "--json");
    const { packages, notes } = JSON.parse(surveyed.stdout) as Surveyed;
    expect(notes).toEqual([]);
    const found = packages[0].members.flatMap(({ member, places }) =>
      /^(?:Rig|Load)\./.test(member)
        ? places.map(({ file, line, column }) => `${file}:${line}:${column} ${member.split(".")[1]}`)
        : [],
    );
    expect(found.sort()).toEqual(uses.map((use) => `${given.file}:${use}`).sort());
    const { files } = JSON.parse(sleeve(root, "draft", "crane", "--json").stdout) as Drafted;
    const target = files.find(({ role }) => role === "target")?.text ?? "";
    for (const use of uses) expect(target).toMatch(new RegExp(`\\b${use.split(" ")[1]}\\b`));
    expect(target).not.toContain("unused");
  },
);

test.each([
  ["a reactive reference", 'import { ref } from "vue";\nconst rig = ref(new Rig());'],
  ["a computed value", 'import { computed } from "vue";\nconst rig = computed(() => new Rig());'],
])("a template uses members of %s", (_, script) => {
  const [vue] = FORMATS as [Format];
  const root = office(vue, vue.component(`import { Rig } from "crane";\n${script}`, "<p>{{ rig.name }}</p>"));
  for (const name of ["vue", "csstype", "@vue"])
    if (name !== "@vue") symlinkSync(join(MODULES, name), join(root, "node_modules", name));
  const { packages } = JSON.parse(sleeve(root, "survey", "--package", "crane", "--json").stdout) as Surveyed;
  expect(packages[0].members.map(({ member }) => member)).toContainEqual(
    expect.stringMatching(/(?:^|\.)name$/),
  );
});

test("a template uses the value of a store", () => {
  const [, svelte] = FORMATS as [Format, Format];
  const script =
    'import { Rig } from "crane";\nimport { writable } from "svelte/store";\nconst rig = writable(new Rig());';
  const root = office(svelte, svelte.component(script, "<p>{$rig.name}</p>"));
  const { packages } = JSON.parse(sleeve(root, "survey", "--package", "crane", "--json").stdout) as Surveyed;
  expect(packages[0].members.map(({ member }) => member)).toContain("Rig.name");
});

test("a component in JavaScript is read with its template", () => {
  const [vue] = FORMATS as [Format];
  const text = vue
    .component(
      'import { Rig } from "crane";\nconst rig = new Rig();',
      '<p v-for="load in rig.loads">{{ load.tons }}</p>',
    )
    .replace(' lang="ts"', "");
  const root = office(vue, text, true);
  const { packages, problems, notes } = JSON.parse(sleeve(root, "survey", "--json").stdout) as Surveyed;
  expect([problems, notes]).toEqual([[], []]);
  expect(packages[0].members.map(({ member }) => member).sort()).toEqual(["Load.tons", "Rig", "Rig.loads"]);
});

test.each([
  [
    "a component object",
    "<script>\nexport default { data: () => ({ a: 1 }) };\n</script>\n<template><p>{{ a }}</p></template>\n",
  ],
  [
    "another language",
    '<script setup>\nconst a = 1;\n</script>\n<template lang="pug">\np {{ a }}\n</template>\n',
  ],
])("a template that cannot be analysed is listed: %s", (_, text) => {
  const [vue] = FORMATS as [Format];
  const { code, stderr } = sleeve(office(vue, text), "survey");
  expect(code).toBe(0);
  expect(stderr).toMatch(
    /^sleeve: Expressions in the templates of src\/Office\.vue cannot be analysed, .*\[TEMPLATES_SKIPPED\]\n$/,
  );
});

interface Surveyed {
  readonly packages: readonly [
    {
      readonly members: readonly {
        readonly member: string;
        readonly places: readonly { readonly file: string; readonly line: number; readonly column: number }[];
      }[];
    },
  ];
  readonly problems: readonly object[];
  readonly notes: readonly object[];
}

/** Returns a text without its marks, and the place and name behind each. */
function withoutMarks(marked: string): { readonly text: string; readonly uses: readonly string[] } {
  const uses = marked.split("\n").flatMap((line, index) => {
    // Words of the formats also start with the mark.
    const names = [...line.matchAll(/(?<=[.{ ])@(?!click|const|html)(\w+)/g)];
    return names.map((name, at) => `${index + 1}:${name.index - at + 1} ${name[1]}`);
  });
  return { text: marked.replace(/(?<=[.{ ])@(?!click|const|html)(?=\w)/g, ""), uses };
}

interface Drafted {
  readonly files: readonly { readonly role: string; readonly text: string }[];
}
