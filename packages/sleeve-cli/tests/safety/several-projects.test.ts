import { spawnSync } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, symlinkSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");

const CRANE = {
  ...installed(
    "crane",
    "export declare class Crane { lift(tons: number): number }\nexport declare const LIMIT: number;\n",
  ),
  "node_modules/crane/index.js":
    "exports.Crane = class Crane { lift(tons) { return tons * 2; } };\nexports.LIMIT = 9;\n",
};

const BASE = {
  strict: true,
  module: "nodenext",
  target: "es2022",
  types: ["console"],
  typeRoots: [] as string[],
  skipLibCheck: true,
};

/** Packages of a workspace that reference each other; code is written to `dist`, or beside the sources. */
function workspace(outDir: string | undefined): string {
  const config = (references: readonly string[]) =>
    JSON.stringify({
      compilerOptions: { ...BASE, types: [], composite: true, rootDir: "src", ...(outDir && { outDir }) },
      include: ["src"],
      references: references.map((name) => ({ path: `../${name}` })),
    });
  const names = ["core", "app", "ops"];
  const root = project({
    ...CRANE,
    "package.json": '{ "name": "yard", "private": true, "type": "module", "workspaces": ["packages/*"] }',
    "tsconfig.json": JSON.stringify({
      files: [],
      references: names.map((name) => ({ path: `packages/${name}` })),
    }),
    ...Object.fromEntries(
      names.flatMap((name) => [
        [
          `packages/${name}/package.json`,
          JSON.stringify({ name: `@yard/${name}`, type: "module", exports: `./${outDir ?? "src"}/index.js` }),
        ],
        [`packages/${name}/tsconfig.json`, config(name === "core" ? [] : ["core"])],
      ]),
    ),
    "packages/core/src/index.ts": 'import { LIMIT } from "crane";\nexport const limit: number = LIMIT;\n',
    "packages/app/src/index.ts":
      'import { Crane } from "crane";\nimport { limit } from "@yard/core";\nexport const total: number = new Crane().lift(limit);\n',
    "packages/app/src/two.ts":
      'import { Crane } from "crane";\nexport const two: number = new Crane().lift(2);\n',
    "packages/ops/src/index.ts":
      'import { Crane } from "crane";\nexport const three: number = new Crane().lift(3);\n',
  });
  mkdirSync(join(root, "node_modules/@yard"), { recursive: true });
  for (const name of names) symlinkSync(`../../packages/${name}`, join(root, "node_modules/@yard", name));
  return root;
}

/** Compiles all packages, and returns what they export. */
function exported(root: string, outDir: string): string {
  const { stdout } = spawnSync(process.execPath, [TSC, "-b", root], { encoding: "utf8" });
  const print = `for (const name of ["core/${outDir}/index.js", "app/${outDir}/index.js", "app/${outDir}/two.js", "ops/${outDir}/index.js"]) console.log({ ...(await import(\`\${process.cwd()}/packages/\${name}\`)) });`;
  const run = spawnSync(process.execPath, ["--input-type=module", "-e", print], {
    cwd: root,
    encoding: "utf8",
  });
  return stdout + run.stdout + run.stderr;
}

test("in packages that are compiled apart, a draft of all is refused, and one of each runs as before", () => {
  const root = workspace("dist");
  const before = exported(root, "dist");
  expect(before).toContain("{ total: 18 }");
  for (const into of [[], ["--into", "packages/core/src/crane"]]) {
    const { code, stderr } = sleeve(root, "draft", "crane", "--write", ...into);
    expect(code).toBe(2);
    expect(stderr).toMatch(
      /^sleeve: crane is imported in 3 projects, packages\/core \(1 file\), packages\/app \(2 files\), packages\/ops \(1 file\), and .*Draft it in each: `sleeve draft crane packages\/core`, .*\[SEVERAL_PROJECTS\]\n$/,
    );
  }
  expect(existsSync(join(root, "sleeve.config.ts"))).toBe(false);
  for (const name of ["core", "app", "ops"]) {
    expect(sleeve(root, "draft", "crane", `packages/${name}`, "--write")).toMatchObject({
      code: 0,
      stderr: "",
    });
    expect(sleeve(root, "move", "crane", `packages/${name}`, "--write")).toMatchObject({
      code: 0,
      stderr: "",
    });
    expect(sleeve(root, "check", `packages/${name}`)).toMatchObject({ code: 0, stderr: "" });
  }
  expect(exported(root, "dist")).toBe(before);
});

test("in packages that are compiled in place, a draft goes to one that all can import", () => {
  const root = workspace(undefined);
  const before = exported(root, "src");
  const wrong = sleeve(root, "draft", "crane", "--write", "--into", "packages/ops/src/crane");
  expect(wrong.stderr).toMatch(
    /These folders work with --into: packages\/core\/src\. \[SEVERAL_PROJECTS\]\n$/,
  );
  expect(sleeve(root, "draft", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(existsSync(join(root, "packages/core/src/crane/crane-adapter.ts"))).toBe(true);
  expect(sleeve(root, "move", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(exported(root, "src")).toBe(before);
});

test("a caller outside the project's folder is refused before anything is written", () => {
  const config = JSON.stringify({
    compilerOptions: { ...BASE, types: [], noEmit: true },
    include: ["src", "../shared"],
  });
  const root = project({
    ...CRANE,
    "client/tsconfig.json": config,
    "server/tsconfig.json": config,
    "client/src/a.ts": 'import { Crane } from "crane";\nnew Crane();\n',
    "server/src/a.ts": 'import { LIMIT } from "crane";\nexport const a: number = LIMIT;\n',
    "shared/b.ts": 'import { Crane } from "crane";\nnew Crane();\n',
  });
  const { code, stdout, stderr } = sleeve(root, "draft", "crane", "client", "--write");
  expect([code, stdout]).toEqual([2, ""]);
  expect(stderr).toBe(
    "sleeve: ../shared/b.ts imports crane and lies outside the folder of the project, where nothing is written. Run in a folder that contains all files, such as `..`. [NOT_WRITABLE]\n",
  );
  expect(existsSync(join(root, "client/sleeve.config.ts"))).toBe(false);
});

test("a project that names a package by a subpath import runs as before", () => {
  const root = project({
    ...CRANE,
    "package.json":
      '{ "name": "office", "type": "module", "imports": { "#crane": "crane", "#own": "./src/own.js" } }',
    "src/own.js": 'import { LIMIT } from "#crane";\nexport const limit = LIMIT + 1;\n',
    "src/main.js":
      'import { Crane } from "crane";\nimport { limit } from "#own";\nconsole.log(new Crane().lift(limit));\n',
    "tsconfig.json": JSON.stringify({
      compilerOptions: { allowJs: true, noEmit: true, module: "nodenext", types: [] },
      include: ["src"],
    }),
  });
  const run = () => spawnSync(process.execPath, [join(root, "src/main.js")], { encoding: "utf8" }).stdout;
  const before = run();
  expect(before).toBe("20\n");
  expect(sleeve(root, "draft", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(sleeve(root, "move", "crane", "--write")).toMatchObject({ code: 0, stderr: "" });
  expect(readFileSync(join(root, "src/own.js"), "utf8")).not.toContain("#crane");
  expect(run()).toBe(before);
});
