import fc from "fast-check";
import {
  access,
  adapter,
  between,
  cached,
  guard,
  layer,
  limited,
  logging,
  ProxyControl,
  proxy,
  recorded,
  retrying,
  type Store,
  timing,
  waiting,
} from "sleeve";
import { describe, expect, test, vi } from "vitest";
import { decorateAny as decorate } from "../decorate-any.ts";

const codeOf = (run: () => unknown): unknown => {
  try {
    return run();
  } catch (error) {
    return (error as { code?: string }).code ?? error;
  }
};

describe("observing layers never break a call", () => {
  const observers = {
    timing: () => timing({ onSample: () => {} }),
    logging: () => logging({ logger: { info() {}, error() {} } }),
    recorded: () => recorded({ onRecord: () => {} }),
  };
  const odd: Readonly<Record<string, () => unknown>> = {
    "a wrapped promise": () => decorate(Promise.resolve(5)),
    "an object that inherits from Promise.prototype": () => Object.create(Promise.prototype),
    "a Proxy around a promise": () => new Proxy(Promise.resolve(1), {}),
    "a promise with a then of its own": () => Object.assign(Promise.resolve(1), { then: 4 }),
    "a generator that is frozen": () => Object.freeze((function* () {})()),
    "an object whose every property throws": () => new Proxy({}, { get: () => { throw new Error("no"); } }),
  }; // biome-ignore format: one a line

  test.each(Object.entries(observers))("%s, whatever a member returns", async (_, observe) => {
    for (const [name, create] of Object.entries(odd)) {
      const value = create();
      expect(decorate({ get: () => value }, observe()).get() === value, name).toBe(true);
    }
    expect(
      await (decorate({ get: () => decorate(Promise.resolve(5)) }, observe()).get() as Promise<number>),
    ).toBe(5);
  });

  test("a watcher that throws, rejects, runs the call twice or never, is reported once", async () => {
    const warnings: string[] = [];
    const onWarning = vi.spyOn(process, "emitWarning").mockImplementation((warning) => {
      warnings.push(String(warning));
    });
    let calls = 0;
    const subject = { ring: () => ++calls };
    const watchers = [
      () => { throw new Error("x"); },
      () => () => { throw new Error("x"); },
      () => async () => { throw new Error("x"); },
      async () => { throw new Error("x"); },
      () => ({ around: () => undefined, ended() {} }),
      () => ({ around: (run: () => unknown) => { run(); run(); throw new Error("x"); }, ended() {} }),
      () => ({ around: (run: () => unknown) => run(), ended: async () => { throw new Error("x"); } }),
      // A result that is no watch is ignored. An arrow function returns one easily.
      () => 3, () => null, () => "rung", () => true, () => [], () => ({}),
    ]; // biome-ignore format: one a line
    for (const watch of watchers) {
      const before = calls;
      const bell = decorate(subject, layer("odd", { watch: () => watch as never }));
      expect([bell.ring(), bell.ring()]).toEqual([before + 1, before + 2]);
    }
    await new Promise((resolve) => setTimeout(resolve));
    onWarning.mockRestore();
    expect(warnings.filter((warning) => warning.includes('"odd"'))).toHaveLength(6);
    expect(calls).toBe(2 * 13);
  });
});

describe("a member that returns promises rejects, and a synchronous one throws", () => {
  const deny = () => access(() => false);
  const refuse = () =>
    guard({ later: [between(5, 9)], lazily: [between(5, 9)], now: [between(5, 9)] } as never);
  const custom = () => layer("custom", { call: () => () => { throw new RangeError("no"); } }); // biome-ignore format: one line
  const subject = () => ({
    later: async (value: number) => value,
    lazily: (value: number) => Promise.resolve(value),
    now: (value: number) => value,
  });
  class Subject {
    async later(value: number) {
      return value;
    }
    now(value: number) {
      return value;
    }
  }

  test.each(Object.entries({ deny, refuse, custom }))("if a layer fails: %s", async (_, failing) => {
    for (const create of [subject, () => new Subject()]) {
      const wrapper = decorate(create(), failing());
      await expect(wrapper.later(1)).rejects.toThrow();
      expect(() => wrapper.now(1)).toThrow();
    }
    const Wrapped = decorate(
      Subject,
      layer("custom", { call: (next) => (call) => (call.args[0] ? failed() : next(call)) }),
    );
    await expect(new Wrapped().later(1)).rejects.toThrow("failed");
    expect(() => new Wrapped().now(1)).toThrow("failed");
  });

  test("after it has returned a promise once, if it is not declared async", async () => {
    for (const create of [subject, () => Object.create(subject()) as ReturnType<typeof subject>]) {
      let mayCall = true;
      const wrapper = decorate(
        create(),
        access(() => mayCall),
      );
      await wrapper.lazily(4);
      mayCall = false;
      await expect(wrapper.lazily(4)).rejects.toMatchObject({ code: "DENIED" });
    }
    const guarded = decorate(subject(), refuse());
    expect(codeOf(() => guarded.lazily(1))).toBe("NOT_ALLOWED");
    await guarded.lazily(6);
    await expect(guarded.lazily(1)).rejects.toMatchObject({ code: "NOT_ALLOWED" });
  });

  test("and only where a layer for asynchronous members names it", async () => {
    const layers = [retrying({ only: ["lazily"], attempts: 1 }), refuse()];
    for (const create of [subject, () => Object.create(subject()) as ReturnType<typeof subject>]) {
      const wrapper = decorate(create(), ...(layers as never[]));
      expect(codeOf(() => wrapper.now(1))).toBe("NOT_ALLOWED");
      await expect(wrapper.lazily(1)).rejects.toMatchObject({ code: "NOT_ALLOWED" });
    }
  });

  test("but errors that a function throws itself stay synchronous", () => {
    let count = 0;
    const gauge = { read: (): Promise<number> => { if (count++ > 0) throw new RangeError("dry"); return Promise.resolve(1); } }; // biome-ignore format: one line
    const wrapper = decorate(gauge, guard<typeof gauge>({}, { results: { read: () => true } }));
    void wrapper.read();
    expect(() => wrapper.read()).toThrow("dry");
  });

  test("if its proxy is revoked or its adapter released", async () => {
    const control = new ProxyControl();
    const late = proxy(() => new Subject(), { control, surface: Subject });
    const layered = proxy(() => new Subject(), { control, surface: Subject, layers: [access(() => true)] });
    await layered.later(1);
    await control.revoke();
    await expect(late.later(1)).rejects.toMatchObject({ code: "REVOKED" });
    await expect(layered.later(1)).rejects.toMatchObject({ code: "REVOKED" });
    expect(codeOf(() => late.now(1))).toBe("REVOKED");
    interface Gate {
      later(value: number): Promise<number>;
      now(value: number): number;
      close(): void;
    }
    const gate = adapter<Gate, Subject>(
      { later: async (inner, value) => inner.later(value), now: "now", close: () => {} },
      { owns: true },
    )(new Subject()); // biome-ignore format: short
    gate.close();
    await expect(gate.later(1)).rejects.toMatchObject({ code: "RELEASED" });
    expect(codeOf(() => gate.now(1))).toBe("RELEASED");
  });
});

function failed(): never {
  throw new RangeError("failed");
}

describe("a shared cache whose store misbehaves", () => {
  const never = () => new Promise<never>(() => {});
  const texts = ["", "{", "null", "5", '"text"', "[]", '{"val":1}', '{"value":1,"more":2}', "\u0000"];
  const stores: Readonly<Record<string, () => Store>> = {
    ...Object.fromEntries(
      texts.map((text) => [
        `has the text ${JSON.stringify(text)}`,
        () => ({ get: async () => text, add: async () => false, delete: async () => {} }),
      ]),
    ),
    "has a number": () => ({ get: async () => 5 as never, add: async () => true, delete: async () => {} }),
    "has null": () => ({ get: async () => null, add: async () => true, delete: async () => {} }),
    "refuses each lease": () => ({ get: async () => undefined, add: async () => false, delete: async () => {} }),
    "never reads": () => ({ get: never, add: async () => true, delete: async () => {} }),
    "never adds": () => ({ get: async () => undefined, add: never, delete: never }),
    "rejects": () => ({ get: async () => failed(), add: async () => failed(), delete: async () => failed() }),
    "throws": () => ({ get: failed, add: failed, delete: failed }),
    "rejects only deletions": () => ({ get: async () => undefined, add: async () => true, delete: async () => failed() }),
    "returns nothing": () => ({ get: (() => {}) as never, add: (() => {}) as never, delete: (() => {}) as never }),
  }; // biome-ignore format: one a line

  test.each(Object.entries(stores))("is bypassed if the store %s", async (_, create) => {
    const warnings: unknown[] = [];
    const onWarning = vi.spyOn(process, "emitWarning").mockImplementation((warning) => {
      warnings.push(warning);
    });
    const sums = { heightAt: async (hour: number) => hour * 2 };
    const kept = decorate(
      sums,
      cached({
        only: ["heightAt"],
        store: create(),
        name: "sums",
        ttl: "1m",
        storeTimeout: 5,
        leaseTime: 40,
      }),
    );
    expect(await Promise.all([kept.heightAt(1), kept.heightAt(1), kept.heightAt(2)])).toEqual([2, 2, 4]);
    expect(await kept.heightAt(1)).toBe(2);
    await new Promise((resolve) => setTimeout(resolve, 10));
    onWarning.mockRestore();
    expect(warnings.length).toBeLessThanOrEqual(1);
  });

  test("every case is listed", () => {
    expect(Object.keys(stores)).toHaveLength(18);
  });
});

describe("a mistake in the options of a layer is reported when the layer is created, in one sentence", () => {
  const wrong = (value: unknown): never => value as never;
  const mistakes: Readonly<Record<string, readonly [RegExp, () => unknown]>> = {
    "timing()": [/^timing: the options are undefined\. Pass an object, such as timing\(/, () => (timing as (options?: unknown) => unknown)()],
    "timing({})": [/^timing: onSample is undefined\. Pass a function\.$/, () => timing(wrong({}))],
    "timing with another name": [/^timing: there is no option `to`\. Its options: onSample, clock, only\.$/, () => timing(wrong({ to: () => {} }))],
    "logging with another name": [/^logging: there is no option `to`\. Its options: logger,/, () => logging(wrong({ to: () => {} }))],
    "logging with a function": [/^logging: logger is .* without a method info\. Pass an object with info and error/, () => logging({ logger: wrong(() => {}) })],
    "logging at no level": [/^logging: level is "loud"\. Pass one of: trace, debug, info\.$/, () => logging({ level: wrong("loud") })],
    "logging with a wrong redaction": [/^redact: values is "x"\. Pass a list of regular expressions\.$/, () => logging({ redact: { values: wrong("x") } })],
    "recorded()": [/^recorded: the options are undefined/, () => (recorded as (options?: unknown) => unknown)()],
    "recorded with another name": [/^recorded: there is no option `to`/, () => recorded(wrong({ to: () => {} }))],
    "retrying with a misspelt option": [/^retrying: there is no option `attemps`/, () => retrying(wrong({ attemps: 4 }))],
    "waiting without a condition": [/^waiting: until is undefined\. Pass a function\.$/, () => waiting(wrong({}))],
    "limited with a misspelt option": [/^limited: there is no option `time`/, () => limited(wrong({ time: 4 }))],
    "limited()": [/^limited: the options are undefined/, () => (limited as (options?: unknown) => unknown)()],
    "cached with a misspelt option": [/^cached: there is no option `for`/, () => cached(wrong({ for: "1m" }))],
    "cached with a store without a name": [/^cached: name is undefined\. Pass the prefix/, () => cached(wrong({ store: { get() {}, add() {}, delete() {} }, ttl: "1m", only: [] }))],
    "access with options first": [/^access: may is an object\. Pass a function\.$/, () => access(wrong({}))],
    "access that hides by another word": [/^access: onDenied is "absent"\. Pass "throw" or "hide"\.$/, () => access(() => true, { onDenied: wrong("absent") })],
    "a list of names that is none": [/^timing: `only` is "book"\. Pass a list of member names/, () => timing({ onSample() {}, only: wrong("book") })],
    "a hook that is none": [/^layer "x": call is 4\. Pass a function\.$/, () => layer("x", { call: wrong(4) })],
    "a hook of another name": [/^layer "x": there is no option `calls`/, () => layer("x", wrong({ calls: () => {} }))],
    "a guard of a method that is no list": [/^guard: book is a method\. Put its checks into a list/, () => decorate({ book: (_: number) => 1 }, guard(wrong({ book: between(1, 2) })))],
    "a range the wrong way round": [/^between: 9 and 4 are not a range\./, () => between(9, 4)],
    "a range to nowhere": [/^between: 1 and NaN are not a range\./, () => between(1, Number.NaN)],
    "a list of layers": [/^Expected a layer, received an array\. Pass layers one by one, or spread the array/, () => decorate({}, wrong([logging()]))],
  }; // biome-ignore format: one a line

  test.each(Object.entries(mistakes))("%s", (_, [message, make]) => {
    let thrown: unknown;
    try {
      make();
    } catch (error) {
      thrown = error;
    }
    expect(thrown).toMatchObject({ code: "BAD_OPTION", message: expect.stringMatching(message) });
  });

  test("every case is listed", () => {
    expect(Object.keys(mistakes)).toHaveLength(24);
  });
});

test("500 calls that wait on one signal cause no warning, and end when it is aborted", async () => {
  const warnings: unknown[] = [];
  const onWarning = vi.spyOn(process, "emitWarning").mockImplementation((warning) => {
    warnings.push(warning);
  });
  const { signal, abort } = (() => {
    const controller = new AbortController();
    return { signal: controller.signal, abort: (reason: unknown) => controller.abort(reason) };
  })();
  const gauge = { read: async (): Promise<number> => { throw new RangeError("dry"); } }; // biome-ignore format: one line
  const patient = decorate(gauge, retrying({ only: ["read"], attempts: 9, delay: "1h", signal }));
  const calls = Array.from({ length: 500 }, () => patient.read());
  await new Promise((resolve) => setTimeout(resolve, 5));
  abort(new Error("enough"));
  const ends = await Promise.allSettled(calls);
  expect(ends.every((end) => end.status === "rejected" && end.reason.message === "enough")).toBe(true);
  onWarning.mockRestore();
  expect(warnings).toEqual([]);
});

describe("guard", () => {
  class Bank {
    transfer(from: number, to: number, pence: number): number {
      return from + to + pence;
    }
    rest(first: number, ...others: number[]): number {
      return first + others.length;
    }
    destructured({ amount }: { amount: number }, note = "a, (b)", /* c, */ last = 1): string {
      return `${amount}${note}${last}`;
    }
    async find(name: string): Promise<string> {
      return name;
    }
  }

  test("matches checks by parameter name, wherever the parameter is", () => {
    for (const create of [
      () => new Bank(),
      () => ({ transfer: (from: number, to: number, pence: number) => from + to + pence }),
    ]) {
      const bank = decorate(create() as Bank, guard<Bank>({ transfer: { pence: between(1, 100) } }));
      expect(bank.transfer(500, 2, 99)).toBe(601);
      expect(() => bank.transfer(50, 2, 1_000_000)).toThrow(
        "transfer: pence is 1000000, which is not between 1 and 100.",
      );
    }
    const odd = decorate(new Bank(), guard<Bank>({ destructured: { last: between(1, 2) } }));
    expect(odd.destructured({ amount: 1 }, "x", 2)).toBe("1x2");
    expect(() => odd.destructured({ amount: 1 }, "x", 3)).toThrow("destructured: last is 3");
  });

  test("reports a name that no parameter has, and names that are not known", () => {
    expect(() => decorate(new Bank(), guard<Bank>({ transfer: { pense: between(1, 2) } }))).toThrow(
      'guard: transfer has no parameter "pense". Its parameters: from, to, pence.',
    );
    expect(() =>
      decorate(new Map<number, number>(), guard<Map<number, number>>({ get: { key: between(1, 2) } })),
    ).toThrow("guard: the parameter names of get are not known");
    const surface = { transfer: "method" } as const;
    const late = proxy(() => new Bank() as Pick<Bank, "transfer">, {
      surface,
      layers: [guard<Pick<Bank, "transfer">>({ transfer: { pence: between(1, 2) } })],
    });
    expect(() => late.transfer(1, 2, 3)).toThrow("guard: the parameter names of transfer are not known");
  });

  test("checks two subjects of one shape by the parameters of each", () => {
    const rules = guard<{ send(a: number, b: number): number }>({ send: { limit: between(0, 5) } });
    const one = decorate({ send: (limit: number, other: number) => limit + other }, rules);
    const other = decorate({ send: (other: number, limit: number) => limit + other }, rules);
    expect([one.send(5, 99), other.send(99, 5)]).toEqual([104, 104]);
    expect([codeOf(() => one.send(9, 1)), codeOf(() => other.send(1, 9))]).toEqual([
      "NOT_ALLOWED",
      "NOT_ALLOWED",
    ]);
  });

  test("allows only genuine values of a range's type within it", () => {
    const inRange = between(1, 24);
    const dates = between(new Date(0), new Date(1000));
    fc.assert(
      fc.property(fc.anything(), (value) => {
        expect(inRange.holds(value as number)).toBe(typeof value === "number" && value >= 1 && value <= 24);
        expect(dates.holds(value as Date)).toBe(
          value instanceof Date && value.getTime() >= 0 && value.getTime() <= 1000,
        );
      }),
    );
    const sly = Object.assign(new Date(Number.NaN), { valueOf: () => 5 });
    const odd = [Number.NaN, Object(5), [5], { valueOf: () => 5 }, "5", 5n, new Date(5), sly];
    expect(odd.map((value) => inRange.holds(value as number))).toEqual(odd.map(() => false));
    expect([[5], 5, { valueOf: () => 5 }, sly].map((value) => dates.holds(value as Date))).toEqual([
      false,
      false,
      false,
      false,
    ]);
    expect([between(0, 4).holds(-0), dates.holds(new Date(5))]).toEqual([true, true]);
  });

  test("awaits a predicate that returns a promise", async () => {
    const bank = decorate(new Bank(), guard<Bank>({ find: [async (name) => name !== "ghost"] }));
    expect(await bank.find("Tern")).toBe("Tern");
    await expect(bank.find("ghost")).rejects.toMatchObject({ code: "NOT_ALLOWED" });
  });

  test("and the subject see the same arguments, whatever list a layer passes", () => {
    const sly = layer("sly", {
      call: (next) => (call) => {
        let reads = 0;
        const args = new Proxy([1], {
          get: (list, key, receiver) => (key === "0" && reads++ > 0 ? 99 : Reflect.get(list, key, receiver)),
        });
        return next({ ...call, args });
      },
    });
    const bank = { take: (amount: number) => amount };
    expect(decorate(bank, sly, guard<typeof bank>({ take: [between(1, 24)] })).take(1)).toBe(1);
    expect(
      decorate(
        bank,
        sly,
        access(({ args }) => args[0] === 1),
      ).take(1),
    ).toBe(1);
  });
});
