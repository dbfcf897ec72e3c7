import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";

const harbour = join(import.meta.dirname, "..");

/** Copies the old office, to draft and move in; next to it, so that its packages resolve. */
export function copyOfBefore() {
  const copy = join(harbour, "moved");
  rmSync(copy, { recursive: true, force: true });
  mkdirSync(copy);
  cpSync(join(harbour, "before/src"), join(copy, "src"), { recursive: true });
  const config = JSON.parse(readFileSync(join(harbour, "before/tsconfig.json"), "utf8"));
  config.compilerOptions = {
    ...config.compilerOptions,
    composite: false,
    noEmit: true,
    resolveJsonModule: true,
    tsBuildInfoFile: undefined,
  };
  config.include = ["src", "src/**/*.json"];
  writeFileSync(join(copy, "tsconfig.json"), JSON.stringify(config, null, 2));
  return copy;
}
