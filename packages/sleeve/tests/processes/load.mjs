// Run by load.test.ts in a process of its own: it counts the objects left on the heap and the unhandled rejections.
import { access, decorate, guard, limited, logging, retrying, tally, timing } from "sleeve";

const unhandled = [];
process.on("unhandledRejection", (error) => unhandled.push(String(error)));
const warnings = [];
process.on("warning", ({ message }) => warnings.push(message));

const silent = { info() {}, error() {} };
const results = {
  inFlight,
  checked: (count) => inFlight(count, [access(({ member }) => member === "berth")]),
  heap,
  failing,
};
process.stdout.write(JSON.stringify(await results[process.argv[2]](Number(process.argv[3]))));

/** Makes concurrent calls through five layers and more, of which 1 % fail; all start before the first ends. */
async function inFlight(count, more = []) {
  let open;
  const gate = new Promise((resolve) => {
    open = resolve;
  });
  const times = tally();
  const subject = {
    async berth(number) {
      await gate;
      if (number % 100 === 0) throw new RangeError(String(number));
      return number * 2;
    },
  };
  const desk = decorate(
    subject,
    logging({ logger: silent }),
    timing({ onSample: times.record }),
    guard({ berth: { number: Number.isInteger } }),
    retrying({ only: ["berth"], when: () => false }),
    limited({ only: ["berth"], concurrency: count }),
    ...more,
  );
  const calls = Array.from({ length: count }, (_, number) => desk.berth(number));
  open();
  const answers = await Promise.allSettled(calls);
  const mixed = answers.filter(({ status, value, reason }, number) =>
    number % 100 === 0 ? status !== "rejected" || reason.message !== String(number) : value !== number * 2,
  );
  await new Promise((resolve) => setImmediate(resolve));
  const { calls: timed, failures } = times.members().get("berth");
  return { answered: answers.length, mixed: mixed.length, unhandled: unhandled.length, timed, failures };
}

/** Returns the growth of the heap over a number of calls, after as many to warm up. */
async function heap(count) {
  const times = tally();
  const winch = decorate(
    new (class Winch {
      hauled = 0;
      haul(metres) {
        this.hauled += metres;
        return this.hauled;
      }
    })(),
    logging({ logger: { ...silent, isLevelEnabled: () => false } }),
    timing({ onSample: times.record }),
    guard({ haul: { metres: Number.isInteger } }),
  );
  const run = () => {
    for (let time = 0; time < count / 2; time++) winch.haul(1);
    globalThis.gc();
    return process.memoryUsage().heapUsed;
  };
  const before = run();
  const grown = run() - before;
  return { grown, calls: times.members().get("haul").calls };
}

/** Layers that throw in each call, in every way. */
async function failing(count) {
  const fail = () => {
    throw new Error("a broken layer");
  };
  const clock = { now: fail };
  const bell = decorate(
    { ring: (times) => times, later: async (times) => times },
    logging({ logger: { info: fail, error: fail } }),
    timing({ onSample: fail }),
    timing({ onSample() {}, clock }),
    access(() => true),
  );
  let right = 0;
  for (let time = 0; time < count; time++) {
    if (bell.ring(time) === time) right += 1;
    if ((await bell.later(time)) === time) right += 1;
  }
  await new Promise((resolve) => setImmediate(resolve));
  return { right, warnings, unhandled: unhandled.length };
}
