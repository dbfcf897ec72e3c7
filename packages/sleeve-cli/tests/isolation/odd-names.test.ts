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

const CASES = NAMES.flatMap((name) =>
  Object.keys(POSITIONS).flatMap((position) => LANGUAGES.map((language) => ({ name, position, language }))),
);

test("all names are in all positions and languages", () => {
  expect(CASES).toHaveLength(600);
});

/** Returns an office that uses all cases of a language, each in a file of its own that imports a package of its own. */
function office(language: (typeof LANGUAGES)[number], cases: readonly (typeof CASES)[number][]): string {
  const files = cases.map(({ name, position }, index) => {
    const [declaration = "", use = ""] = POSITIONS[position] ?? [];
    const importing =
      language === "commonjs"
        ? `const { ${name}: used } = require("kit${index}");`
        : `import { ${name} as used } from "kit${index}";`;
    return {
      ...installed(
        `kit${index}`,
        `${declaration.replace("export declare", "declare")}\nexport { local as ${name} };\n`,
      ),
      [`src/client${index}.${language === "typescript" ? "ts" : "js"}`]: `${importing}\n${use.replace("#", "used")}\n`,
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
    const cases = sampled(
      CASES.filter((one) => one.language === language),
      10,
    );
    const root = office(language, cases);
    const failures = cases.flatMap(({ name, position }, index) => {
      const drafted = sleeve(root, "draft", `kit${index}`, "--write", "--json");
      const moved = sleeve(root, "move", `kit${index}`, "--write", "--uncommitted");
      const client = readFileSync(
        join(root, `src/client${index}.${language === "typescript" ? "ts" : "js"}`),
        "utf8",
      );
      const isFree = !client.includes(`"kit${index}"`);
      return drafted.code === 0 && moved.code === 0 && isFree
        ? []
        : [`${name} as ${position}: ${drafted.stderr}${moved.stderr}${isFree ? "" : "still imported"}`];
    });
    expect(failures).toEqual([]);
  },
);

test("exports of any name, with type parameters of any form, are wrapped", () => {
  const cases = sampled(
    CASES.filter(({ language, position }) => language === "typescript" && /class/.test(position)),
    8,
  );
  const root = office("typescript", cases);
  const failures = cases.flatMap(({ name, position }, index) =>
    (["forwarder", "fake", "decorator"] as const).flatMap((kind) => {
      const layers = kind === "decorator" ? ["--layer", "timing", "--standalone"] : [];
      const to = ["--to", `src/wrapped${index}-${kind}.ts`, "--name", "Wrapped"];
      const { code, stderr } = sleeve(root, "wrap", `kit${index}#${name}`, "--as", kind, ...layers, ...to);
      return code === 0 ? [] : [`${kind} of ${name} as ${position}: ${stderr}`];
    }),
  );
  expect(failures).toEqual([]);
});
