import fc from "fast-check";
import {
  always,
  behavesLike,
  type Contract,
  checkContract,
  conformanceText,
  contract,
  coverageOf,
  coverageText,
  type Finding,
  faultsText,
  type ImplementationInput,
  injectFaults,
  law,
  within,
} from "sleeve/conform";
import { describe, expect, test } from "vitest";
import { BerthLedger, type Ledger } from "../corpus/ledger.ts";

async function findingsOf<Target extends object>(
  of: Contract<Target>,
  given: ImplementationInput<Target>,
): Promise<readonly Finding[]> {
  const { implementations } = await checkContract(of, { given }, { timeout: 100 });
  return implementations.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings));
}

interface Stack {
  push(item: number): number;
  pop(): number | undefined;
  readonly size: number;
}

class Items implements Stack {
  protected readonly items: number[] = [];
  get size(): number {
    return this.items.length;
  }
  push(item: number): number {
    return this.items.push(item);
  }
  pop(): number | undefined {
    return this.items.pop();
  }
}

class Bounded extends Items {
  override push(item: number): number {
    if (this.items.length > 2) this.items.shift();
    return super.push(item);
  }
}

class Queue extends Items {
  override pop(): number | undefined {
    return this.items.shift();
  }
}

const args = { push: [fc.nat(9)] };

describe("laws with state", () => {
  test("are checked after every sequence of calls, and broken by the shortest", async () => {
    const bounded = contract<Stack>("Stack", {
      arguments: args,
      laws: { "holds at most four": always((stack) => stack.size <= 4) },
    });
    expect(await findingsOf(bounded, () => new Bounded())).toEqual([]);
    const [finding] = await findingsOf(bounded, () => new Items());
    expect(finding).toMatchObject({
      name: "law",
      place: "holds at most four",
      found: "broken after 5 calls: it returned false",
    });
    expect(finding?.code?.split("\n")).toHaveLength(5);
  });

  test("compare with a model, which may be partial", async () => {
    const model = () => {
      const items: number[] = [];
      return { push: (item: number) => items.push(item), pop: () => items.pop() };
    };
    const stack = contract<Stack>("Stack", {
      arguments: args,
      laws: { "is last in, first out": behavesLike<Stack>(model) },
    });
    expect(await findingsOf(stack, () => new Items())).toEqual([]);
    const [finding] = await findingsOf(stack, () => new Queue());
    expect(finding).toMatchObject({
      name: "law",
      place: "is last in, first out",
      expected: expect.stringContaining("as from the model"),
    });
  });
});

test("results may differ from the reference by a tolerance, and errors by message", async () => {
  interface Depths {
    at(berth: number): number;
  }
  const depths = (digits: number, words: string): Depths => ({
    at: (berth) => {
      if (berth > 5) throw new RangeError(words);
      return Number((berth / 3).toFixed(digits));
    },
  });
  const exact = { arguments: { at: [fc.nat(9)] }, reference: () => depths(9, "no such berth") };
  const given = () => depths(2, "there is none");
  expect(await findingsOf(contract<Depths>("Depths", { ...exact, equal: within(0.01) }), given)).toEqual([]);
  const [finding] = await findingsOf(contract<Depths>("Depths", exact), given);
  expect(finding).toMatchObject({ name: "result", place: "at" });
});

describe("a contract that extends others", () => {
  const sized = contract<Pick<Stack, "size">>("Sized", {
    surface: { size: "property" },
    laws: { "is never below nothing": law(fc.constant(0), ({ size }) => size >= 0) },
  });
  const stack = contract<Stack>("Stack", {
    surface: { push: "method", pop: "method", size: "property" },
    arguments: args,
    extends: [sized],
  });

  test("inherits their surface, laws and errors", async () => {
    const { implementations } = await checkContract(stack, { items: () => new Items() });
    expect(implementations[0]?.checks.map(({ name }) => name)).toContain("is never below nothing");
    const negative = Object.defineProperty(new Items(), "size", { value: -1 });
    expect(await findingsOf(stack, () => negative)).toContainEqual(
      expect.objectContaining({ name: "law", place: "is never below nothing" }),
    );
  });
});

describe("a fault of any kind is reported within the timeout, and the run continues", () => {
  interface Desk {
    hangs(): void;
    never(): Promise<void>;
    throws(): void;
    spoils(record: { berth?: number }): void;
    changes(): void;
    late(): Promise<string>;
  }
  const make = (): Desk => ({
    hangs: () => {
      for (;;);
    },
    never: () => new Promise(() => {}),
    throws: () => {
      throw "not an error";
    },
    spoils: (record) => {
      delete record.berth;
    },
    changes(this: { extra?: boolean }) {
      this.extra = true;
    },
    late: async () => {
      await undefined;
      return 4 as unknown as string;
    },
  });

  test("each by its own finding", async () => {
    const desk = contract<Desk>("Desk", {
      arguments: { spoils: [fc.record({ berth: fc.nat(9) })] },
      results: { late: (text) => typeof text === "string" },
    });
    const findings = await findingsOf(desk, make);
    const reported = new Map(findings.map(({ place, name }) => [place, name]));
    expect(Object.fromEntries(reported)).toEqual({
      hangs: "unsettled",
      never: "unsettled",
      throws: "nonerror",
      spoils: "mutated",
      extra: "unstable",
      late: "result",
    });
  });

  test("nothing, where each call ends in time, though many of them together do not", async () => {
    const slow = contract<{ sum(): number }>("Slow sums", { reference: () => ({ sum: () => 4 }) });
    const given = () => ({
      sum: () => {
        const end = performance.now() + 30;
        while (performance.now() < end) clearTimeout(setTimeout(() => {}, 40));
        return 4;
      },
    });
    const { implementations } = await checkContract(slow, { given }, { runs: 4, length: 8, timeout: 100 });
    expect(implementations.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings))).toEqual([]);
    // Code that is interrupted while it sets a timer leaves the process without timers of that duration.
    await new Promise((resolve) => setTimeout(resolve, 40));
  });

  test("held against a surface with its signatures", async () => {
    const signature = (result: object) => [{ parameters: [], result }];
    const surface = {
      name: "Gauge",
      members: {
        level: { kind: "method", signatures: signature({ promise: { type: "number" } }) },
        name: { kind: "method", signatures: signature({ type: "string" }) },
        station: { kind: "property", value: { type: "string" } },
      },
    };
    const gauge = contract<{ level(): Promise<number>; name(): string; station: string }>("Gauge", {
      surface,
    });
    const wrong = () => ({
      level: (() => 4) as never,
      name: (() => ({ name: "PE" })) as never,
      station: 7 as never,
    });
    expect((await findingsOf(gauge, wrong)).map(({ name, place }) => `${name} ${place}`).sort()).toEqual([
      "async level",
      "result name",
      "result station",
    ]);
    const right = { level: async () => 4, name: () => "PE", station: "PE-1" };
    expect(await findingsOf(gauge, () => right)).toEqual([]);
  });

  test("a suppressed finding is reported with its reason", async () => {
    const spoils = contract<{ sort(list: number[]): number[] }>("Sorter", {
      arguments: { sort: [fc.array(fc.nat(9))] },
    });
    const create = () => ({ sort: (list: number[]) => list.sort() });
    expect((await findingsOf(spoils, { create })).map(({ name }) => name)).toEqual(["mutated"]);
    const report = await checkContract(spoils, {
      given: { create, suppressions: { mutated: "it sorts in place" } },
    });
    expect(report.conforms).toBe(true);
    expect(conformanceText(report)).toContain("reason   it sorts in place");
  });
});

describe("injected faults", () => {
  test("are mostly detected by a contract with only a name and a reference", async () => {
    const create = () => new BerthLedger();
    const report = await injectFaults(contract<Ledger>("Ledger", { reference: create }), create, {
      runs: 20,
      length: 8,
    });
    expect(new Set(report.faults.map(({ fault }) => fault)).size).toBeGreaterThan(30);
    expect(report.detected / report.faults.length).toBeGreaterThanOrEqual(0.9);
  });

  test("that a suite does not detect are reported, with an example that detects them", async () => {
    const terms = {
      arguments: args,
      examples: { "pushes and pops": (stack: Stack) => stack.push(3) === 1 && stack.pop() === 3 },
    };
    const before = await injectFaults(contract<Stack>("Stack", terms), () => new Items(), {
      runs: 40,
      length: 8,
    });
    const missed = before.faults.filter(({ isDetected }) => !isDetected);
    expect(missed.length).toBeGreaterThan(0);
    expect(faultsText(before)).toContain(`missed: ${missed[0]?.member}: ${missed[0]?.fault}`);
    const examples = Object.fromEntries(
      missed.map(({ example }, index) => [
        `example ${index}`,
        new Function("expect", `return async (subject) => {${example}}`)(expect) as (stack: Stack) => unknown,
      ]),
    );
    const after = await injectFaults(
      contract<Stack>("Stack", { ...terms, examples: { ...terms.examples, ...examples } }),
      () => new Items(),
      { runs: 40, length: 8 },
    );
    expect(after.failing).toEqual([]);
    expect(after.faults.filter(({ isDetected }) => !isDetected)).toEqual([]);
  });
});

describe("coverage of the target", () => {
  class Full extends Error {}
  const overloads = [
    { parameters: [{ name: "berth", schema: { type: "number" } }], result: {} },
    { parameters: [{ name: "vessel", schema: { type: "string" } }], result: {} },
  ];
  const surface = {
    name: "Desk",
    members: {
      find: { kind: "method", signatures: overloads },
      close: { kind: "method" },
      name: { kind: "property" },
    },
  };
  interface Desk {
    find(key: number | string): number;
    close(): void;
    name: string;
  }
  const desk = contract<Desk>("Desk", {
    surface,
    errors: [Full],
    refusals: { "a vessel too many": { call: (desk) => desk.find(99), error: Full } },
  });

  test("reports the members, overloads, errors and refusals that a run never reached", () => {
    const covered = coverageOf(desk);
    covered.of<Desk>({ find: () => 1, close: () => {}, name: "PE" }).find(3);
    const text = coverageText(covered.report());
    expect(text.split("\n").slice(0, -1)).toEqual([
      "1 of 3 members exercised",
      "  never used: close",
      "  never used: name",
      "  never called: find(vessel: a string): any value",
      "  never failed with: Full",
      "  never tried: the refusal of a vessel too many",
    ]);
  });

  test("is complete if a run reached all of them", async () => {
    const make = (): Desk => ({
      find: (key) => {
        if (key === 99) throw new Full("full");
        return 1;
      },
      close: () => {},
      name: "PE",
    });
    const { coverage } = await checkContract(desk, { desk: make });
    expect(coverage.isComplete).toBe(true);
  });
});
