import { spawnSync } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join, relative } from "node:path";
import { rolldown } from "rolldown";
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
    // Code that begins with the name of its file is part of a program, which the test of its guide compiles as a whole.
    for (const match of text.matchAll(/^```ts\n(?!\/\/ (?:src|tests)\/)([\s\S]*?)^```$/gm))
      found.set(`${file}:${lineOf(text, match.index)}`, match[1] ?? "");
  }
  return found;
}

function filesUnder(folder: string): string[] {
  const files = readdirSync(join(root, folder), { recursive: true, encoding: "utf8" });
  const isSource = (file: string) =>
    /\.(ts|md)$/.test(file) && !/(^|[\\/])(node_modules|dist|build|tests)[\\/]/.test(file);
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

/**
 * Examples that run by themselves: without declared values, servers, packages that are not installed with the library, and
 * decorators, which Node.js does not parse.
 */
function isSelfContained(code: string): boolean {
  const specifiers = [...code.matchAll(/from "([^"]+)"/g)].map(([, specifier = ""]) => specifier);
  const isKnown = (specifier: string) => /^(sleeve(\/traced)?|node:(?!http)[\w/]+)$/.test(specifier);
  return (
    specifiers.includes("sleeve") &&
    specifiers.every(isKnown) &&
    !/^\s*(export )?declare |^\s*@\w|\bfetch\b/m.test(code)
  );
}

test("every example that is complete runs, and throws only what it says", async () => {
  const folder = join(root, "tests/.running-examples");
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const selected = [...examples()].filter(([, code]) => isSelfContained(code));
  expect(selected.length).toBeGreaterThan(35);
  try {
    selected.forEach(([, code], index) =>
      writeFileSync(join(folder, `example${index}.ts`), `${code}\nexport {};\n`),
    );
    const bundle = await rolldown({
      input: selected.map((_, index) => join(folder, `example${index}.ts`)),
      external: /^(sleeve|node:)/,
      platform: "node",
    });
    await bundle.write({ dir: folder, entryFileNames: "[name].mjs" });
    const script = `const failures = {};
process.on("unhandledRejection", () => {});
for (let index = 0; index < ${selected.length}; index++)
  await (console.log("running " + index), import("./example" + index + ".mjs")).catch((error) => (failures[index] = error.code ?? String(error)));
console.log("\\nresult " + JSON.stringify(failures));
process.exit();`;
    writeFileSync(join(folder, "run.mjs"), script);
    const { stdout, stderr } = spawnSync(process.execPath, [join(folder, "run.mjs")], {
      cwd: root,
      encoding: "utf8",
    });
    const result = /^result (.*)$/m.exec(stdout)?.[1];
    const last = Number(stdout.split("running ").at(-1)?.split("\n")[0]);
    if (!result) throw new Error(`${selected[last]?.[0]} did not end. ${stderr}`);
    const failures = JSON.parse(result) as Readonly<Record<string, string>>;
    const unexpected = selected.flatMap(([place, code], index) => {
      const announced = [...(/\/\/ throws:? (?:(\w+))?/.exec(code) ?? [])];
      const failure = failures[index];
      if (announced.length > 0) return failure ? [] : [`${place} throws nothing`];
      return failure ? [`${place} throws ${failure}`] : [];
    });
    expect(unexpected).toEqual([]);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
