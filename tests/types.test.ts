import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { expect, test } from "vitest";

const root = join(import.meta.dirname, "..");

test.each(["tests", "examples/harbour/page"])(
  "%s is free of type errors, and each line that has to be one is",
  (project) => {
    const tsc = join(root, "node_modules/typescript/bin/tsc");
    const { stdout, status } = spawnSync(process.execPath, [tsc, "-p", project, "--pretty", "false"], {
      cwd: root,
      encoding: "utf8",
    });
    expect(stdout).toBe("");
    expect(status).toBe(0);
  },
);
