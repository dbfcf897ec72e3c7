import { spawnSync } from "node:child_process";
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { rolldown } from "rolldown";
import { beforeAll, expect, test } from "vitest";
import { isInShare, RUNS_ALL, SHARE } from "../../../../tests/rotation.ts";
import { CLI, installed, project, sleeve } from "../harness.ts";

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

function run(code: string, root: string, dieAt?: number, more: Readonly<Record<string, string>> = {}) {
  const preload = dieAt === undefined ? [] : ["--import", DIE_AT];
  const env = { ...process.env, DIE_AT: String(dieAt), ...more };
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
    if (!isInShare(at, 10)) continue;
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
  expect(reached).toBeGreaterThan(12);
});

test("a file that was changed after an interruption is not overwritten, and the others wait", () => {
  let root = "";
  // Before these changes of the disk, files are staged only.
  for (let at = 12; root === "" || state(root) === BEFORE; at++) {
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

test("on a disk that gets full at any moment, nothing or everything is written, and the message says so", {
  timeout: 240_000,
}, () => {
  let refused = 0;
  for (let at = SHARE % 4; ; at += 4) {
    const root = project(Object.fromEntries(FILES.map((file) => [file, "before"])));
    const { stderr, status } = run(WRITE, root, at, { FULL_DISK: "1" });
    if (status === 0) break;
    if (stderr.includes("is full, so nothing was written")) {
      refused += 1;
      expect(state(root)).toBe(BEFORE);
    }
    expect(run(RECOVER, root).stderr).toBe("");
    expect([BEFORE, AFTER]).toContain(state(root));
  }
  expect(refused).toBeGreaterThan(2);
});

/** Number of moments at which `move` is killed. */
const MOMENTS = RUNS_ALL ? 200 : 5;

test("a move of 100 files that is killed at any change of the disk leaves all of them as before or as after", {
  timeout: 900_000,
}, () => {
  const numbers = Array.from({ length: 100 }, (_, index) => index);
  const clients = numbers.map((index) => [
    `src/client${index}.ts`,
    `import { lift } from "crane";\nexport const total${index}: number = lift(${index});\n`,
  ]);
  const origin = project({
    ...installed("crane", "export declare function lift(tons: number): number;"),
    ...Object.fromEntries(clients),
  });
  expect(sleeve(origin, "draft", "crane", "--write").code).toBe(0);
  const textsIn = (root: string) =>
    numbers.map((index) => readFileSync(join(root, `src/client${index}.ts`), "utf8")).join("");
  const before = textsIn(origin);
  const moved = (dieAt: number) => {
    const root = mkdtempSync(join(tmpdir(), "sleeve-move-"));
    cpSync(origin, root, { recursive: true });
    const { signal, stderr } = spawnSync(
      process.execPath,
      ["--import", DIE_AT, CLI, "move", "crane", "--write", "--uncommitted"],
      { cwd: root, encoding: "utf8", env: { ...process.env, DIE_AT: String(dieAt), COUNT_CHANGES: "1" } },
    );
    return { root, signal, stderr };
  };
  const whole = moved(1e9);
  const after = textsIn(whole.root);
  const changes = Number(/changes (\d+)/.exec(whole.stderr)?.[1]);
  expect(changes).toBeGreaterThan(500);
  expect(after).not.toBe(before);
  // One in each part of the run, and others in each share.
  const moments = Array.from({ length: MOMENTS }, (_, index) =>
    Math.max(1, Math.floor(((index + (SHARE + 0.5) / 10) / MOMENTS) * changes)),
  );
  const seen = new Set<string>();
  for (const moment of moments) {
    const { root, signal } = moved(moment);
    expect(signal).toBe("SIGKILL");
    if (![before, after].includes(textsIn(root))) seen.add("between two files");
    expect(run(RECOVER, root).stderr).toBe("");
    const now = textsIn(root);
    expect([before, after].indexOf(now)).toBeGreaterThanOrEqual(0);
    seen.add(now === before ? "before" : "after");
    expect(readdirSync(root)).not.toContain(".sleeve");
    rmSync(root, { recursive: true });
  }
  rmSync(whole.root, { recursive: true });
  expect([...seen].sort()).toEqual(["after", "before", "between two files"]);
});
