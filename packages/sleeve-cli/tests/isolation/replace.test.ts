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
    return /^\/\/ (?:src|tests)\//.test(heading)
      ? [[heading.slice("// ".length), rest.join("\n")] as const]
      : [];
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
  const { stdout, stderr } = spawnSync(process.execPath, [join(ROOT, "out/src/main.js")], {
    encoding: "utf8",
  });
  expect(stderr).toBe("");
  return stdout;
}

/** Returns the scenarios in which the second adapter differs from the first. */
function verdicts(): readonly string[] {
  const script = join(ROOT, "out/verdicts.js");
  const code = `
    import { checkContract } from "sleeve/conform";
    import { axiosContract } from "./tests/axios.contract.js";
    import { axiosOverFetch } from "./src/axios/axios-over-fetch.js";
    const { implementations } = await checkContract(axiosContract, { fetch: () => axiosOverFetch });
    const findings = implementations.flatMap(({ checks }) => checks.flatMap((check) => check.findings));
    console.log(JSON.stringify(findings.map(({ place }) => place)));
    // Connections are kept for a while.
    process.exit();`;
  writeFileSync(script, code);
  const { stdout, stderr } = spawnSync(process.execPath, [script], { encoding: "utf8" });
  expect(stderr).toBe("");
  return JSON.parse(stdout) as readonly string[];
}

test("the guide replaces axios by fetch: a contract that is green over both, the same output, and no import of axios", () => {
  const { files, output, targets } = guide();
  const before = ["src/tides.ts", "src/berths.ts", "src/main.ts"];
  const codeOf = (file: string) => files.get(file) ?? "";
  rmSync(ROOT, { recursive: true, force: true });
  write("package.json", '{ "name": "office", "type": "module", "private": true }\n');
  const compilerOptions = {
    ...{ strict: true, module: "nodenext", target: "es2023", types: ["node"], skipLibCheck: true },
    ...{ outDir: "out", rootDir: "." },
  };
  write("tsconfig.json", JSON.stringify({ compilerOptions, include: ["src", "tests"] }));
  for (const file of before) write(file, codeOf(file));
  expect(printed()).toBe(output);

  const drafted = sleeve(ROOT, "draft", "axios", "--write");
  expect(drafted.stdout).toContain("Independent of axios: all 6 used members");
  for (const member of ["get", "post"])
    expect(readFileSync(join(ROOT, "tests/axios.contract.ts"), "utf8")).toContain(
      `- \`${member}\`: it may have effects, because the module opens connections`,
    );
  expect(sleeve(ROOT, "move", "axios", "--write", "--uncommitted").code).toBe(0);
  expect(readFileSync(join(ROOT, "src/axios/axios.ts"), "utf8")).toBe(codeOf("src/axios/axios.ts"));
  expect(printed()).toBe(output);

  write("src/axios/axios-over-fetch.ts", codeOf("src/axios/axios-over-fetch.ts"));
  const config = join(ROOT, "sleeve.config.ts");
  const both = readFileSync(config, "utf8").replace(/targets: \{[\s\S]*?\},\n/, targets);
  writeFileSync(config, both);
  expect(sleeve(ROOT, "check")).toMatchObject({ code: 0, stderr: "" });

  write("tests/axios.contract.ts", codeOf("tests/axios.contract.ts"));
  expect(printed()).toBe(output);
  expect(verdicts()).toEqual([]);
  const compiled = join(ROOT, "out/src/axios/axios-over-fetch.js");
  const overFetch = readFileSync(compiled, "utf8");
  writeFileSync(compiled, overFetch.replace('"content-type": "application/json"', ""));
  expect(verdicts()).toEqual(["a booking"]);
  writeFileSync(compiled, overFetch.replace("URLSearchParams(params)", "URLSearchParams()"));
  expect(verdicts()).toEqual(["tides"]);
  writeFileSync(compiled, overFetch.replace("payload instanceof HttpError", "false"));
  expect(verdicts()).toEqual(["a refusal"]);

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
