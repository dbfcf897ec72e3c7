import { mkdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const CRANE =
  "export declare class Crane { lift(tons: number): number; unused(): void }\nexport declare const LIMIT: number;\n";

/** One way to name the package `crane`, and the settings that make it lead there. */
interface Specifier {
  readonly form: string;
  readonly specifier: string;
  readonly options?: object;
  readonly manifest?: object;
  readonly files?: Readonly<Record<string, string>>;
  /** Whether it leads to a file of the project instead. */
  readonly isOwn?: boolean;
  readonly prepare?: (root: string) => void;
}

const BUNDLER = { module: "esnext", moduleResolution: "bundler" };

const SPECIFIERS: readonly Specifier[] = [
  { form: "a name", specifier: "crane" },
  { form: "a subpath import", specifier: "#crane", manifest: { imports: { "#crane": "crane" } } },
  {
    form: "a subpath import with conditions",
    specifier: "#crane",
    manifest: { imports: { "#crane": { browser: "./src/other.ts", default: "crane" } } },
  },
  {
    form: "a subpath import with a pattern",
    specifier: "#vendor/crane",
    manifest: { imports: { "#vendor/*": "*" } },
  },
  {
    form: "a subpath import of a file of the project",
    specifier: "#crane",
    manifest: { imports: { "#crane": "./src/own-crane.ts" } },
    files: { "src/own-crane.ts": "export class Crane { lift(tons: number): number { return tons; } }\n" },
    isOwn: true,
  },
  {
    form: "a path alias of a package",
    specifier: "hoist",
    options: { ...BUNDLER, paths: { hoist: ["./node_modules/crane"] } },
  },
  {
    form: "a path alias of several modules",
    specifier: "vendor/crane",
    options: {
      ...BUNDLER,
      paths: { "vendor/other": ["./src/other.ts"], "vendor/crane": ["./node_modules/crane"] },
    },
    files: { "src/first.ts": 'import "vendor/other";\n' },
  },
  {
    form: "a path alias of a file of the project, by the package's name",
    specifier: "crane",
    options: { ...BUNDLER, paths: { crane: ["./src/own-crane.ts"] } },
    files: { "src/own-crane.ts": "export class Crane { lift(tons: number): number { return tons; } }\n" },
    isOwn: true,
  },
  { form: "a path into node_modules", specifier: "../node_modules/crane/index.js" },
  {
    form: "a linked package",
    specifier: "crane",
    prepare: (root) => link(root, "packages/crane"),
  },
  {
    form: "a module that a file of the project declares",
    specifier: "crane",
    files: {
      "node_modules/crane/index.d.ts": "",
      "node_modules/crane/package.json": '{ "name": "crane", "version": "1.0.0", "main": "index.js" }',
      "src/crane.d.ts": `declare module "crane" {\n${CRANE.replaceAll("declare ", "")}}\n`,
    },
  },
  {
    form: "a module that a type root declares",
    specifier: "crane",
    options: { ...BUNDLER, typeRoots: ["./types"], types: ["*"] },
    files: {
      "node_modules/crane/index.d.ts": "",
      "node_modules/crane/package.json": '{ "name": "crane", "version": "1.0.0", "main": "index.js" }',
      "types/crane/index.d.ts": `declare module "crane" {\n${CRANE.replaceAll("declare ", "")}}\n`,
    },
  },
  {
    form: "classic resolution, with a file of the package's name elsewhere",
    specifier: "crane",
    options: { module: "es2015", moduleResolution: "classic" },
    files: { "src/deeper/crane.ts": "export const own = 1;\n" },
  },
  {
    form: "classic resolution, with a file of the package's name above",
    specifier: "crane",
    options: { module: "es2015", moduleResolution: "classic" },
    files: { "src/crane.ts": "export class Crane { lift(tons: number): number { return tons; } }\n" },
    isOwn: true,
  },
];

/** Moves the installed package elsewhere, and links it. */
function link(root: string, to: string): void {
  const folder = join(root, "node_modules/crane");
  mkdirSync(join(root, to, ".."), { recursive: true });
  renameSync(folder, join(root, to));
  symlinkSync(join(root, to), folder);
}

function office({ specifier, options = {}, manifest = {}, files = {}, prepare }: Specifier): string {
  const root = project({
    ...installed("crane", CRANE),
    "package.json": JSON.stringify({ name: "office", type: "module", ...manifest }),
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        module: "nodenext",
        target: "es2023",
        types: [],
        noEmit: true,
        allowImportingTsExtensions: true,
        ...options,
      },
      include: ["src"],
    }),
    "src/other.ts": "export const other = 1;\n",
    "src/main.ts": `import { Crane } from "${specifier}";\nexport const total: number = new Crane().lift(2);\n`,
    "sleeve.config.ts": "export default { borders: { crane: [] } };\n",
    ...files,
  });
  prepare?.(root);
  return root;
}

test("every way to name a package is listed", () => {
  expect(SPECIFIERS).toHaveLength(14);
});

test.each(sampled(SPECIFIERS))("survey, borders, draft and move agree on where $form leads", (given) => {
  const root = office(given);
  const place = { file: "src/main.ts", line: 1, column: 23 };
  const packagesOf = (...args: readonly string[]) =>
    (JSON.parse(sleeve(root, "survey", "--json", ...args).stdout) as Surveyed).packages;
  const surveyed = packagesOf();
  const listed = packagesOf("--imports");
  const checked = sleeve(root, "check");
  if (given.isOwn) {
    expect([surveyed, listed]).toEqual([[], []]);
    expect(checked.stdout).not.toContain("imported here");
    return;
  }
  for (const packages of [surveyed, listed])
    expect(packages.map(({ name, imports }) => [name, imports.map((site) => site.place)])).toEqual([
      ["crane", [place]],
    ]);
  expect(surveyed[0]?.members.map(({ member }) => member).sort()).toEqual(["Crane", "Crane.lift"]);
  expect(checked.code).toBe(1);
  expect(checked.stdout).toContain("border  crane  src/main.ts:1:23");
  writeFileSync(join(root, "sleeve.config.ts"), "export default {};\n");
  expect(sleeve(root, "draft", "crane", "--write").code).toBe(0);
  expect(sleeve(root, "move", "crane", "--write").code).toBe(0);
  expect(readFileSync(join(root, "src/main.ts"), "utf8")).toMatch(/^import \{ cranes \} from "\.\/crane/);
  expect(packagesOf("--imports").flatMap(({ imports }) => imports.map((site) => site.place.file))).toEqual(
    packagesOf("--imports").flatMap(({ imports }) =>
      imports.map(() => expect.stringMatching(/-(?:adapter|outside)\.ts$/)),
    ),
  );
  expect(sleeve(root, "check")).toMatchObject({ code: 0 });
});

interface Surveyed {
  readonly packages: readonly {
    readonly name: string;
    readonly imports: readonly { readonly place: object & { readonly file: string } }[];
    readonly members: readonly { readonly member: string }[];
  }[];
}

test.each([
  ["a class without a name", "export default class { lift(): number }", "new A().lift();", "default"],
  ["a function without a name", "export default function (): number;", "A();", "default"],
  ["a constant", "declare const _default: () => number;\nexport default _default;", "A();", "default"],
  ["a function with a name", "export default function lift(): number;", "A();", "default"],
])("a default export is one member under any local name: %s", (_, declaration, use, member) => {
  const importer = (local: string) => `import ${local} from "crane";\n${use.replace("A", local)}\n`;
  const root = project({
    ...installed("crane", declaration),
    "node_modules/crane/package.json":
      '{ "name": "crane", "version": "1.0.0", "types": "index.d.ts", "type": "module" }',
    "src/a.ts": importer("Hoist"),
    "src/b.ts": importer("Winch"),
  });
  const { packages } = JSON.parse(sleeve(root, "survey", "--json").stdout) as Surveyed;
  expect(packages[0]?.members.map((used) => used.member).filter((name) => !name.includes("."))).toEqual([
    member,
  ]);
});
