import fc from "fast-check";
import { adapter, decorate, logging } from "sleeve";
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

test("what goes through a pair of conversions comes back as it went in", async () => {
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
  decorate(oldWinch(new OldWinch()), logging({ to: { info: keep, error: keep } })).pay(1);
  expect(entries).toEqual(["pay called", "pay returned"]);
});

describe("an adapter that cannot be made says which one and why", () => {
  test.each([null, undefined])("around %s", (nothing) => {
    expect(() => oldWinch(nothing as never)).toThrow(
      expect.objectContaining({
        code: "NO_SUBJECT",
        message: expect.stringMatching(
          `The adapter "oldWinch" was given ${nothing} where its adaptee should be`,
        ),
      }),
    );
  });

  test("around an adaptee that lacks a member", () => {
    expect(() => oldWinch({ brand: "x" } as never)).toThrow(
      /The adapter "oldWinch" has load from "tons", but an object has no such member/,
    );
  });

  test("with a mapping that is none", () => {
    expect(() => adapter<Winch, OldWinch>({ maker: 7 } as never)).toThrow(
      expect.objectContaining({
        code: "BAD_MAPPING",
        message: expect.stringMatching(/The adapter of maker maps maker to a value of type number/),
      }),
    );
  });
});
