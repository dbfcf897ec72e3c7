import { decorate, layer } from "sleeve";
import { paired } from "../paired.mjs";
import { bundled } from "./bundle.mjs";
import { byProxy, contender, wrapByHand } from "./contender.mjs";
import { creation } from "./creation.mjs";
import { memoryOfAMillion } from "./memory.mjs";
import { rowsInProcesses } from "./row.mjs";
import { rowsInARow } from "./rows.mjs";
import { start } from "./start.mjs";

/** @returns {Promise<{ name: string, against: string, ratio: number, low: number, high: number }[]>} */
export async function run({ quick }) {
  const turns = quick ? { pairs: 15, warmups: 8 } : { pairs: 41, warmups: 12 };
  const rows = [];
  const row = (name, against, measured, baseline) => {
    rows.push({ name, against, ...paired(measured, baseline, turns) });
  };

  for (const [name, size, times] of [
    ["forward.runtime.single", { classes: 1, members: 12 }, 100_000],
    ["forward.runtime.population", { classes: 40, members: 12 }, 4_000],
    ["forward.runtime.crowd", { classes: 150, members: 12 }, 1_000],
  ]) {
    const sleeve = await contender(size, "sleeve", (subject) => decorate(subject), times);
    row(name, "hand-written", sleeve, await contender(size, "hand-written", wrapByHand, times));
    if (size.classes > 40) continue;
    row(
      "forward.es-proxy",
      `an ES Proxy, ${size.classes === 1 ? "one class" : "40 classes"}`,
      sleeve,
      await contender(size, "es-proxy", byProxy, times),
    );
  }

  rows.push(...rowsInARow({ quick }));

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
  for (const [name, exported, budget] of [
    ["bundle.decorate", "{ decorate }", 5000],
    ["bundle.adapter", "{ adapter }", 3000],
    ["bundle.all", "*", 16_000],
  ]) {
    const { compressed } = await bundled(exported);
    const ratio = compressed / budget;
    rows.push({
      name,
      against: `${budget} bytes, brotli`,
      ratio,
      low: ratio,
      high: ratio,
      value: compressed,
    });
  }
  return rows;
}

/** Five layers, all on a property that the clients do not use. */
function fiveElsewhere() {
  return Array.from({ length: 5 }, (_, index) =>
    layer(`elsewhere${index}`, { read: (next) => (call) => next(call) }, { only: ["total"] }),
  );
}
