import { spawnSync } from "node:child_process";
import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { expect, test } from "vitest";
import { sleeve } from "../harness.ts";

const REPOSITORY = join(import.meta.dirname, "../../../..");
const TSC = join(REPOSITORY, "node_modules/typescript/bin/tsc");
const ROOT = join(import.meta.dirname, "../fixtures/packages/build/replace");

/** The code of the guide, by the file that the first line of each block names, and the output that it shows. */
function guide(): {
  readonly files: ReadonlyMap<string, string>;
  readonly output: string;
  readonly targets: string;
} {
  const text = readFileSync(join(REPOSITORY, "docs/replace.md"), "utf8");
  const blocks = [...text.matchAll(/^```(ts|js|text)\n([\s\S]*?)^```$/gm)];
  const files = blocks.flatMap(([, , code = ""]) => {
    const [heading = "", ...rest] = code.split("\n");
    return heading.startsWith("// src/") ? [[heading.slice("// ".length), rest.join("\n")] as const] : [];
  });
  const output = blocks.find(([, language]) => language === "text")?.[2] ?? "";
  return {
    files: new Map(files),
    output,
    targets: blocks.find(([, , code]) => code?.startsWith("targets: {"))?.[2] ?? "",
  };
}

function write(file: string, text: string): void {
  mkdirSync(dirname(join(ROOT, file)), { recursive: true });
  writeFileSync(join(ROOT, file), text);
}

/** Compiles the project, and returns what the program prints. */
function printed(): string {
  const compiled = spawnSync(process.execPath, [TSC, "-p", ROOT], { encoding: "utf8" });
  expect(compiled.stdout).toBe("");
  const { stdout, stderr } = spawnSync(process.execPath, [join(ROOT, "out/main.js")], { encoding: "utf8" });
  expect(stderr).toBe("");
  return stdout;
}

test("the guide replaces axios by fetch: the same output, with one line exchanged and no import of axios", () => {
  const { files, output, targets } = guide();
  const before = ["src/tides.ts", "src/berths.ts", "src/main.ts"];
  const codeOf = (file: string) => files.get(file) ?? "";
  rmSync(ROOT, { recursive: true, force: true });
  write("package.json", '{ "name": "office", "type": "module", "private": true }\n');
  const compilerOptions = {
    ...{ strict: true, module: "nodenext", target: "es2023", types: ["node"], skipLibCheck: true },
    ...{ outDir: "out", rootDir: "src" },
  };
  write("tsconfig.json", JSON.stringify({ compilerOptions, include: ["src"] }));
  for (const file of before) write(file, codeOf(file));
  expect(printed()).toBe(output);

  const drafted = sleeve(ROOT, "draft", "axios", "--write");
  expect(drafted.stdout).toContain("Independent of axios: all 6 used members");
  expect(sleeve(ROOT, "move", "axios", "--write", "--uncommitted").code).toBe(0);
  expect(readFileSync(join(ROOT, "src/axios/axios.ts"), "utf8")).toBe(codeOf("src/axios/axios.ts"));
  rmSync(join(ROOT, "src/axios/axios.contract.ts"), { force: true });
  expect(printed()).toBe(output);

  write("src/axios/axios-over-fetch.ts", codeOf("src/axios/axios-over-fetch.ts"));
  const config = join(ROOT, "sleeve.config.ts");
  const both = readFileSync(config, "utf8").replace(/targets: \{[\s\S]*?\},\n/, targets);
  writeFileSync(config, both);
  expect(sleeve(ROOT, "check")).toMatchObject({ code: 0, stderr: "" });

  const moved = before.map((file) => readFileSync(join(ROOT, file), "utf8"));
  write("src/axios/axios-adapter.ts", codeOf("src/axios/axios-adapter.ts"));
  expect(printed()).toBe(output);
  expect(before.map((file) => readFileSync(join(ROOT, file), "utf8"))).toEqual(moved);
  writeFileSync(
    config,
    `export default {\n${targets}};\n`.replace(/"src\/axios\/axios-adapter.ts#axios", /, ""),
  );
  expect(sleeve(ROOT, "check")).toMatchObject({ code: 0, stderr: "" });
  expect(sleeve(ROOT, "survey", "--json").stdout).not.toContain('"axios"');
  rmSync(ROOT, { recursive: true });
});
