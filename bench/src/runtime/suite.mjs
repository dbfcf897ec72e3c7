import { decorate, layer } from "sleeve";
import { paired } from "../paired.mjs";
import { bundled } from "./bundle.mjs";
import { creation } from "./creation.mjs";
import { memoryOfAMillion } from "./memory.mjs";
import { loadPopulation } from "./population.mjs";
import { threeLayers } from "./three-layers.mjs";

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
  ]) {
    const sleeve = await contender(size, "sleeve", (subject) => decorate(subject), times);
    row(name, "hand-written", sleeve, await contender(size, "hand-written", byHand, times));
    row(
      "forward.es-proxy",
      `an ES Proxy, ${size.classes === 1 ? "one class" : "40 classes"}`,
      sleeve,
      await contender(size, "es-proxy", byProxy, times),
    );
  }

  row("stack.three", "the same code fused by hand", ...threeLayers());

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
  rows.push({ name: "memory.million", against: "hand-written", ...memoryOfAMillion({ quick }) });
  for (const [name, exported, budget] of [
    ["bundle.decorate", "{ decorate }", 1500],
    ["bundle.all", "*", 8000],
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

/** Wraps one subject of each class, and gives back a run that has every client call every member. */
async function contender(size, name, wrap, times) {
  const population = await loadPopulation(size, name);
  const wrappers = population.subjects.map((Subject, index) => wrap(new Subject(), population, index));
  return () => {
    let total = 0;
    for (let index = 0; index < wrappers.length; index++) {
      for (const client of population.clients[index]) total += client(wrappers[index], times);
    }
    return total;
  };
}

const byHand = (subject, population, index) => new population.handWritten[index](subject);

/** As people write it: methods called on the subject, so that private fields work. */
const byProxy = (subject) =>
  new Proxy(subject, {
    get(target, key) {
      const value = target[key];
      return typeof value === "function" ? (...args) => value.apply(target, args) : value;
    },
  });

/** Five layers, all on the one property that the clients do not use. */
function fiveElsewhere() {
  return Array.from({ length: 5 }, (_, index) =>
    layer(`elsewhere${index}`, { read: (next) => (call) => next(call) }, { only: ["total"] }),
  );
}
