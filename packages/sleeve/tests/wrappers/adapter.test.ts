import { EventEmitter } from "node:events";
import fc from "fast-check";
import {
  adapter,
  classAdapter,
  decorate,
  fromCallback,
  fromErrorNumber,
  fromEvents,
  inheritingAdapter,
  logging,
  twoWay,
} from "sleeve";
import { adapterOf, checkContract, contract } from "sleeve/conform";
import { describe, expect, test } from "vitest";

interface Winch {
  readonly maker: string;
  speed: number;
  load: number;
  haul(metres: number): Promise<number>;
  pay(metres: number): number;
  [Symbol.iterator](): Iterator<number>;
  stop?(): void;
}

class OldWinch {
  readonly brand = "Hollis";
  knots = 2;
  #feet = 0;
  #tons = 1;
  get tons(): number {
    return this.#tons;
  }
  set tons(value: number) {
    this.#tons = value;
  }
  pullFeet(feet: number, done: (error: Error | null, total?: number) => void): void {
    if (feet > 1000) queueMicrotask(() => done(new RangeError("too far")));
    else queueMicrotask(() => done(null, (this.#feet += feet)));
  }
  slack(metres: number): number {
    if (metres < 0) throw new RangeError("negative");
    return -metres;
  }
  *turns(): Generator<number> {
    yield* [1, 2, 3];
  }
}

class WinchStuck extends Error {}

const oldWinch = adapter<Winch, OldWinch>(
  {
    maker: "brand",
    speed: {
      get: (winch) => winch.knots * 0.5144,
      set: (winch, value) => void (winch.knots = value / 0.5144),
    },
    load: "tons",
    haul: (winch, metres) =>
      new Promise((resolve, reject) => {
        winch.pullFeet(metres / 0.3048, (error, total) =>
          error ? reject(error) : resolve((total ?? 0) * 0.3048),
        );
      }),
    pay: "slack",
    [Symbol.iterator]: (winch) => winch.turns(),
  },
  { name: "oldWinch", errors: (error, member) => new WinchStuck(member, { cause: error }) },
);

test("an adapter translates methods, properties, symbols and callbacks, each way", async () => {
  const adaptee = new OldWinch();
  const winch = oldWinch(adaptee);
  winch.speed = 5.144;
  winch.load = 12;
  expect(adaptee.knots).toBeCloseTo(10);
  expect(adaptee.tons).toBe(12);
  expect([winch.maker, winch.load, winch.pay(3), [...winch]]).toEqual(["Hollis", 12, -3, [1, 2, 3]]);
  expect(winch.speed).toBeCloseTo(5.144);
});

test("a pair of conversions round-trips", async () => {
  await fc.assert(
    fc.asyncProperty(fc.double({ min: 0, max: 300, noNaN: true }), async (metres) => {
      expect(await oldWinch(new OldWinch()).haul(metres)).toBeCloseTo(metres, 8);
    }),
  );
});

test("it shows the target's members and nothing of the adaptee", () => {
  const winch = oldWinch(new OldWinch());
  for (const name of ["brand", "knots", "tons", "pullFeet", "slack", "turns"])
    expect(name in winch).toBe(false);
  expect("stop" in winch).toBe(false);
  expect(winch).not.toBeInstanceOf(OldWinch);
});

test("errors are translated, thrown or rejected, and keep their cause", async () => {
  const winch = oldWinch(new OldWinch());
  await expect(winch.haul(10_000)).rejects.toThrow(
    expect.objectContaining({ message: "haul", cause: expect.any(RangeError) }),
  );
  expect(() => winch.pay(-1)).toThrow(WinchStuck);
});

test("an adapted object takes layers like any other", () => {
  const entries: string[] = [];
  const keep = (_: unknown, message: string) => void entries.push(message);
  decorate(oldWinch(new OldWinch()), logging({ logger: { info: keep, error: keep } })).pay(1);
  expect(entries).toEqual(["pay called", "pay returned"]);
});

describe("an invalid adapter is rejected with its name and the reason", () => {
  test.each([null, undefined])("around %s", (nothing) => {
    expect(() => oldWinch(nothing as never)).toThrow(
      expect.objectContaining({
        code: "NO_SUBJECT",
        message: expect.stringMatching(`The adapter "oldWinch": the adaptee is ${nothing}`),
      }),
    );
  });

  test("around an adaptee that lacks a member", () => {
    expect(() => oldWinch({ brand: "x" } as never)).toThrow(
      /The adapter "oldWinch" maps load to "tons", but an object has no such member/,
    );
  });

  test("with an invalid mapping", () => {
    expect(() => adapter<Winch, OldWinch>({ maker: 7 } as never)).toThrow(
      expect.objectContaining({
        code: "BAD_MAPPING",
        message: expect.stringMatching(/The adapter of maker maps maker to a value of type number/),
      }),
    );
  });
});

test("one adaptee has one wrapper", () => {
  const winch = new OldWinch();
  expect(oldWinch(winch)).toBe(oldWinch(winch));
});

test("functions and modules are adapted too, and a target that is a function", () => {
  const feet = (metres: number) => metres / 0.3048;
  const inMetres = adapter<(feet: number) => number, typeof feet>((convert, given) => given / convert(1));
  expect(inMetres(feet)(feet(2))).toBeCloseTo(2);
  const named = adapter<(a: number, b: number) => number, typeof Math>((math, a, b) => math.max(a, b), {
    name: "largest",
  });
  expect([named(Math).name, named(Math).length, named(Math)(2, 3)]).toEqual(["largest", 2, 3]);
  const sums = adapter<{ largest(of: readonly number[]): number; readonly half: number }, typeof Math>({
    largest: (math, of) => math.max(...of),
    half: { get: (math) => math.SQRT1_2 ** 2 },
  });
  expect([sums(Math).largest([3, 9, 4]), sums(Math).half]).toEqual([9, expect.closeTo(0.5)]);
});

describe("errors", () => {
  class Ours extends Error {}
  class Allowed extends Error {}
  const outside = {
    now(error: unknown): void {
      throw error;
    },
    async later(error: unknown): Promise<void> {
      throw error;
    },
    *each(error: unknown): Generator<number> {
      yield 1;
      throw error;
    },
    async *eachLater(error: unknown): AsyncGenerator<number> {
      yield 1;
      throw error;
    },
  };
  type Outside = typeof outside;
  const names = {
    now: "now",
    later: "later",
    each: "each",
    eachLater: "eachLater",
  } as const;
  const use = async (made: Outside, how: keyof Outside, error: unknown): Promise<unknown> => {
    try {
      const result = made[how](error);
      if (how === "each") return [...(result as Generator)];
      if (how === "eachLater") for await (const _ of result as AsyncGenerator);
      return await result;
    } catch (caught) {
      return caught;
    }
  };

  test("of a thenable that is not a promise are not translated, because subscribing may start its work", async () => {
    let started = 0;
    const query = { then: (resolve: (rows: number) => void) => (started++, resolve(3)) };
    const table = adapter<{ rows(): PromiseLike<number> }, { rows(): PromiseLike<number> }>(
      { rows: "rows" },
      { errors: (cause) => new Ours("ours", { cause }) },
    )({ rows: () => query as never });
    const rows = table.rows();
    expect([rows, started]).toEqual([query, 0]);
    expect([await rows, started]).toEqual([3, 1]);
  });

  test("none escapes untranslated on any path, unless allowed", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...(Object.keys(names) as (keyof Outside)[])),
        fc.oneof(fc.anything(), fc.constant(new Allowed("ok"))),
        async (how, error) => {
          const translate = adapter<Outside, Outside>(names, {
            errors: (cause) => new Ours("ours", { cause }),
            allowed: [Allowed],
          });
          const caught = await use(translate({ ...outside }), how, error);
          if (error instanceof Allowed) expect(caught).toBe(error);
          else {
            expect(caught).toBeInstanceOf(Ours);
            expect(Object.is((caught as Ours).cause, error)).toBe(true);
          }
        },
      ),
    );
  });

  test("an outside object returned unchanged is reported, with classes allowed", async () => {
    const lazy = adapter<Outside, Outside>(names, { errors: (error) => error, allowed: [Allowed] });
    const error = new RangeError("inner pump");
    expect(await use(lazy({ ...outside }), "later", error)).toMatchObject({
      code: "UNTRANSLATED",
      cause: error,
      message: expect.stringContaining(
        "later failed with an error that the adapter neither translates nor allows",
      ),
    });
  });
});

describe("releasing", () => {
  interface Feed {
    level(): number;
    close(): number;
    [Symbol.dispose](): void;
    [Symbol.asyncDispose](): Promise<void>;
  }
  class Pipe {
    shut = 0;
    level(): number {
      return 4;
    }
    shutdown(): number {
      this.shut += 1;
      return 7;
    }
  }
  const mapping = {
    level: "level",
    close: "shutdown",
    [Symbol.dispose]: (pipe: Pipe) => void pipe.shutdown(),
    [Symbol.asyncDispose]: async (pipe: Pipe) => void pipe.shutdown(),
  } as const;
  const ways: readonly ((feed: Feed) => unknown)[] = [
    (feed) => feed.close(),
    (feed) => feed[Symbol.dispose](),
    (feed) => feed[Symbol.asyncDispose](),
  ];

  test("an owner releases its adaptee once, by any release member; a borrower never does", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...ways), { minLength: 1 }), fc.boolean(), (releases, owns) => {
        const pipe = new Pipe();
        const feed = adapter<Feed, Pipe>(mapping, { name: "pipe", owns })(pipe);
        expect(feed.level()).toBe(4);
        for (const release of releases) void release(feed);
        expect(pipe.shut).toBe(owns ? 1 : 0);
        expect(() => feed.level()).toThrow(
          expect.objectContaining({
            code: "RELEASED",
            message: 'The adapter "pipe": level was used after the release. Release the wrapper last.',
          }),
        );
      }),
    );
  });

  test("a second release returns the first result, and a new wrapper can be created", () => {
    const pipe = new Pipe();
    const make = adapter<Feed, Pipe>(mapping, { owns: true });
    const feed = make(pipe);
    expect([feed.close(), feed.close()]).toEqual([7, 7]);
    expect(make(pipe)).not.toBe(feed);
    expect(make(pipe).level()).toBe(4);
  });

  test("an owner without a release member is rejected", () => {
    expect(() => adapter<Pick<Feed, "level">, Pipe>({ level: "level" }, { owns: true })).toThrow(
      expect.objectContaining({ code: "BAD_OPTION" }),
    );
  });
});

describe("classes", () => {
  class Gauge {
    static opened = 0;
    static list(): string[] {
      return ["PE-1"];
    }
    readonly id: string;
    constructor({ id }: { readonly id: string }) {
      if (!id) throw new RangeError("no id");
      this.id = id;
      Gauge.opened += 1;
    }
    feet(): number {
      return 10;
    }
    label(text: string): string {
      return `${this.id}: ${text}`;
    }
    report(): string {
      return this.label(`${this.feet()} ft`);
    }
  }
  interface Depths {
    readonly station: string;
    metres(): number;
  }
  interface DepthsClass {
    new (station: string): Depths;
    stations(): string[];
    opened: number;
  }
  class BadStation extends Error {}

  const PierDepths = classAdapter<DepthsClass, typeof Gauge>(
    Gauge,
    {
      new: (Outside, station) => new Outside({ id: station }),
      members: { station: "id", metres: (gauge) => gauge.feet() * 0.3048 },
      statics: { stations: "list", opened: "opened" },
    },
    { errors: (cause) => new BadStation("bad", { cause }) },
  );

  test("an outside class is adapted with its new and its statics", () => {
    Gauge.opened = 0;
    const depths = new PierDepths("PE-1");
    expect([depths.station, depths.metres(), PierDepths.stations(), PierDepths.opened]).toEqual([
      "PE-1",
      expect.closeTo(3.048),
      ["PE-1"],
      1,
    ]);
    PierDepths.opened = 5;
    expect(Gauge.opened).toBe(5);
    expect([depths instanceof PierDepths, depths instanceof Gauge, "feet" in depths]).toEqual([
      true,
      false,
      false,
    ]);
    expect(() => new PierDepths("")).toThrow(BadStation);
  });

  test("with inheritance, calls of the outside object on itself reach our members", () => {
    const Stamped = inheritingAdapter<
      new (
        station: string,
      ) => { label(text: string): string; half(): number },
      typeof Gauge
    >(Gauge, {
      new: (station) => [{ id: station }],
      members: { label: (gauge, text) => `<${gauge.label(text)}>`, half: (gauge) => gauge.feet() / 2 },
    });
    const gauge = new Stamped("PE-1");
    expect([gauge.report(), gauge.half(), gauge instanceof Gauge, Stamped.list()]).toEqual([
      "<PE-1: 10 ft>",
      5,
      true,
      ["PE-1"],
    ]);
  });
});

test("in both directions, an object that passes twice is the same object", () => {
  interface Bell {
    ring(times: number): string;
  }
  interface Gong {
    strike(): string;
  }
  const bells = twoWay<Bell, Gong>({
    fromOutside: { ring: (gong, times) => Array.from({ length: times }, () => gong.strike()).join(" ") },
    toOutside: { strike: (bell) => bell.ring(1) },
  });
  const bell: Bell = { ring: (times) => "ding".repeat(times) };
  const gong: Gong = { strike: () => "gonnng" };
  expect([bells.toOutside(bell).strike(), bells.fromOutside(gong).ring(2)]).toEqual([
    "ding",
    "gonnng gonnng",
  ]);
  expect(bells.fromOutside(bells.toOutside(bell))).toBe(bell);
  expect(bells.toOutside(bells.fromOutside(gong))).toBe(gong);
  expect(bells.toOutside(bell)).toBe(bells.toOutside(bell));
});

describe("outside conventions", () => {
  test("a callback becomes a promise", async () => {
    expect(await fromCallback<number>((callback) => queueMicrotask(() => callback(null, 4)))).toBe(4);
    await expect(fromCallback((callback) => callback(new RangeError("far")))).rejects.toThrow("far");
  });

  test("an error number becomes an error, and other results pass", () => {
    const errors = { [-3]: () => new RangeError("taken"), 0: () => new TypeError("nothing") };
    fc.assert(
      fc.property(fc.anything(), (answer) => {
        const act = () => fromErrorNumber(answer, errors);
        if (answer === -3 || answer === 0) expect(act).toThrow();
        else expect(Object.is(act(), answer)).toBe(true);
      }),
    );
  });

  test.each(["emitter", "target"] as const)(
    "the events of an %s become an iterator that lets go in the end",
    async (kind) => {
      const emitter = new EventEmitter();
      const listening: Record<string, unknown[]> = {};
      const target = {
        addEventListener: (name: string, listener: () => void) =>
          void (listening[name] ??= []).push(listener),
        removeEventListener: (name: string, listener: () => void) =>
          void listening[name]?.splice(listening[name].indexOf(listener), 1),
      };
      const emit = (name: string, value?: unknown) =>
        kind === "emitter"
          ? emitter.emit(name, value)
          : [...(listening[name] ?? [])].forEach((item) => (item as (value: unknown) => void)(value));
      const count = (name: string) =>
        kind === "emitter" ? emitter.listenerCount(name) : (listening[name]?.length ?? 0);
      const items = fromEvents<number>(kind === "emitter" ? emitter : target, {
        item: "level",
        end: "end",
        error: "fault",
      });
      const first = items.next();
      emit("level", 1);
      emit("level", 2);
      expect([await first, await items.next()]).toEqual([
        { done: false, value: 1 },
        { done: false, value: 2 },
      ]);
      const rest = items.next();
      emit("fault", new RangeError("stuck"));
      await expect(rest).rejects.toThrow("stuck");
      expect(["level", "end", "fault"].map(count)).toEqual([0, 0, 0]);
    },
  );

  test("events end with the last one, on leaving the loop, by a signal, and when the buffer is full", async () => {
    const feed = new EventEmitter();
    const read = async (options = {}, leaveAfter = 99) => {
      const seen: number[] = [];
      for await (const value of fromEvents<number>(feed, { item: "level", end: "end" }, options)) {
        seen.push(value);
        if (seen.length === leaveAfter) break;
      }
      return seen;
    };
    const all = read();
    const one = read({}, 1);
    const controller = new AbortController();
    const aborted = read({ signal: controller.signal });
    const few = read({ maxBuffered: 2 });
    for (const value of [1, 2, 3]) feed.emit("level", value);
    controller.abort(new Error("enough"));
    feed.emit("end");
    expect([await all, await one]).toEqual([[1, 2, 3], [1]]);
    await expect(aborted).rejects.toThrow("enough");
    await expect(few).rejects.toMatchObject({ code: "QUEUE_FULL" });
    expect(feed.eventNames()).toEqual([]);
  });
});

describe("ownership", () => {
  class Registry {
    readonly released: string[] = [];
    isOpen = true;
    publish(version: string): string {
      this.released.push(version);
      return version;
    }
    shutdown(): void {
      if (!this.isOpen) throw new Error("closed twice");
      this.isOpen = false;
    }
  }
  class Unavailable extends Error {}
  interface Releases {
    release(version: string): string;
    close(): void;
  }
  const releases = adapter<Releases, Registry>(
    { release: (registry, version) => registry.publish(version), close: "shutdown" },
    { owns: true, errors: (cause) => new Unavailable("no registry", { cause }) },
  );

  test("is not ended by a member that is only named like a release", () => {
    const registry = new Registry();
    const wrapper = releases(registry);
    expect([wrapper.release("1.0"), wrapper.release("1.1"), registry.released]).toEqual([
      "1.0",
      "1.1",
      ["1.0", "1.1"],
    ]);
    wrapper.close();
    wrapper.close();
    expect(registry.isOpen).toBe(false);
    expect(() => wrapper.release("1.2")).toThrow(expect.objectContaining({ code: "RELEASED" }));
  });

  test("passes the library's own contract", async () => {
    const target = contract<Releases>("Releases", {
      surface: { release: "method", close: "method" },
      arguments: { release: [fc.constantFrom("1.0", "1.1")] },
      errors: [Unavailable],
      reference: () => {
        let isOpen = true;
        return {
          release(version) {
            if (!isOpen) throw new Unavailable("closed");
            return version;
          },
          close() {
            isOpen = false;
          },
        };
      },
    });
    const report = await checkContract(target, {
      registry: adapterOf<Releases, Registry>({
        adaptee: () => new Registry(),
        wrap: (registry) => releases(registry),
        owns: true,
      }),
    });
    expect(report.implementations[0]?.checks.length).toBeGreaterThan(3);
    expect(
      report.implementations.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings)),
    ).toEqual([]);
  });
});
