import { existsSync, readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";

const OPTIONS = { strict: true, module: "nodenext", target: "es2023", types: [], skipLibCheck: true };

interface Placement {
  readonly config: string;
  readonly files: Readonly<Record<string, unknown>>;
  /** The adapter's file. */
  readonly adapter: string;
  /** The compiler config that is extended, if any, and its list of files then. */
  readonly extends?: readonly [file: string, files: readonly string[]];
}

const MAIN = ["src/main.ts", "src/app/other.ts"];
const DRAFTED = ["src/crane/crane.ts", "src/crane/crane-adapter.ts"];

/** Configs that would not list a draft where it usually goes, and some that do. */
const PLACEMENTS: readonly Placement[] = [
  {
    config: "a folder",
    files: { "tsconfig.json": { compilerOptions: OPTIONS, include: ["src"] } },
    adapter: "src/crane/crane-adapter.ts",
  },
  {
    config: "no lists at all",
    files: { "tsconfig.json": { compilerOptions: OPTIONS } },
    adapter: "src/crane/crane-adapter.ts",
  },
  {
    config: "a list of files",
    files: { "tsconfig.json": { compilerOptions: OPTIONS, files: MAIN } },
    adapter: "src/crane/crane-adapter.ts",
    extends: ["tsconfig.json", [...MAIN, ...DRAFTED]],
  },
  {
    config: "a list of files with ./",
    files: { "tsconfig.json": { compilerOptions: OPTIONS, files: MAIN.map((file) => `./${file}`) } },
    adapter: "src/crane/crane-adapter.ts",
    extends: ["tsconfig.json", [...MAIN, ...DRAFTED].map((file) => `./${file}`)],
  },
  {
    config: "a list of files in a config that is extended",
    files: {
      "config/base.json": { compilerOptions: OPTIONS, files: MAIN.map((file) => `../${file}`) },
      "tsconfig.json": { extends: "./config/base.json" },
    },
    adapter: "src/crane/crane-adapter.ts",
    extends: ["config/base.json", [...MAIN, ...DRAFTED].map((file) => `../${file}`)],
  },
  {
    config: "composite, with a list of files",
    files: {
      "tsconfig.json": { compilerOptions: { ...OPTIONS, composite: true, outDir: "out" }, files: MAIN },
    },
    adapter: "src/crane/crane-adapter.ts",
    extends: ["tsconfig.json", [...MAIN, ...DRAFTED]],
  },
  {
    config: "patterns for single folders",
    files: { "tsconfig.json": { compilerOptions: OPTIONS, include: ["src/*.ts", "src/app/*.ts"] } },
    adapter: "src/crane-adapter.ts",
  },
  {
    config: "patterns for single folders, and path aliases",
    files: {
      "tsconfig.json": {
        compilerOptions: { ...OPTIONS, paths: { "~/*": ["./src/*"] } },
        include: ["src/*.ts", "src/app/*.ts"],
      },
    },
    adapter: "src/crane/crane-adapter.ts",
    extends: ["tsconfig.json", DRAFTED],
  },
  {
    config: "a root folder",
    files: {
      "tsconfig.json": {
        compilerOptions: { ...OPTIONS, rootDir: "src/app", outDir: "out" },
        include: ["src/app"],
      },
    },
    adapter: "src/app/crane/crane-adapter.ts",
  },
  {
    config: "a config that is only referenced, with a list of files",
    files: {
      "tsconfig.json": { files: [], references: [{ path: "./tsconfig.app.json" }] },
      "tsconfig.app.json": { compilerOptions: { ...OPTIONS, composite: true, outDir: "out" }, files: MAIN },
    },
    adapter: "src/crane/crane-adapter.ts",
    extends: ["tsconfig.app.json", [...MAIN, ...DRAFTED]],
  },
];

test("every placement is listed", () => {
  expect(PLACEMENTS).toHaveLength(10);
});

test.each(sampled(PLACEMENTS))(
  "what is drafted is compiled, with $config",
  ({ config, files, adapter, extends: extended }) => {
    const root = project({
      ...installed("crane", "export declare function lift(tons: number): number;"),
      "package.json": '{ "name": "office", "type": "module" }',
      "src/main.ts": 'import { lift } from "crane";\nexport const total: number = lift(2);\n',
      "src/app/other.ts": 'import { lift } from "crane";\nexport const other: number = lift(3);\n',
      ...Object.fromEntries(Object.entries(files).map(([file, values]) => [file, JSON.stringify(values)])),
    });
    const drafted = sleeve(root, "draft", "crane", "--write");
    expect(drafted).toMatchObject({ code: 0, stderr: "" });
    expect(existsSync(join(root, adapter))).toBe(true);
    expect(/(\S+)\s+compiler config\s/.exec(drafted.stdout)?.[1]).toBe(extended?.[0]);
    if (extended) {
      const [file, listed] = extended;
      expect((JSON.parse(readFileSync(join(root, file), "utf8")) as { files: unknown }).files).toEqual(
        listed,
      );
    }
    expect(sleeve(root, "move", "crane", "--write", "--uncommitted")).toMatchObject({ code: 0, stderr: "" });
    // With that config, `src/main.ts` is not compiled, and keeps its import, which is outside the border.
    const code = config === "a root folder" ? 1 : 0;
    expect(sleeve(root, "check")).toMatchObject({ code, stderr: "" });
  },
);

const COMPILER = `
exports.sys = {};
exports.readConfigFile = () => ({ config: {} });
exports.parseJsonConfigFileContent = () => ({ fileNames: [], options: {} });
exports.createCompilerHost = () => ({ readFile: () => undefined, fileExists: () => false });
exports.createProgram = ({ host }) => host;
exports.flattenDiagnosticMessageText = (text) => text;
exports.getPreEmitDiagnostics = (host) => {
  console.log("noise of the compiler");
  const text = host.readFile(process.cwd() + "/src/main.ts");
  const error = (messageText) => ({ category: 1, code: 2304, messageText, file: { fileName: "src/main.ts" } });
  return [error("Known."), ...(text?.includes("crane.lift") ? [error("Cannot find name 'crane'.")] : [])];
};
`;

test.each([
  ["refuses the draft and the move", "4.9.5", [], 2],
  ["is not run where code of the project must not run", "4.9.5", ["--no-config-code"], 0],
  ["is not run if it is the native one", "7.0.2", [], 0],
] as const)("a compiler of the project that reports a new error %s", (_, version, options, code) => {
  const before = 'import { lift } from "crane";\nexport const total: number = lift(2);\n';
  const root = project({
    ...installed("crane", "export declare function lift(tons: number): number;"),
    "node_modules/typescript/package.json": JSON.stringify({ name: "typescript", version, main: "index.js" }),
    "node_modules/typescript/index.js": COMPILER,
    "src/main.ts": before,
  });
  const error =
    "TypeScript 4.9.5 of the project would report a new error: src/main.ts: TS2304: Cannot find name 'crane'. Nothing was written.";
  const drafted = sleeve(root, "draft", "crane", "--write", ...options);
  expect(drafted.code).toBe(code);
  if (code !== 0) {
    expect(drafted.stderr).toContain(error);
    expect(readdirSync(join(root, "src"))).toEqual(["main.ts"]);
    sleeve(root, "draft", "crane", "--write", "--no-config-code");
  }
  const moved = sleeve(root, "move", "crane", "--write", "--uncommitted", ...options);
  expect(moved.code).toBe(code);
  const after = readFileSync(join(root, "src/main.ts"), "utf8");
  if (code === 0) expect(after).toContain("crane.lift");
  else {
    expect(after).toBe(before);
    expect(moved.stderr).toContain(error);
  }
});

test("a compiler of the project that does not run is a note", () => {
  const root = project({
    ...installed("crane", "export declare function lift(tons: number): number;"),
    "node_modules/typescript/package.json":
      '{ "name": "typescript", "version": "5.4.5", "main": "index.js" }',
    "node_modules/typescript/index.js": "process.exit(3);\n",
    "src/main.ts": 'import { lift } from "crane";\nexport const total: number = lift(2);\n',
  });
  expect(sleeve(root, "draft", "crane", "--write").code).toBe(0);
  const { code, stderr } = sleeve(root, "move", "crane", "--write", "--uncommitted");
  expect(code).toBe(0);
  expect(stderr).toMatch(/^sleeve: TypeScript 5\.4\.5 of the project did not run, .*\[COMPILER_FAILED\]\n$/);
});
