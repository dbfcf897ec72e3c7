import { expect, test } from "vitest";
import { PACKAGES, TRAPS, type Trap } from "./corpus/survey.ts";
import { installed, project, sleeve } from "./harness.ts";

interface SurveyJson {
  readonly packages: readonly {
    readonly name: string;
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

test(`a survey finds every import and every use in ${TRAPS.length} traps, and invents none`, () => {
  expect(TRAPS.length).toBeGreaterThanOrEqual(80);
  const commonScripts = TRAPS.flatMap(({ files }, index) =>
    typeof files !== "string" && /\brequire\(/.test(files["a.js"] ?? "")
      ? [[`${folderOf(index)}package.json`, "{}"]]
      : [],
  );
  const root = project({
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
  const { stdout, stderr } = sleeve(root, "survey", "--json");
  expect(stderr).toBe("");
  const { packages } = JSON.parse(stdout) as SurveyJson;
  const found = TRAPS.map(({ trap }, index) => {
    const isHere = ({ file }: Place) => file.startsWith(folderOf(index));
    const imports = packages
      .flatMap(({ name, imports: all }) =>
        all.filter(({ place }) => isHere(place)).map((each) => ({ name, ...each })),
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
