import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { summary } from "../paired.mjs";

/** Compares processes that import the library with ones that import an empty module, interleaved. */
export function start({ quick }) {
  const run = (name) => {
    const file = join(import.meta.dirname, `start-${name}.mjs`);
    const begin = process.hrtime.bigint();
    const { status } = spawnSync(process.execPath, [file]);
    if (status !== 0) throw new Error(`${file} ended with ${status}`);
    return Number(process.hrtime.bigint() - begin);
  };
  run("library");
  run("empty");
  const pairs = Array.from({ length: quick ? 10 : 40 }, (_, index) => {
    const isFirst = index % 2 === 0;
    const early = run(isFirst ? "library" : "empty");
    const late = run(isFirst ? "empty" : "library");
    return isFirst ? early / late : late / early;
  });
  return summary(pairs);
}
