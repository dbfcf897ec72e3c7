import fc from "fast-check";
import { cached, decorate, limited, retrying, waiting } from "sleeve";
import {
  adapterOf,
  type CheckOptions,
  cacheOf,
  checkContract,
  compare,
  contract,
  decoratorOf,
  facadeOf,
  fake,
  guardOf,
  type Implementations,
  testClock,
} from "sleeve/conform";
import { describe, expect, test } from "vitest";

const TERMS = { runs: 30, length: 8, timeout: 400 } as const;

/** Returns the findings of each implementation, by name. */
async function findingsOf<Target extends object>(
  given: ReturnType<typeof contract<Target>>,
  implementations: Implementations<Target>,
  terms: CheckOptions = TERMS,
): Promise<Readonly<Record<string, readonly string[]>>> {
  const report = await checkContract(given, implementations, terms);
  return Object.fromEntries(
    report.implementations.map(({ name, checks }) => [
      name,
      [...new Set(checks.flatMap(({ findings }) => findings.map((finding) => finding.name)))].sort(),
    ]),
  );
}

interface Feed {
  query(question: number, done: (error: null, answer: string) => void): void;
}

/** Terms for callbacks, each of which takes its time. */
const LATE_TERMS = { runs: 8, length: 4, timeout: 100 } as const;

/** How a feed calls back later. */
const LATER: Readonly<Record<string, (run: () => void) => void>> = {
  "a microtask": (run) => queueMicrotask(run),
  "an immediate": (run) => void setImmediate(run),
  "a zero timer": (run) => void setTimeout(run, 0),
  "4 ms": (run) => void setTimeout(run, 4),
  "25 ms": (run) => void setTimeout(run, 25),
};

const feedContract = contract<Feed>("Feed", {
  surface: {
    name: "Feed",
    members: {
      query: {
        kind: "method",
        signatures: [
          {
            parameters: [
              { name: "question", schema: { type: "integer", minimum: 0, maximum: 3 } },
              { name: "done", schema: { function: true } },
            ],
            result: {},
          },
        ],
      },
    },
  },
});

describe.each(Object.entries(LATER))("a callback that is called after %s", (_, later) => {
  const feed = (): Feed => ({
    query: (question, done) => later(() => done(null, `answer ${question}`)),
  });

  test("is no difference of an implementation to itself, or of one that passes it on", async () => {
    const same = await compare(feedContract, { reference: feed, candidate: feed }, LATE_TERMS);
    expect([same.finding, same.notes]).toEqual([undefined, []]);
    const found = await findingsOf(
      feedContract,
      {
        "passes on": decoratorOf({
          subject: feed,
          wrap: (inner: Feed): Feed => ({ query: (question, done) => inner.query(question, done) }),
        }),
      },
      LATE_TERMS,
    );
    expect(found).toEqual({ "passes on": [] });
  });

  test("is missed if it never comes, comes twice, or with something else", async () => {
    const wrong: Readonly<Record<string, Feed["query"]>> = {
      never: () => {},
      twice: (question, done) => later(() => [1, 2].forEach(() => done(null, `answer ${question}`))),
      other: (question, done) => later(() => done(null, `answer ${question + 1}`)),
    };
    for (const [name, query] of Object.entries(wrong)) {
      const { finding } = await compare(
        feedContract,
        { reference: feed, candidate: () => ({ query }) },
        LATE_TERMS,
      );
      expect([name, finding?.name, finding?.code?.includes("expect(calls).toEqual(")]).toEqual([
        name,
        "callback",
        true,
      ]);
    }
  });
});

/** How an error is left uncaught, some time after the call. */
const UNCAUGHT: Readonly<Record<string, () => void>> = {
  "a timer of 60 ms": () => void setTimeout(() => fail(), 60),
  "a timer of 5 ms": () => void setTimeout(() => fail(), 5),
  "a promise after 60 ms": () =>
    void Promise.resolve()
      .then(() => new Promise((resolve) => setTimeout(resolve, 60)))
      .then(fail),
  "a promise at once": () => void Promise.resolve().then(fail),
};

function fail(): never {
  throw new Error("late");
}

test.each(Object.entries(UNCAUGHT))(
  "an error that is left uncaught by %s is attributed to its cause",
  async (_, leave) => {
    const pinging = (later: () => void) => () => ({
      ping: async (count: number) => {
        later();
        return count;
      },
    });
    const found = await findingsOf(
      contract<{ ping(count: number): Promise<number> }>("Pinger", { arguments: { ping: [fc.nat(3)] } }),
      {
        before: pinging(() => {}),
        guilty: pinging(leave),
        after: pinging(() => {}),
      },
    );
    expect(found).toEqual({ before: [], guilty: ["escaped"], after: [] });
  },
);

class Slots {
  #booked = 0;
  book(slot: number): number {
    this.#booked += slot;
    return this.#booked;
  }
  used(): number {
    return this.#booked;
  }
  async report(): Promise<string> {
    return `booked ${this.#booked}`;
  }
}

function requireSlot(slot: number): void {
  if (!(slot >= 1 && slot <= 24)) throw new RangeError("1 to 24");
}

/** Mistakes of a guard that a single call does not show. */
const GUARD_MISTAKES: Readonly<Record<string, (inner: Slots) => Partial<Slots>>> = {
  "answers from memory for ever": (inner) => {
    let known: number | undefined;
    return { used: () => (known ??= inner.used()) };
  },
  "remembers a promise": (inner) => {
    let known: Promise<string> | undefined;
    return { report: () => (known ??= inner.report()) };
  },
  "loses each second booking": (inner) => {
    let count = 0;
    return {
      book(slot) {
        requireSlot(slot);
        count += 1;
        return count % 2 === 0 ? inner.used() : inner.book(slot);
      },
    };
  },
  "loses a repeated booking": (inner) => {
    let last: number | undefined;
    return {
      book(slot) {
        requireSlot(slot);
        if (slot === last) return inner.used();
        last = slot;
        return inner.book(slot);
      },
    };
  },
};

const slotsContract = contract<Slots>("Slots", { arguments: { book: [fc.integer({ min: 0, max: 26 })] } });

const guarded = (change: (inner: Slots) => Partial<Slots>) =>
  guardOf<Slots>({
    subject: () => new Slots(),
    wrap: (inner) =>
      ({
        book(slot: number) {
          requireSlot(slot);
          return inner.book(slot);
        },
        used: () => inner.used(),
        report: () => inner.report(),
        ...change(inner),
      }) as Slots,
  });

test("a guard answers as its subject does after any calls", async () => {
  const found = await findingsOf(slotsContract, {
    right: guarded(() => ({})),
    ...Object.fromEntries(Object.entries(GUARD_MISTAKES).map(([name, change]) => [name, guarded(change)])),
  });
  expect(found["right"]).toEqual([]);
  for (const name of Object.keys(GUARD_MISTAKES)) expect([name, found[name]?.length]).not.toEqual([name, 0]);
  expect(Object.keys(found)).toHaveLength(5);
});

interface Shelf {
  put(key: string, jar: { grams: number }): void;
  get(key: string): { grams: number } | undefined;
  all(): readonly { grams: number }[];
}

class MemoryShelf implements Shelf {
  readonly #jars = new Map<string, { grams: number }>();
  put(key: string, jar: { grams: number }): void {
    this.#jars.set(key, jar);
  }
  get(key: string): { grams: number } | undefined {
    return this.#jars.get(key);
  }
  all(): readonly { grams: number }[] {
    return [...this.#jars.values()];
  }
}

const shelfContract = contract<Shelf>("Shelf", {
  arguments: {
    put: [fc.constantFrom("a", "b"), fc.record({ grams: fc.nat(9) })],
    get: [fc.constantFrom("a", "b")],
  },
});

const shelf = (change: (inner: Shelf) => Partial<Shelf>) =>
  decoratorOf<Shelf>({
    subject: () => new MemoryShelf(),
    wrap: (inner) => ({
      put: (key, jar) => inner.put(key, jar),
      get: (key) => inner.get(key),
      all: () => inner.all(),
      ...change(inner),
    }),
  });

test("an object that was put in must come out as the same object", async () => {
  const found = await findingsOf(shelfContract, {
    right: shelf(() => ({})),
    "copies what comes out": shelf((inner) => ({
      get: (key) => {
        const jar = inner.get(key);
        return jar && { ...jar };
      },
    })),
    "copies what goes in": shelf((inner) => ({ put: (key, jar) => inner.put(key, { ...jar }) })),
  });
  expect(found["right"]).toEqual([]);
  expect(found["copies what comes out"]).toContain("result");
  expect(found["copies what goes in"]).toContain("argument");
});

test("an iterator that can be read once is generated for each side", async () => {
  interface Scale {
    total(items: Iterable<number>): number;
  }
  const scale = (): Scale => ({ total: (items) => [...items].reduce((sum, item) => sum + item, 0) });
  const lists = fc.array(fc.integer({ min: 1, max: 9 }), { maxLength: 3 });
  const kinds: readonly fc.Arbitrary<Iterable<number>>[] = [
    lists.map((items) => items.values()),
    lists.map((items) => new Set(items).values()),
    lists.map((items) =>
      (function* () {
        yield* items;
      })(),
    ),
  ];
  for (const items of kinds) {
    const scales = contract<Scale>("Scale", { arguments: { total: [items] }, reference: scale });
    const wrap = (change: (items: Iterable<number>) => Iterable<number>) =>
      decoratorOf<Scale>({
        subject: scale,
        wrap: (inner) => ({ total: (given) => inner.total(change(given)) }),
      });
    const found = await findingsOf(scales, {
      same: scale,
      right: wrap((given) => given),
      "reads it first": wrap((given) => {
        for (const _ of given);
        return given;
      }),
    });
    expect([found["same"], found["right"]]).toEqual([[], []]);
    expect(found["reads it first"]).toContain("result");
  }
});

test("a cache may treat a missing last argument as `undefined`", async () => {
  class Prices {
    price(kind: string, grams?: number): string {
      return `${kind}/${grams}`;
    }
  }
  const wrap = (inner: Prices): Prices => {
    const known = new Map<string, Map<number | undefined, string>>();
    return {
      price(kind, grams) {
        const byGrams = known.get(kind) ?? new Map<number | undefined, string>();
        known.set(kind, byGrams);
        if (!byGrams.has(grams)) byGrams.set(grams, inner.price(kind, grams));
        return byGrams.get(grams) ?? "";
      },
    } as Prices;
  };
  const prices = contract<Prices>("Prices");
  expect(await findingsOf(prices, { cache: cacheOf<Prices>({ subject: () => new Prices(), wrap }) })).toEqual(
    {
      cache: [],
    },
  );
});

/** Contracts that cannot be meant, and what is wrong with them. */
const MISUSES: Readonly<Record<string, readonly [run: () => Promise<unknown>, sentence: RegExp]>> = {
  "no implementation": [() => checkContract(slotsContract, {}), /No implementation of Slots was passed/],
  "an object in place of a factory": [
    () => checkContract(slotsContract, { it: new Slots() as never }),
    /An object was passed where a function/,
  ],
  "a subject in place of its factory": [
    async () =>
      checkContract(slotsContract, {
        it: decoratorOf<Slots>({ subject: new Slots() as never, wrap: (inner) => inner }),
      }),
    /An object was passed where a function/,
  ],
  "a shared subject": [
    () => {
      const one = new Slots();
      return checkContract(slotsContract, {
        it: decoratorOf<Slots>({ subject: () => one, wrap: (inner) => inner }),
      });
    },
    /the same object each time/,
  ],
  "a misspelt member": [
    () =>
      checkContract(contract<Slots>("Slots", { arguments: { bok: [fc.nat()] } as never }), {
        it: () => new Slots(),
      }),
    /`arguments` of bok, which is no member/,
  ],
  "a value in place of an arbitrary": [
    () =>
      checkContract(contract<Slots>("Slots", { arguments: { book: [3 as never] } }), {
        it: () => new Slots(),
      }),
    /neither a fast-check arbitrary/,
  ],
  "too few arbitraries": [
    () =>
      checkContract(contract<Feed>("Feed", { ...feedContract, arguments: { query: [fc.nat()] } } as never), {
        it: (): Feed => ({ query() {} }),
      }),
    /1 of the 2 arguments that query requires/,
  ],
  "a misspelt finding in suppressions": [
    () =>
      checkContract(slotsContract, {
        it: { create: () => new Slots(), suppressions: { stail: "known" } as never },
      }),
    /names stail, which is no finding/,
  ],
  "a misspelt step": [
    () =>
      checkContract(contract<{ admit(name: string): string }>("Office"), {
        it: facadeOf<{ admit(name: string): string }, { ledger: { book(name: string): string } }>({
          subsystems: () => ({ ledger: { book: (name) => name } }),
          wrap: ({ ledger }) => ({ admit: (name) => ledger.book(name) }),
          operations: { admit: { steps: ["ledger.bok"] } },
        }),
      }),
    /`operations` names ledger\.bok, which no subsystem has/,
  ],
};

test.each(Object.entries(MISUSES))("%s ends with one sentence", async (_, [run, sentence]) => {
  await expect(run()).rejects.toThrow(
    expect.objectContaining({ code: "BAD_CONTRACT", message: expect.stringMatching(sentence) }),
  );
});

test("an undo step must receive what its step returned", async () => {
  interface Office {
    admit(vessel: string): Promise<string>;
  }
  const subsystems = () => ({
    ledger: { book: async (vessel: string) => ({ id: `b-${vessel}` }), free: async (_id: string) => {} },
    bell: { ring: async () => "ding" },
  });
  type Subsystems = ReturnType<typeof subsystems>;
  const office = (idOf: (booked: { id: string }) => string) =>
    facadeOf<Office, Subsystems>({
      subsystems,
      wrap: ({ ledger, bell }) => ({
        async admit(vessel) {
          const booked = await ledger.book(vessel);
          try {
            return await bell.ring();
          } catch (error) {
            await ledger.free(idOf(booked));
            throw error;
          }
        },
      }),
      operations: { admit: { undo: { "ledger.book": "ledger.free" } } },
    });
  const offices = contract<Office>("Office", { arguments: { admit: [fc.constantFrom("Mara", "Tern")] } });
  expect(
    await findingsOf(offices, { right: office(({ id }) => id), wrong: office(() => "b-other") }),
  ).toEqual({
    right: [],
    wrong: ["undo"],
  });
});

describe("a fake", () => {
  interface Tides {
    heightAt(gauge: string): Promise<number>;
    readonly station: string;
    close?(): void;
  }

  test("answers what it was given, and throws for anything else", async () => {
    const tides = fake<Tides>({ heightAt: async () => 3.2, close: undefined });
    expect(await tides.heightAt("PE-1")).toBe(3.2);
    tides.close?.();
    expect(await Promise.resolve(tides)).toBe(tides);
    expect(() => tides.station).toThrow(expect.objectContaining({ code: "NOT_FAKED" }));
    expect(() => tides.station).toThrow(/no station.*given heightAt, close/);
    expect(JSON.stringify(tides)).toBe("{}");
  });

  test("is held to the contract as any implementation is", async () => {
    const tides = contract<Tides>("Tides", {
      surface: { heightAt: "method", station: "property", close: "method" },
      examples: { "is 3.2 m": async (subject) => (await subject.heightAt("PE-1")) === 3.2 },
    });
    const found = await findingsOf(tides, {
      right: () => fake<Tides>({ heightAt: async () => 3.2, station: "PE-1", close() {} }),
      wrong: () => fake<Tides>({ heightAt: async () => 4, station: "PE-1", close() {} }),
    });
    expect(found).toEqual({ right: [], wrong: ["example"] });
  });
});

describe("a test clock", () => {
  test("moves what layers wait for, in order, and nothing else does", async () => {
    const clock = testClock();
    let level = 0;
    let failures = 2;
    const table = decorate(
      {
        level: () => ++level,
        async read() {
          if (failures-- > 0) throw new Error("busy");
          return "read";
        },
        isOpen: () => clock.now() >= 5000,
      },
      cached({ only: ["level"], ttl: "10m", clock }),
      retrying({ only: ["read"], attempts: 3, delay: "1s", clock }),
    );
    expect([table.level(), table.level()]).toEqual([1, 1]);
    await clock.advance(600_001);
    expect(table.level()).toBe(2);
    const read = table.read();
    let isRead = false;
    void read.then(() => {
      isRead = true;
    });
    await clock.advance(500);
    expect(isRead).toBe(false);
    await clock.advance(10_000);
    expect(await read).toBe("read");
    expect([waiting, limited].every((layer) => typeof layer === "function")).toBe(true);
  });

  test("can be moved to any time, with timers that start timers", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.nat(50), { maxLength: 8 }),
        fc.array(fc.nat(40), { minLength: 1, maxLength: 8 }),
        async (delays, steps) => {
          const clock = testClock();
          const rung: number[] = [];
          for (const delay of delays)
            clock.after(delay, () => {
              rung.push(clock.now());
              clock.after(delay, () => rung.push(clock.now()));
            });
          for (const step of steps) await clock.advance(step);
          const end = steps.reduce((sum, step) => sum + step, 0);
          const due = delays.flatMap((delay) => [delay, 2 * delay]).filter((time) => time <= end);
          expect(rung).toEqual(due.sort((left, right) => left - right));
          expect(clock.now()).toBe(end);
        },
      ),
    );
  });
});

describe("an adapter", () => {
  class Meter {
    feet(gauge: string): number {
      return gauge.length * 3;
    }
    readings(gauge: string, count: number): { feet: number }[] {
      return Array.from({ length: Math.min(Number(count) || 1, 4) }, () => ({ feet: String(gauge).length }));
    }
    reset(): number {
      return 1;
    }
    async average(gauge: string): Promise<{ feet: number; of: string }> {
      return { feet: gauge.length * 2, of: gauge };
    }
    watch(listener: (feet: number) => void): () => void {
      listener(3);
      return () => {};
    }
  }
  interface Levels {
    metres(gauge: string): number;
    all(gauge: string, count: number): readonly { metres: number }[];
    clear(): void;
    mean(gauge: string): Promise<number>;
    onLevel(listener: (metres: number) => void): number;
    offLevel(id: number): boolean;
  }
  class NoLevel extends Error {}
  const owning = <Result>(run: () => Result): Result => {
    try {
      return run();
    } catch (cause) {
      throw new NoLevel("no level", { cause });
    }
  };
  const right = (meter: Meter): Levels => {
    const stops = new Map<number, () => void>();
    return {
      metres: (gauge) => owning(() => meter.feet(gauge) * 0.3048),
      all: (gauge, count) =>
        owning(() => meter.readings(gauge, count).map(({ feet }) => ({ metres: feet * 0.3048 }))),
      clear: () => void owning(() => meter.reset()),
      mean: async (gauge) => {
        try {
          return (await meter.average(gauge)).feet * 0.3048;
        } catch (cause) {
          throw new NoLevel("no level", { cause });
        }
      },
      onLevel: (listener) =>
        owning(() => {
          stops.set(
            stops.size,
            meter.watch((feet) => typeof listener === "function" && listener(feet * 0.3048)),
          );
          return stops.size - 1;
        }),
      offLevel: (id) => {
        stops.get(id)?.();
        return stops.delete(id);
      },
    };
  };

  /** Mistakes that a client sees only by how a result follows from the adaptee, or from earlier calls. */
  const MISTAKES: Readonly<
    Record<string, readonly [finding: string, change: (meter: Meter) => Partial<Levels>]>
  > = {
    "a constant result": [
      "result",
      (meter) => ({ metres: (gauge) => owning(() => meter.feet(gauge) * 0 + 1) }),
    ],
    "an empty list": [
      "result",
      (meter) => ({ all: (gauge, count) => owning(() => meter.readings(gauge, count).slice(9) as never) }),
    ],
    "a member that does nothing": ["calls", () => ({ clear: () => {} })],
    "a call that is made once": [
      "calls",
      (meter) => {
        let isUsed = false;
        return {
          metres(gauge) {
            if (isUsed) return Number.NaN;
            isUsed = true;
            return owning(() => meter.feet(gauge) * 0.3048);
          },
        };
      },
    ],
    "a result that is dropped": [
      "result",
      (meter) => ({ metres: (gauge) => void owning(() => meter.feet(gauge)) as never }),
    ],
    "a promise that is not awaited": [
      "result",
      (meter) => ({ mean: async (gauge) => void meter.average(gauge).catch(() => {}) as never }),
    ],
    "a result of the call before": [
      "result",
      (meter) => {
        let last: number | undefined;
        return {
          metres(gauge) {
            const now = owning(() => meter.feet(gauge) * 0.3048);
            const given = last ?? now;
            last = now;
            return given;
          },
        };
      },
    ],
    "one variable for calls in flight": [
      "result",
      (meter) => {
        let current = "";
        return {
          async mean(gauge) {
            current = gauge;
            const { feet } = await right(meter)
              .mean(gauge)
              .then((mean) => ({ feet: mean }));
            return current === gauge ? feet : (undefined as never);
          },
        };
      },
    ],
    "an error that the contract does not name": [
      "escaped",
      (meter) => ({
        metres(gauge) {
          try {
            return meter.feet(gauge) * 0.3048;
          } catch {
            throw new TypeError("no level");
          }
        },
      }),
    ],
    "a failure that is a promise": [
      "async",
      (meter) => ({
        metres(gauge) {
          try {
            return meter.feet(gauge) * 0.3048;
          } catch (cause) {
            return Promise.reject(new NoLevel("no level", { cause })) as never;
          }
        },
      }),
    ],
    "an argument that is dropped": [
      "argument",
      (meter) => ({
        all: (_gauge, count) =>
          owning(() => meter.readings("PE-1", count).map(({ feet }) => ({ metres: feet }))),
      }),
    ],
  };

  const levels = contract<Levels>("Levels", { errors: [NoLevel] });
  const adapted = (change: (meter: Meter) => Partial<Levels>) =>
    adapterOf<Levels, Meter>({
      adaptee: () => new Meter(),
      wrap: (meter) => ({ ...right(meter), ...change(meter) }),
    });

  test("answers from its adaptee, with what it is given, each time", async () => {
    const found = await findingsOf(levels, {
      right: adapted(() => ({})),
      ...Object.fromEntries(Object.entries(MISTAKES).map(([name, [, change]]) => [name, adapted(change)])),
    });
    expect(found["right"]).toEqual([]);
    for (const [name, [finding]] of Object.entries(MISTAKES))
      expect([name, found[name]]).toEqual([name, [finding]]);
    expect(Object.keys(found)).toHaveLength(12);
  });

  test("may round what the contract generates", async () => {
    const DAY = 86_400_000;
    interface Days {
      tides(time: Date): number;
    }
    const days = contract<Days>("Days", {
      arguments: { tides: [fc.integer({ min: 1, max: DAY - 1 }).map((time) => new Date(time))] },
    });
    const adapter = adapterOf<Days, { of(day: number): number }>({
      adaptee: () => ({ of: (day) => day + 4 }),
      wrap: (outside) => ({ tides: (time) => outside.of(Math.floor(time.getTime() / DAY)) }),
      suppressions: { escaped: "the outside does not fail" },
    });
    expect(await findingsOf(days, { adapter })).toEqual({ adapter: [] });
  });
});

test("a listener is removed by the function that was added", async () => {
  interface Bell {
    on(listener: (count: number) => void): void;
    off(listener: (count: number) => void): void;
    ring(): number;
  }
  class SteelBell implements Bell {
    readonly #listeners = new Set<(count: number) => void>();
    #count = 0;
    on(listener: (count: number) => void): void {
      this.#listeners.add(listener);
    }
    off(listener: (count: number) => void): void {
      this.#listeners.delete(listener);
    }
    ring(): number {
      this.#count += 1;
      for (const listener of this.#listeners) listener(this.#count);
      return this.#count;
    }
  }
  const signature = { parameters: [{ name: "listener", schema: { function: true } }], result: {} } as const;
  const bells = contract<Bell>("Bell", {
    surface: {
      name: "Bell",
      members: {
        on: { kind: "method", signatures: [signature] },
        off: { kind: "method", signatures: [signature] },
        ring: { kind: "method", signatures: [{ parameters: [], result: {} }] },
      },
    },
  });
  const bell = (change: (inner: Bell) => Partial<Bell>) => (): Bell => {
    const inner = new SteelBell();
    return {
      on: (listener) => inner.on(listener),
      off: (listener) => inner.off(listener),
      ring: () => inner.ring(),
      ...change(inner),
    };
  };
  const reference = () => new SteelBell();
  const right = await compare(bells, { reference, candidate: bell(() => ({})) }, TERMS);
  expect(right.finding).toBeUndefined();
  const { finding } = await compare(
    bells,
    {
      reference,
      // The function that is added is not the one that is removed.
      candidate: bell((inner) => ({ on: (listener) => inner.on((count) => listener(count)) })),
    },
    TERMS,
  );
  expect(finding?.name).toBe("callback");
  expect(finding?.code).toMatch(/subject\.on\(callback1\);\nsubject\.off\(callback1\);\nsubject\.ring\(\);/);
});

describe("an iterator", () => {
  interface Log {
    entries(count: number): Generator<number, string, unknown>;
    later(count: number): AsyncGenerator<number, string, unknown>;
    open(): number;
  }
  /** Its generators return a value, use what they are sent, catch errors, and count those that were not released. */
  class MemoryLog implements Log {
    #open = 0;
    *entries(count: number): Generator<number, string, unknown> {
      this.#open += 1;
      try {
        for (let at = 0; at < count; at += 1) yield (yield at) === 1 ? at + 10 : at;
      } catch (error) {
        return `caught ${(error as Error).message}`;
      } finally {
        this.#open -= 1;
      }
      return "end";
    }
    async *later(count: number): AsyncGenerator<number, string, unknown> {
      return yield* this.entries(count);
    }
    open(): number {
      return this.#open;
    }
  }
  const logs = contract<Log>("Log", { arguments: { entries: [fc.nat(3)], later: [fc.nat(3)] } });
  const log = (change: (inner: Log) => Partial<Log>) =>
    decoratorOf<Log>({
      subject: () => new MemoryLog(),
      wrap: (inner) => ({
        entries: (count) => inner.entries(count),
        later: (count) => inner.later(count),
        open: () => inner.open(),
        ...change(inner),
      }),
    });

  test("may be passed on by `yield*`, and not by a loop that loses what goes in or comes back", async () => {
    const found = await findingsOf(logs, {
      "passed on": log(() => ({})),
      "yield*": log((inner) => ({
        *entries(count) {
          return yield* inner.entries(count);
        },
        async *later(count) {
          return yield* inner.later(count);
        },
      })),
      "a loop": log((inner) => ({
        *entries(count) {
          for (const item of inner.entries(count)) yield item;
          return "end";
        },
      })),
      "a lost value": log((inner) => ({
        async *later(count) {
          yield* inner.later(count);
          return "";
        },
      })),
      "never released": log((inner) => ({
        *entries(count) {
          const iterator = inner.entries(count);
          let sent: unknown;
          for (let step = iterator.next(); ; step = iterator.next(sent)) {
            if (step.done) return step.value;
            sent = yield step.value;
          }
        },
      })),
    });
    expect([found["passed on"], found["yield*"]]).toEqual([[], []]);
    for (const wrong of ["a loop", "a lost value", "never released"])
      expect([wrong, found[wrong]]).toEqual([wrong, ["result"]]);
  });
});
