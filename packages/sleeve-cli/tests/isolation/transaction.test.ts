import { spawnSync } from "node:child_process";
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { rolldown } from "rolldown";
import { beforeAll, expect, test } from "vitest";
import { project, sleeve } from "../harness.ts";

const DIE_AT = join(import.meta.dirname, "../fixtures/die-at.mjs");
const TRANSACTION = join(import.meta.dirname, ".transaction/transaction.js");
const FILES = ["src/a.ts", "src/b.ts", "src/deep/c.ts"];

const WRITE = `
import { readFileSync } from "node:fs";
const { Transaction } = await import(${JSON.stringify(TRANSACTION)});
const root = process.argv[1];
using transaction = Transaction.begin(root);
transaction.recover();
const files = ${JSON.stringify(FILES)}.map((file) => root + "/" + file);
transaction.write([
  ...files.map((path) => ({ path, before: readFileSync(path), after: Buffer.from("after") })),
  { path: root + "/src/new.ts", before: undefined, after: Buffer.from("after") },
]);
`.replace("using transaction", "const transaction");

const RECOVER = `
const { Transaction } = await import(${JSON.stringify(TRANSACTION)});
const transaction = Transaction.begin(process.argv[1]);
console.log(JSON.stringify(transaction.recover() ?? null));
transaction[Symbol.dispose]();
`;

beforeAll(async () => {
  const build = await rolldown({
    input: join(import.meta.dirname, "../../src/project/writing/transaction.ts"),
    external: /^node:/,
    transform: { target: "node20.19" },
  });
  await build.write({ file: TRANSACTION });
  await build.close();
  return () => rmSync(join(TRANSACTION, ".."), { recursive: true, force: true });
});

function run(code: string, root: string, dieAt?: number) {
  const preload = dieAt === undefined ? [] : ["--import", DIE_AT];
  const env = { ...process.env, DIE_AT: String(dieAt) };
  return spawnSync(process.execPath, [...preload, "--input-type=module", "-e", code, root], {
    encoding: "utf8",
    env,
  });
}

function state(root: string): string {
  const texts = FILES.map((file) => readFileSync(join(root, file), "utf8"));
  return [...texts, existsSync(join(root, "src/new.ts")) ? "after" : "before"].join();
}

const BEFORE = "before,before,before,before";
const AFTER = "after,after,after,after";

test("a process killed at any change of the disk leaves the files as before or as after, once the next run has begun", {
  timeout: 240_000,
}, () => {
  let reached = 0;
  for (let at = 0; ; at++) {
    const root = project(Object.fromEntries(FILES.map((file) => [file, "before"])));
    const { signal, stderr } = run(WRITE, root, at);
    if (signal === null) {
      expect(stderr).toBe("");
      expect(state(root)).toBe(AFTER);
      break;
    }
    reached = at;
    const begun = state(root);
    const recovery = JSON.parse(run(RECOVER, root).stdout) as { readonly project: string } | null;
    const now = state(root);
    expect([BEFORE, AFTER]).toContain(now);
    // The message states which; without recovery, no file or every file had been written.
    if (recovery) expect(now).toBe(recovery.project === "after" ? AFTER : BEFORE);
    else expect(now).toBe(begun);
    expect(readdirSync(root)).not.toContain(".sleeve");
  }
  // Staging, the manifest, four renames and the clean-up take several changes each.
  expect(reached).toBeGreaterThan(15);
});

test("a file that was changed after an interruption is not overwritten, and the others wait", () => {
  let root = "";
  for (let at = 0; root === "" || state(root) === BEFORE; at++) {
    root = project(Object.fromEntries(FILES.map((file) => [file, "before"])));
    run(WRITE, root, at);
  }
  const survey = sleeve(root, "survey");
  expect(survey.stderr).toContain("[INTERRUPTED]");
  const waiting = FILES.find((file) => readFileSync(join(root, file), "utf8") === "before") as string;
  writeFileSync(join(root, waiting), "mine");
  const { stderr, status } = run(RECOVER, root);
  expect(status).not.toBe(0);
  expect(stderr).toContain(`${waiting} has changed since`);
  expect(readFileSync(join(root, waiting), "utf8")).toBe("mine");
});
