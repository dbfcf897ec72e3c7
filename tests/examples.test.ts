import { spawnSync } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join, relative } from "node:path";
import { expect, test } from "vitest";

const root = join(import.meta.dirname, "..");

/** The examples of doc comments, and the TypeScript in the README and the guide, by where they stand. */
function examples(): Map<string, string> {
  const found = new Map<string, string>();
  for (const file of filesUnder("packages").filter((name) => name.endsWith(".ts"))) {
    const text = readFileSync(join(root, file), "utf8");
    for (const match of text.matchAll(/^ *\* @example\n((?: *\*(?!\/).*\n)+)/gm)) {
      const code = (match[1] ?? "")
        .split("\n")
        .map((line) => line.replace(/^ *\* ?/, "").replace("\\@", "@"));
      found.set(`${file}:${lineOf(text, match.index)}`, code.join("\n"));
    }
  }
  for (const file of [
    "README.md",
    "CONTRIBUTING.md",
    ...filesUnder("docs").filter((name) => name.endsWith(".md")),
  ]) {
    const text = readFileSync(join(root, file), "utf8");
    for (const match of text.matchAll(/^```ts\n([\s\S]*?)^```$/gm))
      found.set(`${file}:${lineOf(text, match.index)}`, match[1] ?? "");
  }
  return found;
}

function filesUnder(folder: string): string[] {
  const files = readdirSync(join(root, folder), { recursive: true, encoding: "utf8" });
  const isSource = (file: string) =>
    /\.(ts|md)$/.test(file) && !/(^|[\\/])(node_modules|dist|tests)[\\/]/.test(file);
  return files.filter(isSource).map((file) => join(folder, file));
}

function lineOf(text: string, index: number): number {
  return text.slice(0, index).split("\n").length;
}

test("every example in the documentation compiles", () => {
  const folder = join(root, "tests/.examples");
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const places = new Map<string, string>();
  for (const [place, code] of examples()) {
    const name = `${place.replaceAll(/[^\w]+/g, "-")}.ts`;
    places.set(name, place);
    writeFileSync(join(folder, name), `${code}\nexport {};\n`);
  }
  expect(places.size).toBeGreaterThan(8);
  const options = {
    noUnusedLocals: false,
    noUnusedParameters: false,
    types: ["node"],
    noEmit: true,
    composite: false,
  };
  writeFileSync(
    join(folder, "tsconfig.json"),
    JSON.stringify({ extends: "../tsconfig.json", compilerOptions: options, include: ["*.ts"] }),
  );
  const tsc = join(root, "node_modules/typescript/bin/tsc");
  const { stdout } = spawnSync(process.execPath, [tsc, "-p", folder, "--pretty", "false"], {
    cwd: root,
    encoding: "utf8",
  });
  const errors = stdout.replaceAll(
    /^\S*?([\w-]+\.ts)\(/gm,
    (_, name: string) => `${places.get(name) ?? relative(root, name)} (`,
  );
  rmSync(folder, { recursive: true, force: true });
  expect(errors).toBe("");
});
