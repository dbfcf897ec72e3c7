import fc from "fast-check";
import { checkContract, contract } from "sleeve/conform";
import { expect, test } from "vitest";

interface Gauge {
  level(hour: number): number;
}

const gauge = contract<Gauge>("Gauge", {
  reference: () => ({ level: (hour) => hour * 2 }),
  arguments: { level: [fc.nat(24)] },
});

/** Blocks the process without using the processor, as a busy or suspended machine does. */
function stall(milliseconds: number): void {
  Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, milliseconds);
}

async function findingsOf(level: (hour: number) => number): Promise<readonly string[]> {
  const given = () => ({ level });
  const { implementations } = await checkContract(gauge, { given }, { runs: 5, length: 4, timeout: 60 });
  return implementations.flatMap(({ checks }) =>
    checks.flatMap(({ findings }) => findings.map(({ name, place }) => `${name} ${place}`)),
  );
}

test("a call during which the machine stalls is not blamed for it", async () => {
  for (const stalledCall of [1, 2, 9]) {
    let calls = 0;
    const level = (hour: number) => {
      calls += 1;
      if (calls === stalledCall) stall(200);
      return hour * 2;
    };
    expect([stalledCall, await findingsOf(level)]).toEqual([stalledCall, []]);
    expect(calls).toBeGreaterThan(stalledCall);
  }
});

test("a call that stalls each time is reported", async () => {
  const level = (hour: number) => {
    stall(200);
    return hour * 2;
  };
  expect(await findingsOf(level)).toContain("unsettled level");
});
