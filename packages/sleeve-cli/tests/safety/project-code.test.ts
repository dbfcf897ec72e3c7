import { spawn } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { setTimeout as delay } from "node:timers/promises";
import { build } from "vite";
import { expect, test } from "vitest";
import { generatedFiles } from "../../dist/vite.js";
import { CLI, installed, project, sleeve } from "../harness.ts";

const RIGHT = "export default { borders: { crane: [] } };";
const SOURCE = { ...installed("crane", "export {};\n"), "src/a.ts": 'import "crane";\n' };

/** Starts a process that outlives its parent, and writes its identifier to a file. */
const start = (options: string) =>
  `import { spawn } from "node:child_process";\nimport { writeFileSync } from "node:fs";\nconst child = spawn(process.execPath, ["-e", "setInterval(() => {}, 1000)"], ${options});\nchild.unref();\nwriteFileSync("pid", String(child.pid));\n`;

test.each([
  ["a message that is null", "process.send?.(null);"],
  ["a message that is garbage", 'process.send?.({ text: "garbage" });'],
  ["text on the channel of the result", 'import { writeSync } from "node:fs";\nwriteSync(3, "garbage");'],
  [
    "lines on the channel of the result",
    'import { writeSync } from "node:fs";\nwriteSync(3, "\\n{}\\n[1]\\n");',
  ],
  [
    "a closed channel that is written again",
    'import { writeSync } from "node:fs";\nwriteSync(3, "{\\"value\\":{}}\\n");',
  ],
])("what a config writes besides its value does not count: %s", (_, code) => {
  const root = project({ ...SOURCE, "sleeve.config.ts": `${code}\n${RIGHT}\n` });
  const { code: status, stdout, stderr } = sleeve(root, "check");
  expect([status, stderr]).toEqual([1, ""]);
  expect(stdout).toContain("border  crane");
});

test.each([
  ["a message where there is no channel", "process.send(null);", "process.send is not a function"],
  [
    "the channel alone",
    'import { writeSync } from "node:fs";\nwriteSync(3, "{}");\nprocess.exit(0);',
    "it ends the process",
  ],
  ["a closed channel", 'import { closeSync } from "node:fs";\ncloseSync(3);', "it ends the process"],
])("a config without a value is one sentence with exit code 2: %s", (_, code, reason) => {
  const root = project({ ...SOURCE, "sleeve.config.ts": `${code}\n${RIGHT}\n` });
  expect(sleeve(root, "check")).toEqual({
    code: 2,
    stdout: "",
    stderr: `sleeve: sleeve.config.ts cannot be loaded: ${reason}. Correct it and run again. [BROKEN_CONFIG]\n`,
  });
});

test.each([
  ["in its group", "{ stdio: 'ignore' }"],
  ["detached", "{ detached: true, stdio: 'ignore' }"],
  ["detached, with another environment", "{ detached: true, stdio: 'ignore', env: {} }"],
])("a process that a config starts ends with the command: %s", (_, options) => {
  const root = project({ ...SOURCE, "sleeve.config.ts": `${start(options)}${RIGHT}\n` });
  expect(sleeve(root, "check").code).toBe(1);
  expect(isRunning(Number(readFileSync(join(root, "pid"), "utf8")))).toBe(false);
});

test("a config, and what it starts, end when the command is killed", async () => {
  const waiting = "setInterval(() => {}, 1000);\nawait new Promise(() => {});\n";
  const root = project({
    ...SOURCE,
    "sleeve.config.ts": `${start("{ detached: true, stdio: 'ignore' }")}writeFileSync("own", String(process.pid));\n${waiting}${RIGHT}\n`,
  });
  const command = spawn(process.execPath, [CLI, "check"], { cwd: root, stdio: "ignore" });
  const pids = () => ["pid", "own"].map((file) => Number(readIfThere(join(root, file)) ?? "0"));
  while (pids().some((pid) => pid === 0)) await delay(20);
  command.kill("SIGKILL");
  while (pids().some(isRunning)) await delay(20);
  expect(pids().map(isRunning)).toEqual([false, false]);
});

test("a compiler of components that writes to the channel is not believed", () => {
  const compiler =
    'require("node:fs").writeSync(3, "garbage\\n[]\\n");\nexports.parse = (text) => ({ descriptor: { scriptSetup: { loc: { start: { offset: text.indexOf(">") + 1 }, end: { offset: text.indexOf("</") } } } }, errors: [] });\n';
  const root = project({
    ...SOURCE,
    "package.json": '{ "name": "office", "dependencies": { "crane": "1" } }',
    "node_modules/@vue/compiler-sfc/package.json":
      '{ "name": "@vue/compiler-sfc", "version": "3.0.0", "main": "index.js" }',
    "node_modules/@vue/compiler-sfc/index.js": compiler,
    "src/Office.vue": '<script setup>\nimport "crane";\n</script>\n',
  });
  const { code, stdout, stderr } = sleeve(root, "survey", "--imports");
  expect([code, stderr]).toEqual([0, ""]);
  expect(stdout).toMatch(/^crane .* 2 /m);
});

test.each([
  ["survey", "--imports"],
  ["surface", "src/a.ts#a"],
  ["check"],
  ["draft", "crane"],
  ["move", "crane"],
  ["drift"],
  ["wrap", "--check"],
])("one option refuses code of the project before and after the command: %s %s", (...command) => {
  const args = command.filter((word) => word !== undefined);
  const root = project({
    ...SOURCE,
    "src/a.ts": 'import "crane";\nexport const a = { b: 1 };\n',
    "sleeve.config.ts": `import { writeFileSync } from "node:fs";\nwriteFileSync("ran", "");\n${RIGHT}\n`,
    "node_modules/@vue/compiler-sfc/package.json":
      '{ "name": "@vue/compiler-sfc", "version": "3.0.0", "main": "index.js" }',
    "node_modules/@vue/compiler-sfc/index.js": 'require("node:fs").writeFileSync("ran", "");\n',
    "src/Office.vue": "<script setup>\n</script>\n",
  });
  for (const words of [
    ["--no-config-code", ...args],
    [...args, "--no-config-code"],
  ]) {
    sleeve(root, ...words);
    expect(readIfThere(join(root, "ran"))).toBeUndefined();
  }
});

test("notes do not fail a build with Vite, and problems do", async () => {
  const tsconfig = (include: string) =>
    `{ "compilerOptions": { "strict": true, "target": "es2023", "module": "esnext", "moduleResolution": "node", "baseUrl": ".", "types": [] }, "include": ["${include}"] }`;
  const root = project({
    "tsconfig.json": tsconfig("src"),
    "package.json": '{ "name": "office", "type": "module" }',
    "src/main.ts": "export const a = 1;\n",
    "index.html": '<script type="module" src="/src/main.ts"></script>',
  });
  const { notes, problems } = JSON.parse(sleeve(root, "wrap", "--check", "--json").stdout) as Record<
    string,
    readonly { code: string }[]
  >;
  expect([notes?.map(({ code }) => code), problems]).toEqual([["OLD_SETTINGS"], []]);
  const built = () =>
    build({ root, logLevel: "silent", plugins: [generatedFiles()], build: { write: false } });
  await built();
  writeFileSync(join(root, "tsconfig.json"), tsconfig("nothing"));
  await expect(built()).rejects.toThrow(/tsconfig\.json includes no files\. .*\[BROKEN_TSCONFIG\]/);
});

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    // A process that has ended, and whose parent has not noticed, is none.
    return !/^State:\s+Z/m.test(readIfThere(`/proc/${pid}/status`) ?? "");
  } catch {
    return false;
  }
}

function readIfThere(path: string): string | undefined {
  try {
    return readFileSync(path, "utf8");
  } catch {
    return undefined;
  }
}
