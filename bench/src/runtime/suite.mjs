import { decorate, layer } from "sleeve";
import { paired } from "../paired.mjs";
import { bundleRows } from "./bundle.mjs";
import { contender } from "./contender.mjs";
import { creation } from "./creation.mjs";
import { memoryOfAMillion } from "./memory.mjs";
import { rowsInProcesses } from "./row.mjs";
import { start } from "./start.mjs";

export { rowsInChromium as runInChromium } from "./chromium/rows-in-chromium.mjs";

/** @returns {Promise<{ name: string, against: string, ratio: number, low: number, high: number }[]>} */
export async function run({ quick }) {
  const turns = quick ? { pairs: 15, warmups: 8 } : { pairs: 41, warmups: 12 };
  const rows = [];
  const row = (name, against, measured, baseline) => {
    rows.push({ name, against, ...paired(measured, baseline, turns) });
  };

  rows.push(...(await rowsInProcesses({ quick })));

  const size = { classes: 1, members: 12 };
  const bare = await contender(size, "bare", (subject) => decorate(subject), 100_000);
  const offPath = await contender(
    size,
    "off the path",
    (subject) => decorate(subject, ...fiveElsewhere()),
    100_000,
  );
  row("stack.offpath", "a bare forwarded call", offPath, bare);
  row("create", "new HandWritten(subject)", ...creation());
  rows.push({
    name: "memory.million",
    against: "hand-written, identity kept in a WeakMap",
    ...memoryOfAMillion({ quick }),
  });
  rows.push({ name: "start", against: "an empty module", ...start({ quick }) });
  rows.push(...(await bundleRows()));
  return rows;
}

/** Five layers, all on a property that the clients do not use. */
function fiveElsewhere() {
  return Array.from({ length: 5 }, (_, index) =>
    layer(`elsewhere${index}`, { read: (next) => (call) => next(call) }, { only: ["total"] }),
  );
}
