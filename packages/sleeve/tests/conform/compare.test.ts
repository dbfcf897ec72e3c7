import fc from "fast-check";
import { compare, comparisonText, contract, within } from "sleeve/conform";
import { describe, expect, test } from "vitest";
import { z } from "zod";

class Tank {
  #litres = 0;
  #open = false;
  get litres(): number {
    return this.#litres;
  }
  open(): void {
    this.#open = true;
  }
  fill(litres: number): number {
    if (!this.#open) throw new Error("it is closed");
    this.#litres += litres;
    return this.#litres;
  }
  async drain(): Promise<number> {
    const litres = this.#litres;
    this.#litres = 0;
    return litres;
  }
  empty(): void {
    this.#litres = 0;
    this.#open = false;
  }
}

const tank = contract<Tank>("Tank", { arguments: { fill: [fc.integer({ min: 0, max: 100 })] } });
const reference = () => new Tank();

/** Wrong tanks, each with the smallest number of calls that shows the fault. */
const wrongTanks: readonly (readonly [string, number, (inner: Tank) => Partial<Tank>])[] = [
  [
    "is open from the start",
    1,
    (inner) => ({ fill: (litres: number) => (inner.open(), inner.fill(litres)) }),
  ],
  ["fills one too many", 2, (inner) => ({ fill: (litres: number) => inner.fill(litres + 1) })],
  [
    "does not count what is above ninety",
    2,
    (inner) => ({ fill: (litres: number) => inner.fill(Math.min(litres, 90)) }),
  ],
  [
    "answers what was filled in, not what is there",
    3,
    (inner) => ({ fill: (litres: number) => (inner.fill(litres), litres) }),
  ],
  ["does not drain", 4, (inner) => ({ drain: async () => inner.litres })],
  ["does not empty", 3, () => ({ empty: () => {} })],
  ["stays open when it is emptied", 2, (inner) => ({ empty: () => (inner.empty(), inner.open()) })],
  [
    "leaks at the third fill",
    4,
    (inner) => {
      let fills = 0;
      return { fill: (litres: number) => inner.fill((fills += 1) === 3 ? litres + 1 : litres) };
    },
  ],
  [
    "drains but once",
    5,
    (inner) => {
      let drains = 0;
      return { drain: async () => ((drains += 1) === 1 ? inner.drain() : inner.litres) };
    },
  ],
];

function wrongTank(change: (inner: Tank) => Partial<Tank>): Tank {
  const inner = new Tank();
  const members = {
    get litres() {
      return inner.litres;
    },
    open: () => inner.open(),
    fill: (litres: number) => inner.fill(litres),
    drain: () => inner.drain(),
    empty: () => inner.empty(),
  };
  return Object.defineProperties(members, Object.getOwnPropertyDescriptors(change(inner))) as Tank;
}

describe("a comparison", () => {
  test("finds every difference, with sequences close to the shortest", async () => {
    const longer: number[] = [];
    for (const [, least, change] of wrongTanks) {
      const { agrees, calls } = await compare(tank, { reference, candidate: () => wrongTank(change) });
      expect(agrees).toBe(false);
      longer.push(calls - least);
    }
    const sorted = longer.toSorted((one, other) => one - other);
    expect(sorted[0]).toBeGreaterThanOrEqual(0);
    expect(sorted[Math.floor(sorted.length / 2)]).toBeLessThanOrEqual(2);
    expect(sorted.at(-1)).toBeLessThanOrEqual(2);
  });

  test("finds none between equal implementations, also when calls overlap", async () => {
    expect(await compare(tank, { reference, candidate: () => wrongTank(() => ({})) })).toMatchObject({
      agrees: true,
      finding: undefined,
      notes: [],
    });
  });

  test("prints code that fails on the candidate and holds on the reference", async () => {
    const change = wrongTanks[4]?.[2] ?? (() => ({}));
    const { finding } = await compare(tank, { reference, candidate: () => wrongTank(change) });
    const run = new Function("subject", "expect", `return (async () => {${finding?.code}})()`) as (
      subject: Tank,
      expected: typeof expect,
    ) => Promise<void>;
    await expect(run(new Tank(), expect)).resolves.toBeUndefined();
    await expect(run(wrongTank(change), expect)).rejects.toThrow();
  });

  test("is reproducible by its seed and path", async () => {
    const change = wrongTanks[7]?.[2] ?? (() => ({}));
    const pair = { reference, candidate: () => wrongTank(change) };
    const first = await compare(tank, pair, { seed: 7 });
    expect(await compare(tank, pair, { seed: 7 })).toEqual(first);
    const again = await compare(tank, pair, {
      seed: 7,
      ...(first.path !== undefined && { path: first.path }),
    });
    expect(again.finding?.code).toBe(first.finding?.code);
    expect(comparisonText(first)).toContain(`Reproduce with seed 7 and path "${first.path}"`);
  });

  test("allows a tolerance for numbers, and compares errors by class only", async () => {
    const depths = contract<{ at(berth: number): number }>("Depths", { arguments: { at: [fc.nat(9)] } });
    const metres = {
      reference: () => ({ at: (berth: number) => berth / 3 }),
      candidate: () => ({ at: (berth: number) => Math.round(berth * 33.34) / 100 }),
    };
    expect((await compare(depths, metres)).agrees).toBe(false);
    expect((await compare(depths, metres, { equal: within(0.02) })).agrees).toBe(true);
    const failing = (message: string) => () => ({
      at: (): number => {
        throw new RangeError(message);
      },
    });
    const errors = { reference: failing("no berth"), candidate: failing("there is none") };
    expect((await compare(depths, errors)).finding?.name).toBe("error");
    expect((await compare(depths, errors, { errors: "class" })).agrees).toBe(true);
  });

  test("distinguishes the same object returned twice from two equal objects", async () => {
    const shared = { metres: 4 };
    const marks = contract<{ mark(): object }>("Marks");
    const pair = {
      reference: () => ({ mark: () => shared }),
      candidate: () => ({ mark: () => ({ metres: 4 }) }),
    };
    expect((await compare(marks, pair)).agrees).toBe(true);
    expect((await compare(marks, pair, { equal: "identity" })).finding).toMatchObject({
      found: expect.stringContaining("another object"),
    });
  });

  test("finds differences that occur only when calls overlap", async () => {
    class Counter {
      count = 0;
      async add(): Promise<number> {
        this.count += 1;
        return this.count;
      }
    }
    class Racing extends Counter {
      override async add(): Promise<number> {
        const before = this.count;
        await undefined;
        this.count = before + 1;
        return this.count;
      }
    }
    const counter = contract<Pick<Counter, "add">>("Counter", { surface: { add: "method" } });
    const pair = { reference: () => new Counter(), candidate: () => new Racing() };
    expect((await compare(counter, pair, { isConcurrent: false })).agrees).toBe(true);
    const { finding, calls } = await compare(counter, pair);
    expect(calls).toBe(2);
    expect(finding?.code).toContain("const call1 = subject.add();");
  });

  test("leaves out, and reports, members whose reference result varies", async () => {
    const dice = contract<{ throw(): number; name: string }>("Dice");
    const make = () => ({ throw: () => Math.random(), name: "dice" });
    const { agrees, notes } = await compare(dice, { reference: make, candidate: make });
    expect(agrees).toBe(true);
    expect(notes).toEqual([expect.stringContaining("throw was not compared")]);
  });

  test("generates arguments from a Standard Schema", async () => {
    const berths = contract<{ free(berth: { berth: number; vessel: string }): number }>("Berths", {
      arguments: { free: [z.object({ berth: z.number().int().min(1).max(24), vessel: z.string().min(1) })] },
    });
    const seen: { berth: number; vessel: string }[] = [];
    const make = () => ({ free: (item: { berth: number; vessel: string }) => (seen.push(item), item.berth) });
    expect((await compare(berths, { reference: make, candidate: make })).agrees).toBe(true);
    expect(seen.length).toBeGreaterThan(100);
    expect(seen.every(({ berth, vessel }) => berth >= 1 && berth <= 24 && vessel.length > 0)).toBe(true);
  });

  test("reports arguments that cannot be generated", async () => {
    const surface = {
      name: "Desk",
      members: {
        call: {
          kind: "method",
          signatures: [{ parameters: [{ name: "tug", schema: { opaque: "Tug" } }], result: {} }],
        },
      },
    };
    const desk = contract<{ call(tug: object): void }>("Desk", { surface });
    const make = () => ({ call: () => {} });
    await expect(compare(desk, { reference: make, candidate: make })).rejects.toMatchObject({
      code: "BAD_CONTRACT",
      message: expect.stringContaining("Cannot generate Tug"),
    });
  });
});
