import { execFileSync } from "node:child_process";
import { decorate } from "sleeve";
import { paired } from "../paired.mjs";
import { contender, wrapByHand } from "./contender.mjs";

const ROWS = {
  "forward.runtime.row": [{ classes: 1, members: 12 }, 50_000],
  "forward.runtime.row.population": [{ classes: 40, members: 12 }, 2_000],
};

/** Twelve wrapped calls in a row. Each row has a process of its own, as programs do, so that none uses up call sites for another. */
export function rowsInARow({ quick }) {
  return Object.keys(ROWS).map((name) => {
    const options = [import.meta.filename, name, ...(quick ? ["--quick"] : [])];
    const result = JSON.parse(execFileSync(process.execPath, options, { encoding: "utf8" }));
    return { name, against: "hand-written", ...result };
  });
}

async function measure(name, isQuick) {
  const [size, times] = ROWS[name];
  const sleeve = await contender(size, "sleeve", (subject) => decorate(subject), times, "rows");
  const handWritten = await contender(size, "hand-written", wrapByHand, times, "rows");
  const turns = isQuick ? { pairs: 15, warmups: 8 } : { pairs: 41, warmups: 12 };
  console.log(JSON.stringify(paired(sleeve, handWritten, turns)));
}

if (process.argv[1] === import.meta.filename) await measure(process.argv[2], process.argv[3] === "--quick");
