import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";
import { PACKAGES, TRAPS, type Trap } from "./corpus.ts";

interface SurveyJson {
  readonly packages: readonly {
    readonly name: string;
    readonly dependency: unknown;
    readonly affectedFiles: unknown;
    readonly imports: readonly { readonly place: Place; readonly forms: readonly string[] }[];
    readonly members: readonly { readonly member: string; readonly places: readonly Place[] }[];
  }[];
}

interface Place {
  readonly file: string;
  readonly line: number;
  readonly column: number;
}

const folderOf = (index: number) => `src/t${String(index).padStart(2, "0")}/`;

function filesOf({ files }: Trap, index: number): [string, string][] {
  const all = typeof files === "string" ? { "a.ts": files } : files;
  return Object.entries(all).map(([file, text]) => [`${folderOf(index)}${file}`, text]);
}

function corpus(): string {
  const commonScripts = TRAPS.flatMap(({ files }, index) =>
    typeof files !== "string" && /\brequire\(/.test(files["a.js"] ?? "")
      ? [[`${folderOf(index)}package.json`, "{}"]]
      : [],
  );
  return project({
    ...Object.assign({}, ...Object.entries(PACKAGES).map(([name, text]) => installed(name, text))),
    ...installed("@deck/kit", "export declare function kit(): void;"),
    "node_modules/crane/package.json":
      '{ "name": "crane", "version": "1.0.0", "type": "module", "types": "index.d.ts", "main": "index.js" }',
    "node_modules/crane/parts.d.ts": "export declare function arm(): void;",
    "node_modules/crane/parts.js": "",
    "node_modules/bare/package.json": '{ "name": "bare", "version": "1.0.0", "main": "index.js" }',
    "node_modules/bare/index.js": "exports.go = () => {}; exports.stop = { now: 1 };",
    "package.json": '{ "type": "module" }',
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        module: "nodenext",
        target: "es2023",
        noEmit: true,
        allowJs: true,
        allowImportingTsExtensions: true,
        types: [],
        paths: { "cranes-of-ours": ["./ours/cranes.ts"] },
      },
      include: ["src", "ours"],
    }),
    "ours/cranes.ts": 'export { weigh } from "crane";',
    ...Object.fromEntries(commonScripts),
    ...Object.fromEntries(TRAPS.flatMap(filesOf)),
  });
}

test(`a survey finds exactly the imports and uses in ${TRAPS.length} traps`, () => {
  expect(TRAPS).toHaveLength(86);
  const root = corpus();
  const { stdout, stderr } = sleeve(root, "survey", "--json");
  expect(stderr).toBe("");
  const { packages } = JSON.parse(stdout) as SurveyJson;
  const found = TRAPS.map(({ trap }, index) => {
    const isHere = ({ file }: Place) => file.startsWith(folderOf(index));
    const imports = packages
      .flatMap(({ name, imports: all }) =>
        all.filter(({ place }) => isHere(place)).map((item) => ({ name, ...item })),
      )
      .sort((a, b) => (a.place.file < b.place.file ? -1 : 1) && a.place.line - b.place.line)
      .map(({ name, forms }) => `${name} ${forms.join(", ")}`);
    const uses = packages.flatMap(({ members }) =>
      members.flatMap(({ member, places }) => {
        const count = places.filter(isHere).length;
        return count > 0 ? [`${member} ${count}`] : [];
      }),
    );
    return { trap, imports, uses: uses.sort() };
  });
  expect(found).toEqual(TRAPS.map(({ trap, imports, uses }) => ({ trap, imports, uses: [...uses].sort() })));
});

test("a survey with --imports finds the same imports", () => {
  const root = corpus();
  const [all, imports] = [[], ["--imports"]].map((options) => {
    const { packages, ...rest } = JSON.parse(
      sleeve(root, "survey", "--json", "--built-ins", ...options).stdout,
    ) as SurveyJson & { readonly level: string; readonly problems: readonly unknown[] };
    const known = packages
      .filter(({ name }) => !name.startsWith("global "))
      .map(({ name, imports: found, dependency, affectedFiles }) => ({
        name,
        found,
        dependency,
        // Leaks need the compiler.
        affectedFiles: { ...(affectedFiles as object), clients: null },
      }))
      .sort((left, right) => (left.name < right.name ? -1 : 1));
    return { ...rest, packages: known };
  });
  expect(imports).toEqual({ ...all, level: "imports" });
});

test("a project read by several threads is surveyed like a small one", () => {
  const uses = (index: number) => (index % 7 === 0 ? 'import { lift } from "crane";\nlift();\n' : "");
  const files = Array.from({ length: 900 }, (_, index): [string, string] => [
    `src/f${index}.ts`,
    `\uFEFF${uses(index)}export const n${index}: number = ${index === 450 ? "(" : index};\r\n`,
  ]);
  const root = project({
    ...installed("crane", "export declare function lift(): void;"),
    ...Object.fromEntries(files),
  });
  for (const options of [[], ["--imports"]]) {
    const { stdout, stderr } = sleeve(root, "survey", "--json", ...options);
    expect(stderr).toMatch(/^sleeve: src\/f450\.ts:1:\d+ does not parse: .*\n$/);
    const { packages } = JSON.parse(stdout) as SurveyJson;
    expect(packages.map(({ name, imports }) => [name, imports.length])).toEqual([["crane", 129]]);
    expect(packages[0]?.members.map(({ places }) => places.length)).toEqual([129]);
  }
});
