import { readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

/** Names that exports can have: identifiers of all kinds, and words of the language. */
const NAMES = [
  "$", "_", "$1", "_a", "a$b", "größe", "名前", "ключ", "\u{2118}", "Ω", "class", "delete", "await", "enum", "let", "static", "type", "of", "constructor", "arguments",
] as const; // biome-ignore format: a list

/** What an export can be, with the local name and a use of it, in which `#` is the name in the caller. */
const POSITIONS: Readonly<Record<string, readonly [declaration: string, use: string]>> = {
  "a function": ["export declare function local(value: number): number;", "console.log(#(1));"],
  "a constant": ["export declare const local: { readonly depth: number };", "console.log(#.depth);"],
  "a class": [
    "export declare class local { constructor(tons: number); lift(): number }",
    "console.log(new #(1).lift());",
  ],
  "a generic function": [
    "export declare function local<Item extends Record<string, unknown>, Key extends keyof Item = keyof Item>(item: Item, key: Key): Item[Key];",
    'console.log(#({ a: 1 }, "a"));',
  ],
  "a generic class": [
    "export declare class local<Key extends string | { readonly id: string }, Value = Key[]> { get(key: Key): Value | undefined }",
    'console.log(new #().get("a"));',
  ],
  "a function with a callback": [
    "export declare function local(name: string, done: (error: Error | null, value?: number) => void): void;",
    '#("a", (error, value) => console.log(error, value));',
  ],
  "a conditional constraint": [
    "export declare function local<Value extends (Wide extends string ? string : number), Wide = string>(value: Value): Value;",
    'console.log(#("a"));',
  ],
  "a mapped constraint": [
    'export declare function local<Item extends { [Key in "a" | "b"]?: number }>(item: Item): Item;',
    "console.log(#({ a: 1 }).a);",
  ],
  "a constraint with a tuple and a template": [
    // biome-ignore lint/suspicious/noTemplateCurlyInString: a template type
    "export declare function local<Items extends readonly [first: `b-${string}`, ...rest: number[]]>(...items: Items): Items;",
    'console.log(#("b-1", 2).length);',
  ],
  "a constraint with a function": [
    "export declare function local<Run extends (...args: never[]) => Promise<unknown>>(run: Run): ReturnType<Run>;",
    "console.log(#(async () => 1));",
  ],
};

const LANGUAGES = ["typescript", "module", "commonjs"] as const;

type Language = (typeof LANGUAGES)[number];

test("all names are in all positions and languages", () => {
  expect(NAMES.length * Object.keys(POSITIONS).length * LANGUAGES.length).toBe(600);
});

function clientFile(position: number, name: number, language: Language): string {
  return `src/client${position}-${name}.${language === "typescript" ? "ts" : "js"}`;
}

/** Returns an office with a package for each position, which exports all names, each used in a file of its own. */
function office(language: Language, positions: readonly string[]): string {
  const files = positions.map((position, index) => {
    const [declaration = "", use = ""] = POSITIONS[position] ?? [];
    const declarations = NAMES.map(
      (name, at) =>
        `${declaration.replace("export declare", "declare").replace("local", `local${at}`)}\nexport { local${at} as ${name} };\n`,
    );
    const clients = NAMES.map((name, at) => {
      const importing =
        language === "commonjs"
          ? `const { ${name}: used } = require("kit${index}");`
          : `import { ${name} as used } from "kit${index}";`;
      return [clientFile(index, at, language), `${importing}\n${use.replace("#", "used")}\n`];
    });
    return {
      ...installed(`kit${index}`, declarations.join("")),
      ...(Object.fromEntries(clients) as Readonly<Record<string, string>>),
    };
  });
  return project({
    "package.json": JSON.stringify({ name: "office", type: language === "commonjs" ? "commonjs" : "module" }),
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true, noUnusedLocals: true, module: "nodenext", target: "es2023", lib: ["es2023", "dom"], types: [], noEmit: true,
        allowJs: true, checkJs: true, noImplicitAny: language === "typescript",
      }, // biome-ignore format: a list
      include: ["src"],
    }),
    "src/require.d.ts": "declare function require(name: string): any;\n",
    ...Object.assign({}, ...files),
  });
}

test.each(LANGUAGES)(
  "exports of any name, with type parameters of any form, are drafted and moved in %s",
  (language) => {
    const positions = sampled(Object.keys(POSITIONS));
    const root = office(language, positions);
    const failures = positions.flatMap((position, index) => {
      const drafted = sleeve(root, "draft", `kit${index}`, "--write", "--json");
      const moved = sleeve(root, "move", `kit${index}`, "--write", "--uncommitted");
      const kept = NAMES.filter((_, at) =>
        readFileSync(join(root, clientFile(index, at, language)), "utf8").includes(`"kit${index}"`),
      );
      const errors = [drafted, moved].flatMap(({ code, stderr }) => (code === 0 ? [] : [stderr]));
      return [
        ...errors.map((error) => `${position}: ${error}`),
        ...kept.map((name) => `${name} as ${position}: still imported`),
      ];
    });
    expect(failures).toEqual([]);
  },
);

const WRAPPED = NAMES.flatMap((name) =>
  ["a class", "a generic class"].flatMap((position) =>
    (["forwarder", "fake", "decorator"] as const).map((kind) => ({ name, position, kind })),
  ),
);

test("exports of any name, with type parameters of any form, are wrapped", () => {
  expect(WRAPPED).toHaveLength(120);
  const positions = ["a class", "a generic class"];
  const root = office("typescript", positions);
  const failures = sampled(WRAPPED).flatMap(({ name, position, kind }, index) => {
    const layers = kind === "decorator" ? ["--layer", "timing", "--standalone"] : [];
    const to = ["--to", `src/wrapped${index}.ts`, "--name", "Wrapped"];
    const type = `kit${positions.indexOf(position)}#${name}`;
    const { code, stderr } = sleeve(root, "wrap", type, "--as", kind, ...layers, ...to);
    return code === 0 ? [] : [`${kind} of ${name} as ${position}: ${stderr}`];
  });
  expect(failures).toEqual([]);
});
