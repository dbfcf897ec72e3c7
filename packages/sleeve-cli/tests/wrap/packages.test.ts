import { spawnSync } from "node:child_process";
import { symlinkSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { project, sampled, sleeve } from "../harness.ts";

const MODULES = join(import.meta.dirname, "../../../../node_modules");

/** Packages whose types are wrapped, each with the number of members that are certainly there. */
const PACKAGES: readonly (readonly [name: string, members: number])[] = [
  ["luxon", 250], ["awilix", 40], ["axios", 150], ["bignumber.js", 50], ["chokidar", 60], ["commander", 150],
  ["csv-parse", 150], ["dayjs", 20], ["decimal.js", 60], ["eventemitter3", 10], ["fast-check", 200], ["fast-glob", 20],
  ["handlebars", 50], ["hono", 40], ["immer", 5], ["inversify", 60], ["jsonwebtoken", 20], ["keyv", 40],
  ["koa", 100], ["redux", 10], ["magic-string", 60], ["pino", 60], ["rxjs", 150], ["winston", 100],
  ["ajv", 350], ["memfs", 300], ["fast-xml-parser", 100], ["express", 400], ["ejs", 20], ["ws", 150],
  ["node:events", 10], ["node:fs", 300], ["node:net", 200], ["node:stream", 200],
]; // biome-ignore format: a list

interface Output {
  readonly wrappers: readonly {
    readonly members: number;
    readonly refused: readonly { readonly member: string }[];
  }[];
  readonly skipped: readonly { readonly hasMembers: boolean; readonly why: string }[];
}

const CASES = PACKAGES.flatMap(([name, least]) =>
  ["forwarder", "decorator", "fake", "surface"].map((kind) => [name, kind, least] as const),
);

test.each(sampled(CASES))("all types of %s have a %s that compiles", (name, kind, least) => {
  const root = project({
    "package.json": '{ "name": "office", "type": "module" }',
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        exactOptionalPropertyTypes: true,
        noUncheckedIndexedAccess: true,
        noUnusedLocals: true,
        noImplicitOverride: true,
        skipLibCheck: true,
        module: "nodenext",
        target: "es2023",
        lib: ["es2023", "dom", "esnext.disposable"],
        types: ["node"],
        noEmit: true,
      },
      include: ["src"],
    }),
    "src/main.ts": "export {};\n",
  });
  symlinkSync(MODULES, join(root, "node_modules"));
  const { stdout, stderr, code } = sleeve(
    root,
    "wrap",
    name,
    "--as",
    kind,
    ...(kind === "decorator" ? ["logging", "timing", "access"].flatMap((layer) => ["--layer", layer]) : []),
    "--to",
    "src/generated",
    "--write",
    "--json",
  );
  expect([stderr, code]).toEqual(["", 0]);
  const { wrappers, skipped } = JSON.parse(stdout) as Output;
  // One package constrains a type parameter by a type that it does not export.
  expect(skipped.filter(({ hasMembers, why }) => hasMembers && !why.includes("type parameters"))).toEqual([]);
  const members = wrappers.reduce((sum, wrapper) => sum + wrapper.members, 0);
  // Call, construct and index signatures are no members of a class.
  const refused = wrappers.flatMap((wrapper) => wrapper.refused.filter(({ member }) => /\w{4}/.test(member)));
  expect(members).toBeGreaterThanOrEqual(least);
  // At least one member of a small package may be refused.
  expect(refused.length, JSON.stringify(refused)).toBeLessThanOrEqual(Math.max(2, members * 0.02));
  const compiled = spawnSync(process.execPath, [join(MODULES, "typescript/bin/tsc"), "-p", root], {
    encoding: "utf8",
  });
  expect(compiled.stdout).toBe("");
});

test("every package is listed", () => {
  expect(PACKAGES.length).toBe(34);
});
