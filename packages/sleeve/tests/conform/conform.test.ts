import fc from "fast-check";
import { decorate, timing } from "sleeve";
import { checkContract, closeTo, contract, decoratorOf, type Finding, law } from "sleeve/conform";
import { conforms } from "sleeve/vitest";
import { describe, expect, test } from "vitest";

interface Tank {
  readonly litres: number;
  fill(litres: number): number;
}

class Full extends Error {}

class SteelTank implements Tank {
  litres = 0;
  fill(litres: number): number {
    if (this.litres + litres > 100) throw new Full("full");
    this.litres += litres;
    return this.litres;
  }
}

const tankContract = contract<Tank>("Tank", {
  surface: { litres: "property", fill: "method" },
  examples: {
    "starts empty": (tank) => tank.litres === 0,
    "returns the contents": (tank) => closeTo(tank.fill(4), 4, { within: 0, unit: "metres" }),
  },
  laws: {
    "holds what was filled in": law(fc.integer({ min: 0, max: 5 }), (tank, litres) => {
      const before = tank.litres;
      return before > 90 || tank.fill(litres) === before + litres;
    }),
  },
  refusals: { "more than it holds": { call: (tank) => tank.fill(101), error: Full } },
  errors: [Full],
});

conforms(tankContract, { steel: () => new SteelTank(), promised: async () => new SteelTank() });

async function findingsOf(given: Tank | (() => Tank)): Promise<readonly Finding[]> {
  const create = typeof given === "function" ? given : () => given;
  const report = await checkContract(tankContract, { given: create });
  const findings = report.implementations.flatMap(({ checks }) => checks.flatMap((check) => check.findings));
  expect(report.conforms).toBe(findings.length === 0);
  return findings;
}

describe("a contract finds", () => {
  test("no finding for a conforming implementation", async () => {
    expect(await findingsOf(() => new SteelTank())).toEqual([]);
  });

  test("a member that is missing, and one of the wrong kind", async () => {
    const findings = await findingsOf({ litres: () => 0 } as never);
    expect(findings).toContainEqual(expect.objectContaining({ name: "missing", place: "fill" }));
    expect(findings).toContainEqual(
      expect.objectContaining({ name: "kind", place: "litres", expected: "a property", found: "a method" }),
    );
  });

  test("the simplest value that breaks a law", async () => {
    class Leaky extends SteelTank {
      override fill(litres: number): number {
        return super.fill(litres > 2 ? litres - 1 : litres);
      }
    }
    const [finding] = (await findingsOf(() => new Leaky())).filter(({ name }) => name === "law");
    expect(finding?.found).toBe("broken by 3: it returned false");
    expect(finding?.remedy).toMatch(/Reproduce with seed 1/);
  });

  test("an error that is not listed, and reports it instead of its consequence", async () => {
    class Rude extends SteelTank {
      override fill(): number {
        throw new TypeError("inner pump");
      }
    }
    const findings = await findingsOf(() => new Rude());
    expect(new Set(findings.map(({ name }) => name))).toEqual(new Set(["escaped"]));
    expect(findings[0]).toMatchObject({
      place: "fill",
      found: "threw TypeError: inner pump",
      expected: "no error except Full",
    });
  });

  test("an error of another class than declared, and a result instead of an error", async () => {
    class Mild extends SteelTank {
      override fill(litres: number): number {
        return litres > 100 ? -1 : super.fill(litres);
      }
    }
    expect(await findingsOf(() => new Mild())).toEqual([
      expect.objectContaining({
        name: "refusal",
        expected: "the call to fail with Full",
        found: "the result -1",
      }),
    ]);
  });

  test("an implementation that cannot be created, and continues with the next", async () => {
    const report = await checkContract(tankContract, {
      broken: () => {
        throw new Error("no steel");
      },
      steel: () => new SteelTank(),
    });
    expect(report.implementations.map(({ conforms: isGood }) => isGood)).toEqual([false, true]);
    expect(report.implementations[0]?.checks[0]?.findings).toEqual([
      expect.objectContaining({ name: "setup", found: "Error: no steel" }),
    ]);
  });
});

test("each check has its own implementation, which is always released", async () => {
  let made = 0;
  let released = 0;
  const create = () => {
    made += 1;
    return new SteelTank();
  };
  const release = () => {
    released += 1;
  };
  const { implementations } = await checkContract(tankContract, { steel: { create, release } });
  expect(released).toBe(made);
  expect(made).toBeGreaterThanOrEqual(implementations[0]?.checks.length ?? 0);
});

test("the subject of a wrapper is released by its own release", async () => {
  const open = new Set<object>();
  const subject = {
    create: () => {
      const tank = new SteelTank();
      open.add(tank);
      return tank;
    },
    release: (tank: SteelTank) => open.delete(tank),
  };
  const wrapped = decoratorOf<Tank>({
    subject,
    wrap: (tank) => decorate(tank, timing({ onSample: () => {} })),
  });
  await checkContract(tankContract, { wrapped }, { runs: 10 });
  expect(open.size).toBe(0);
});

describe("closeTo", () => {
  test("accepts exactly the numbers within the tolerance", () => {
    fc.assert(
      fc.property(
        fc.double({ min: -50, max: 50, noNaN: true }),
        fc.double({ min: 0.01, max: 5, noNaN: true }),
        (off, within) => {
          const attempt = () => closeTo(100 + off, 100, { within, unit: "metres" });
          if (Math.abs(100 + off - 100) <= within) expect(attempt).not.toThrow();
          else expect(attempt).toThrow(expect.objectContaining({ code: "NOT_CONFORMING" }));
        },
      ),
    );
  });

  test.each([
    [13.123, 4, "metres", "feet"],
    [7200, 2, "hours", "seconds"],
    [180, Math.PI, "radians", "degrees"],
  ] as const)("says that %d for %d %s looks like %s", (actual, expected, unit, mistaken) => {
    expect(() => closeTo(actual, expected, { within: 0.01, unit })).toThrow(
      `in ${mistaken}, so a conversion is missing`,
    );
  });

  test("rejects values that are not numbers", () => {
    expect(() => closeTo(Number.NaN, 4, { within: 1, unit: "metres" })).toThrow("NaN where 4");
  });
});

test("two copies of the library in one process do not disturb each other", async () => {
  const copy = await import("../../src/conform/index.ts");
  const bell = () => ({ ring: (times: number) => "ding".repeat(times) });
  const terms = { surface: { ring: "method" }, reference: bell } as const;
  const original = async () => (await checkContract(contract("Bell", terms), { bell }, { runs: 5 })).conforms;
  const second = async () =>
    (await copy.checkContract(copy.contract("Bell", terms), { bell }, { runs: 5 })).conforms;
  expect([await original(), await second(), await original()]).toEqual([true, true, true]);
});
