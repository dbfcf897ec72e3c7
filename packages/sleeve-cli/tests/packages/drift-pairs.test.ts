import { spawnSync } from "node:child_process";
import { cpSync, mkdirSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { expect, test } from "vitest";
import { sampled, sleeve } from "../harness.ts";

/** Two major versions of a package: the installed one, and the one under an alias. */
const PAIRS: readonly (readonly [name: string, alias: string])[] = [
  ["awilix", "awilix-8"],
  ["axios", "axios-0"],
  ["bignumber.js", "bignumber.js-9"],
  ["commander", "commander-7"],
  ["csv-parse", "csv-parse-5"],
  ["hono", "hono-3"],
  ["immer", "immer-9"],
  ["keyv", "keyv-4"],
  ["memfs", "memfs-3"],
  ["redux", "redux-4"],
  ["rxjs", "rxjs-6"],
  ["superstruct", "superstruct-1"],
  ["winston", "winston-2"],
  ["yaml", "yaml-1"],
];

/** Versions whose values the compiler cannot name one by one, to be recorded. */
const NOT_RECORDED: readonly string[] = ["keyv-4", "superstruct-1"];

const TESTED = sampled(PAIRS);

const BUILD = join(import.meta.dirname, "../fixtures/packages/build/pairs");
const MODULES = join(import.meta.dirname, "../../../../node_modules");
const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");

const TSCONFIG = {
  compilerOptions: {
    strict: true,
    module: "nodenext",
    target: "es2023",
    lib: ["es2023", "dom"],
    types: ["node"],
    noEmit: true,
    skipLibCheck: true,
  },
  include: ["src"],
};

/** Prints a client that uses every value that a package exports, and every method of its classes, one in each line. */
const GENERATOR = `
const [name] = process.argv.slice(1);
const isName = (key) => /^[A-Za-z$][\\w$]*$/.test(key) && key !== "default" && key !== "constructor";
const lines = [\`import * as all from "\${name}";\`];
const module = await import(name);
for (const [key, value] of Object.entries({ ...module.default, ...module })) {
  if (!isName(key)) continue;
  lines.push(\`export const use\${key} = all.\${key};\`);
  if (typeof value !== "function") continue;
  const methods = Object.getOwnPropertyNames(value.prototype ?? {}).filter(isName);
  for (const method of methods)
    lines.push(\`export const use\${key}_\${method} = (one: InstanceType<typeof all.\${key}>) => one.\${method};\`);
  if (methods.length === 0)
    lines.push(\`export const call\${key} = (given: Parameters<typeof all.\${key}>) => all.\${key}(...given);\`);
}
console.log(lines.join("\\n"));
`;

/** Returns the lines of the client with errors. */
function linesWithErrors(root: string): readonly number[] {
  const { stdout } = spawnSync(process.execPath, [TSC, "-p", root, "--pretty", "false"], {
    cwd: root,
    encoding: "utf8",
  });
  const lines = [...stdout.matchAll(/^src\/client\.ts\((\d+),/gm)].map(([, line]) => Number(line));
  return [...new Set(lines)].sort((left, right) => left - right);
}

const CASES = TESTED.flatMap(([name, alias]) => [[name, name, alias] as const, [name, alias, name] as const]);

test.each(CASES.filter(([, from]) => !NOT_RECORDED.includes(from)))(
  "drift of %s, from %s to %s, names the lines that the compiler rejects with the other version",
  { timeout: 240_000 },
  (name, from, to) => {
    const root = join(BUILD, `${from}-to-${to}`);
    const client = join(root, "src/client.ts");
    const install = (alias: string) => {
      const target = join(root, "node_modules", name);
      rmSync(target, { recursive: true, force: true });
      cpSync(join(MODULES, alias), target, { recursive: true });
    };
    rmSync(root, { recursive: true, force: true });
    mkdirSync(join(root, "src"), { recursive: true });
    writeFileSync(join(root, "package.json"), JSON.stringify({ type: "module" }));
    writeFileSync(join(root, "tsconfig.json"), JSON.stringify(TSCONFIG));
    install(from);
    const { stdout } = spawnSync(process.execPath, ["--input-type=module", "-e", GENERATOR, name], {
      cwd: root,
      encoding: "utf8",
    });
    writeFileSync(client, stdout);
    // Values without types are left out.
    const untyped = new Set(linesWithErrors(root));
    const lines = stdout.split("\n").filter((_, index) => !untyped.has(index + 1));
    expect(lines.length).toBeGreaterThan(2);
    writeFileSync(client, lines.join("\n"));
    expect(sleeve(root, "drift", "--record").code).toBe(0);
    const run = sleeve(root, "drift", "--json", "--against", join(MODULES, to));
    expect(run.stderr).toBe("");
    const { drifts } = JSON.parse(run.stdout) as {
      readonly drifts: readonly {
        readonly isBreaking: boolean;
        readonly differences: readonly {
          readonly isBreaking: boolean;
          readonly errors: readonly { readonly place: { readonly line: number } }[];
        }[];
      }[];
    };
    const named = drifts.flatMap(({ differences }) =>
      differences
        .filter(({ isBreaking }) => isBreaking)
        .flatMap(({ errors }) => errors.map(({ place }) => place.line)),
    );
    install(to);
    const rejected = linesWithErrors(root);
    expect([...new Set(named)].sort((left, right) => left - right)).toEqual(rejected);
    expect(run.code).toBe(rejected.length > 0 ? 1 : 0);
    rmSync(root, { recursive: true, force: true });
  },
);

test("every pair is listed", () => {
  expect([PAIRS.length, NOT_RECORDED.length]).toEqual([14, 2]);
});
