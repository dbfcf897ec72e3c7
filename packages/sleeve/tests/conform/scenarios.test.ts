import { type CheckOptions, type ContractTerms, checkContract, contract } from "sleeve/conform";
import { expect, test } from "vitest";

interface Clock {
  read(zone: string): { readonly hour: number };
  ring(times: number): string;
  wait(): Promise<number>;
}

/** A clock whose answers have more than the target, as those of an outside library do. */
class OldClock implements Clock {
  readonly zones: string[] = [];
  read(zone: string) {
    if (zone === "") throw new RangeError("no zone");
    return { hour: zone.length, internal: this };
  }
  ring(times: number) {
    return "ding".repeat(times);
  }
  async wait() {
    return 3;
  }
}

const SCENARIOS: NonNullable<ContractTerms<Clock>["scenarios"]> = {
  "hour in Ellery": (clock) => clock.read("Ellery").hour,
  "no zone": (clock) => clock.read("").hour,
  "rings twice": function* (clock) {
    yield clock.ring(1);
    yield clock.ring(2);
  },
  waits: async function* (clock) {
    yield await clock.wait();
  },
  "waits at once": (clock) => clock.wait(),
};

/** Returns the findings about a clock with some members replaced, as `name: place, expected, found`. */
async function findings(members: object, terms: ContractTerms<Clock> = {}, options: CheckOptions = {}) {
  const clocks = contract<Clock>("Clock", {
    surface: { read: "method", ring: "method", wait: "method" },
    reference: () => new OldClock(),
    scenarios: SCENARIOS,
    generated: [],
    ...terms,
  });
  const candidate = { ...methodsOf(new OldClock()), ...members } as unknown as Clock;
  const report = await checkContract(clocks, { candidate: () => candidate }, options);
  return report.implementations.flatMap(({ checks }) =>
    checks.flatMap((check) => [
      ...check.findings.map(
        ({ name, place, expected, found }) => `${name}: ${place}: ${expected} | ${found}`,
      ),
      ...check.notes,
    ]),
  );
}

function methodsOf(clock: OldClock): Clock {
  return {
    // Only what the target declares.
    read: (zone) => ({ hour: clock.read(zone).hour }),
    ring: (times) => clock.ring(times),
    wait: () => clock.wait(),
  };
}

test("an implementation with less than the reference, but with the results that callers use, has no finding", async () => {
  expect(await findings({})).toEqual([]);
});

test("a scenario finds another result, a missing error, a new error and a promise that is none", async () => {
  const wrong = {
    read: (zone: string) => ({ hour: zone.length + (zone === "" ? 0 : 1) }),
    ring: (times: number) => (times === 2 ? "ding" : "ding".repeat(times)),
    wait: () => 3,
  };
  expect(await findings(wrong)).toEqual(
    [
      "result: hour in Ellery: 6, as with the reference | 7",
      "result: no zone: the error RangeError: no zone, as with the reference | 0",
      'result: rings twice: "dingding" as result 2, as with the reference | "ding" as result 2',
      "async: waits at once: a promise, as with the reference | a synchronous result",
    ].map((line) => line.replace("result: no zone", "error: no zone")),
  );
  expect(
    await findings({
      ring: () => {
        throw new Error("broken bell");
      },
    }),
  ).toEqual(["error: rings twice: 2 results, as with the reference | the error Error: broken bell"]);
});

test("an error of another class is an error too, because callers cannot see the classes of the outside", async () => {
  const read = (zone: string) => {
    if (zone === "") throw new TypeError("zone?");
    return { hour: zone.length };
  };
  expect(await findings({ read })).toEqual([]);
});

test("a scenario that does not end is reported", async () => {
  const never = { wait: () => new Promise(() => {}) };
  expect(await findings(never, {}, { timeout: 10 })).toEqual([
    "unsettled: waits: 3, as with the reference | no end within the timeout",
    "unsettled: waits at once: 3, as with the reference | no end within the timeout",
  ]);
});

test("results that differ with the reference itself are not compared, and a note says so", async () => {
  let time = 0;
  const reference = () => ({ ...methodsOf(new OldClock()), ring: () => String(time++) });
  expect(await findings({}, { reference })).toEqual([
    "rings twice: not compared, because the reference answers differently each time.",
  ]);
});

test("recorded results need no reference, and a scenario with neither is no scenario", async () => {
  const recorded = {
    scenarios: {
      hour: { use: (clock: Clock) => clock.read("Ellery").hour, results: [6] },
      "no zone": { use: (clock: Clock) => clock.read(""), results: [], fails: true },
    },
    reference: undefined as never,
  };
  expect(await findings({}, recorded)).toEqual([]);
  expect(await findings({ read: () => ({ hour: 7 }) }, recorded)).toEqual([
    "result: hour: 6, as recorded | 7",
    'error: no zone: an error, as recorded | {"hour":7}',
  ]);
  await expect(findings({}, { reference: undefined as never })).rejects.toThrow(
    'The scenario "hour in Ellery" has nothing to compare with. Add a `reference` to the contract, or `results` to the scenario.',
  );
});

test("generated calls use only the members that the contract names", async () => {
  const calls: string[] = [];
  const noting = {
    read: () => calls.push("read"),
    ring: (times: number) => {
      calls.push("ring");
      return "ding".repeat(times);
    },
    wait: () => calls.push("wait"),
  };
  const terms = { scenarios: {}, reference: undefined as never };
  expect(await findings(noting, terms)).toEqual([]);
  expect(calls).toEqual([]);
  await findings(noting, { ...terms, generated: ["ring"], arguments: { ring: [] } });
  expect(new Set(calls)).toEqual(new Set(["ring"]));
  await expect(findings(noting, { ...terms, generated: ["toll" as "ring"] })).rejects.toThrow(
    "`generated` names toll, which is no member. Name some of read, ring, wait.",
  );
});
