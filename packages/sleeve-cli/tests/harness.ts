import { spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { onTestFinished } from "vitest";
import { type Run, runInSession } from "./session/session.ts";

export { sampled } from "../../../tests/rotation.ts";
export type { Run };

export const CLI = join(import.meta.dirname, "../dist/cli.js");

/** Runs the command in a folder. The process is not a new one, so that it need not load the command again. */
export function sleeve(cwd: string, ...args: readonly string[]): Run {
  return sleeveWith({}, cwd, ...args);
}

/** Runs the command with additional environment variables. */
export function sleeveWith(
  more: Readonly<Record<string, string>>,
  cwd: string,
  ...args: readonly string[]
): Run {
  return runInSession(cwd, args, { NO_COLOR: "1", ...more });
}

/** Runs the command in a process of its own. */
export function spawnedSleeve(
  more: Readonly<Record<string, string>>,
  cwd: string,
  ...args: readonly string[]
): Run {
  const env = { ...process.env, NO_COLOR: "1", ...more };
  const { status, stdout, stderr } = spawnSync(process.execPath, [CLI, ...args], {
    cwd,
    encoding: "utf8",
    env,
    maxBuffer: 1 << 26,
  });
  return { code: status, stdout, stderr };
}

const TSCONFIG = {
  compilerOptions: {
    strict: true,
    module: "nodenext",
    target: "es2023",
    lib: ["es2023", "esnext.disposable"],
    noEmit: true,
    types: [],
    allowImportingTsExtensions: true,
  },
  include: ["src"],
};

/** Creates a project in a temporary folder that is removed after the test. */
export function project(files: Readonly<Record<string, string>>): string {
  const root = mkdtempSync(join(tmpdir(), "sleeve-test-"));
  onTestFinished(() => rmSync(root, { recursive: true, force: true }));
  for (const [file, text] of Object.entries({ "tsconfig.json": JSON.stringify(TSCONFIG), ...files })) {
    mkdirSync(dirname(join(root, file)), { recursive: true });
    writeFileSync(join(root, file), text);
  }
  return root;
}

/** Returns the files of an installed package: a declaration and its manifest. */
export function installed(name: string, declaration: string, version = "1.0.0"): Record<string, string> {
  const folder = `node_modules/${name}`;
  return {
    [`${folder}/package.json`]: JSON.stringify({ name, version, types: "index.d.ts", main: "index.js" }),
    [`${folder}/index.d.ts`]: declaration,
    [`${folder}/index.js`]: "",
  };
}

/** Returns the names of the findings of `check --json`, by the file of the wrapper. */
export function findingsByFile(json: string): ReadonlyMap<string, readonly string[]> {
  const { wrappers } = JSON.parse(json) as {
    wrappers: readonly {
      wrapper: string;
      members: readonly { findings: readonly { name: string }[] }[];
      findings: readonly { name: string }[];
    }[];
  };
  return new Map(
    wrappers.map(({ wrapper, members, findings }) => [
      wrapper.split("#")[0] ?? "",
      [...members.flatMap((member) => member.findings), ...findings].map(({ name }) => name),
    ]),
  );
}
