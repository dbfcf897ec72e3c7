import { execFileSync } from "node:child_process";
import { summary } from "../paired.mjs";
import { Berth, HandWritten } from "./berth.mjs";

/**
 * Measures the heap of a million wrappers against hand-written ones that keep the same identity with a `WeakMap`, each in a
 * process of its own.
 */
export function memoryOfAMillion({ quick }) {
  const without = heapOf("none");
  const pairs = Array.from({ length: quick ? 1 : 3 }, () => [
    heapOf("sleeve") - without,
    heapOf("hand-written") - without,
  ]);
  const [bytes] = pairs[0];
  return {
    ...summary(pairs.map(([measured, baseline]) => measured / baseline)),
    value: Math.round(bytes / COUNT),
  };
}

const COUNT = 1_000_000;

function heapOf(contender) {
  const options = ["--expose-gc", "--max-old-space-size=8000", import.meta.filename, contender];
  return Number(execFileSync(process.execPath, options, { encoding: "utf8" }));
}

/** Run in a process of its own: prints the bytes of a heap with a million objects and their wrappers. */
async function measure(contender) {
  const { decorate } = await import("sleeve");
  const known = new WeakMap();
  const handWritten = (berth) => {
    let wrapper = known.get(berth);
    if (!wrapper) {
      wrapper = new HandWritten(berth);
      known.set(berth, wrapper);
    }
    return wrapper;
  };
  const wrap = {
    sleeve: (berth) => decorate(berth),
    "hand-written": handWritten,
    none: (berth) => berth,
  }[contender];
  const berths = Array.from({ length: COUNT }, (_, depth) => new Berth(depth));
  const wrappers = berths.map(wrap);
  for (let turn = 0; turn < 3; turn++) {
    await new Promise((resolve) => setTimeout(resolve, 10));
    globalThis.gc();
  }
  const { heapUsed } = process.memoryUsage();
  if (!wrappers.every((wrapper) => wrapper.deepEnoughFor(0))) throw new Error("a wrapper does not work");
  console.log(heapUsed);
}

if (process.argv[1] === import.meta.filename) await measure(process.argv[2]);
