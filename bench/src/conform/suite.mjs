import fc from "fast-check";
import { checksOf, contract } from "sleeve/conform";
import { pairedInTime } from "../paired.mjs";

/** An in-memory subject with ten members. */
class Ledger {
  #berths = new Map();
  #booked = 0;
  get size() {
    return this.#berths.size;
  }
  book(vessel, berth) {
    this.#berths.set(berth, vessel);
    this.#booked += 1;
    return this.#booked;
  }
  free(berth) {
    return this.#berths.delete(berth);
  }
  vesselAt(berth) {
    return this.#berths.get(berth);
  }
  isFree(berth) {
    return !this.#berths.has(berth);
  }
  depthAt(berth, tide) {
    return 4 + (berth % 3) + tide;
  }
  length(vessel) {
    return vessel.length;
  }
  berths() {
    return [...this.#berths.keys()];
  }
  move(from, to) {
    const vessel = this.#berths.get(from);
    this.#berths.delete(from);
    if (vessel !== undefined) this.#berths.set(to, vessel);
  }
  clear() {
    this.#berths.clear();
  }
}

const berth = fc.nat(24);
const vessel = fc.constantFrom("Marigold", "Tern", "Osprey", "Wren");
const args = {
  book: [vessel, berth],
  free: [berth],
  vesselAt: [berth],
  isFree: [berth],
  depthAt: [berth, fc.nat(5)],
  length: [vessel],
  berths: [],
  move: [berth, berth],
  clear: [],
};

const SEQUENCES = 1000;
const CALLS = 20;

/** @returns {Promise<{ name: string, against: string, ratio: number, low: number, high: number }[]>} */
export async function run({ quick }) {
  const turns = quick ? { pairs: 5, warmups: 1 } : { pairs: 21, warmups: 3 };
  return [
    {
      name: "contract.run",
      against: "the same generator and the bare calls, by hand",
      ...(await pairedInTime(contractRun, handWritten, turns)),
    },
  ];
}

async function contractRun() {
  const ledger = contract("Ledger", { arguments: args });
  const options = { runs: SEQUENCES, length: CALLS };
  const check = checksOf(ledger, () => new Ledger(), options).find(({ name }) =>
    name.startsWith("ends every call"),
  );
  const { findings } = await check.run();
  if (findings.length > 0) throw new Error(findings[0].found);
}

/** The hand-written equivalent: sequences of calls from the same package, each on a new subject. */
async function handWritten() {
  const calls = Object.entries(args).map(([member, list]) =>
    fc.tuple(...list).map((given) => (subject) => subject[member](...given)),
  );
  const reads = fc.constant((subject) => subject.size);
  const sequences = fc.array(fc.oneof(...calls, reads), { minLength: 1, maxLength: CALLS, size: "max" });
  const property = fc.asyncProperty(sequences, async (steps) => {
    const subject = new Ledger();
    for (const step of steps) step(subject);
  });
  await fc.assert(property, { numRuns: SEQUENCES, seed: 1 });
}
