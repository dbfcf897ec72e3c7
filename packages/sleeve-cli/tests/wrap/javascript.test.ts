import { spawnSync } from "node:child_process";
import { symlinkSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { describe, expect, test } from "vitest";
import { installed, project, sampled, sleeve } from "../harness.ts";
import { FEATURES, TYPES } from "./features.ts";

const ROOT = join(import.meta.dirname, "../../../..");
const TSC = join(ROOT, "node_modules/typescript/bin/tsc");
const OPTIONS = { strict: true, allowJs: true, checkJs: true, module: "nodenext", target: "es2023", lib: ["es2023", "esnext.disposable"], noEmit: true, skipLibCheck: true, types: [] }; // biome-ignore format: one line

function scriptProject(files: Readonly<Record<string, string>>, type: "module" | "commonjs"): string {
  const root = project({
    ...files,
    "package.json": JSON.stringify({ type }),
    "tsconfig.json": JSON.stringify({ compilerOptions: OPTIONS, include: ["src"] }),
  });
  symlinkSync(join(ROOT, "packages/sleeve"), join(root, "node_modules/sleeve"));
  return root;
}

function compile(root: string): string {
  return spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout;
}

const KINDS = [
  ["forwarder"],
  ["fake"],
  ["surface"],
  ["decorator", "--layer", "logging", "--layer", "timing", "--layer", "access", "--layer", "guard", "--layer", "cached", "--layer", "retrying", "--layer", "limited"],
  ["proxy", "--layer", "timing", "--standalone"],
]; // biome-ignore format: a list

/** Members that JSDoc cannot describe: a list of type parameters that are constant. */
const NOT_IN_JSDOC = /const type parameter/;

const CASES = KINDS.flatMap(([kind = "", ...layers]) =>
  (["module", "commonjs"] as const).map((type) => [kind, type, layers] as const),
);

describe("in a project in JavaScript", () => {
  test.each(sampled(CASES))(
    "a %s of a package, as a %s, has JSDoc types for all language features",
    (kind, type, layers) => {
      const members = FEATURES.filter(([feature]) => !NOT_IN_JSDOC.test(feature)).map(([, member]) => member);
      const root = scriptProject(
        {
          ...installed("port", `${TYPES}export interface Port { ${members.join("; ")} }\n`),
          "src/main.js": "",
        },
        type,
      );
      const { stdout, stderr, code } = sleeve(
        root,
        "wrap",
        "port#Port",
        "--as",
        kind,
        ...layers,
        "--write",
        "--json",
      );
      expect([stderr, code]).toEqual(["", 0]);
      const { wrappers } = JSON.parse(stdout) as {
        readonly wrappers: readonly [
          {
            readonly file: string;
            readonly text: string;
            readonly refused: readonly { readonly member: string }[];
          },
        ];
      };
      const [{ file, text, refused }] = wrappers;
      expect(file).toMatch(/^src\/.*\.js$/);
      expect(refused.map(({ member }) => member)).toEqual(["[mark]"]);
      expect(text.includes("exports.")).toBe(type === "commonjs");
      expect(spawnSync(process.execPath, ["--check", join(root, file)], { encoding: "utf8" }).stderr).toBe(
        "",
      );
      expect(compile(root)).toBe("");
    },
  );

  test.each(["module", "commonjs"] as const)("a decorated class of a script runs, as a %s", async (type) => {
    const code = `class Winch {\n  /** @param {number} tons @returns {number} */\n  haul(tons) { return tons * 2; }\n}\n`;
    const root = scriptProject(
      {
        ...installed("unused", ""),
        "src/winch.js": type === "module" ? `export ${code}` : `${code}module.exports = { Winch };\n`,
      },
      type,
    );
    const args = [
      "wrap",
      "src/winch.js#Winch",
      "--as",
      "decorator",
      "--layer",
      "timing",
      "--layer",
      "guard",
      "--write",
    ];
    expect(sleeve(root, ...args)).toMatchObject({ code: 0, stderr: "" });
    expect(compile(root)).toBe("");
    const path = (name: string) => join(root, "src", name);
    const load = async (name: string) =>
      type === "module"
        ? ((await import(pathToFileURL(path(name)).href)) as Record<string, never>)
        : (createRequire(path(name))(path(name)) as Record<string, never>);
    const Winch = (await load("winch.js"))["Winch"] as unknown as new () => object;
    const WinchDecorator = (await load("winch-decorator.js"))["WinchDecorator"] as unknown as new (
      subject: object,
      layers: object,
    ) => { haul(tons: number): number };
    const samples: unknown[] = [];
    const winch = new WinchDecorator(new Winch(), {
      timing: { onSample: (sample: unknown) => samples.push(sample) },
      guard: { haul: [(tons: number) => tons < 5] },
    });
    expect([winch.haul(2), samples.length]).toEqual([4, 1]);
    expect(() => winch.haul(9)).toThrow("haul: tons is 9, which is not what the check allows.");
    expect(sleeve(root, "wrap", "--check").code).toBe(0);
    writeFileSync(
      path("winch.js"),
      type === "module"
        ? `export ${code.replace("haul", "pull")}`
        : `${code.replace("haul", "pull")}module.exports = { Winch };\n`,
    );
    expect(sleeve(root, "wrap", "--check").code).toBe(1);
  });
});
