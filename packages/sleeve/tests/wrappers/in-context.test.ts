import fc from "fast-check";
import {
  type AccessRequest,
  access,
  between,
  cached,
  decorate,
  deep,
  guard,
  inContext,
  type LogEntry,
  layer,
  logging,
  retrying,
  timing,
} from "sleeve";
import { describe, expect, test } from "vitest";

interface Request {
  readonly id: number;
  readonly user: string;
}

class Ledger {
  #booked = 0;
  harbour = "Port Ellery";
  get booked(): number {
    return this.#booked;
  }
  set booked(count: number) {
    this.#booked = count;
  }
  book(berth: number): number {
    if (berth < 0) throw new RangeError("no such berth");
    this.#booked += berth;
    return this.#booked;
  }
  async later(berth: number): Promise<number> {
    await null;
    return berth;
  }
  itself(): this {
    return this;
  }
  isSame(other: unknown): boolean {
    return other === this;
  }
}

/** Records which context each call of a member came with. */
function noting(seen: unknown[]) {
  return layer<Ledger, Request>("noting", {
    call:
      (next, { label }) =>
      (call) => {
        seen.push([label, call.context.id]);
        return next(call);
      },
  });
}

const request = (id: number, user = "Ada Brook"): Request => ({ id, user });

describe("a subject in the context of a request", () => {
  test("behaves as the subject does, and its layers receive the context", () => {
    const seen: unknown[] = [];
    const ledgerFor = inContext(new Ledger(), noting(seen));
    const [first, second] = [ledgerFor(request(1)), ledgerFor(request(2))];
    expect([first.book(3), second.book(4), first.booked, first.harbour]).toEqual([3, 7, 7, "Port Ellery"]);
    first.booked = 9;
    expect(second.booked).toBe(9);
    expect(first instanceof Ledger).toBe(true);
    expect(first.itself()).toBe(first);
    expect(first.isSame(first)).toBe(true);
    expect(() => first.book(-1)).toThrow(RangeError);
    expect(seen.slice(0, 2)).toEqual([
      ["book", 1],
      ["book", 2],
    ]);
  });

  test("keeps its context in calls that interleave, and in those of retried and nested calls", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(9), fc.nat(3)), { minLength: 1, maxLength: 12 }),
        async (calls) => {
          const seen: unknown[] = [];
          let attempts = 0;
          const gauge = {
            read: async (berth: number): Promise<number> => {
              attempts += 1;
              if (attempts % 2 === 1) throw new Error("no answer");
              return berth;
            },
          };
          const gaugeFor = inContext(
            gauge,
            retrying({ only: ["read"], attempts: 9, delay: 0 }),
            layer<typeof gauge, Request>("noting", {
              call: (next) => (call) => {
                seen.push([call.context.id, call.args[0]]);
                return next(call);
              },
            }),
          );
          const results = await Promise.all(calls.map(([berth, id]) => gaugeFor(request(id)).read(berth)));
          expect(results).toEqual(calls.map(([berth]) => berth));
          const pairs = new Set(calls.map(([berth, id]) => `${id} ${berth}`));
          expect(new Set(seen.map((pair) => (pair as number[]).join(" ")))).toEqual(pairs);
        },
      ),
      { numRuns: 20 },
    );
  });

  test("is decided on by access checks, and logged with fields of the request", () => {
    const entries: LogEntry[] = [];
    const keep = (entry: LogEntry) => void entries.push(entry);
    const ledgerFor = inContext(
      new Ledger(),
      logging({ logger: { info: keep, error: keep }, fields: ({ id }: Request) => ({ request: id }) }),
      access(
        ({ member, context }: AccessRequest<Request>) => member !== "book" || context.user === "Ada Brook",
      ),
      guard<Ledger>({ book: [between(-1, 24)] }),
    );
    expect(ledgerFor(request(1)).book(3)).toBe(3);
    expect(() => ledgerFor(request(2, "Tom Hale")).book(3)).toThrow(
      expect.objectContaining({ code: "DENIED" }),
    );
    expect(() => ledgerFor(request(3)).book(25)).toThrow(expect.objectContaining({ code: "NOT_ALLOWED" }));
    const shown = entries.map((entry) => [Reflect.get(entry, "request"), entry.event]);
    expect(shown).toEqual([
      [1, "called"],
      [1, "returned"],
      [2, "called"],
      [2, "threw"],
      [3, "called"],
      [3, "threw"],
    ]);
  });

  test("can have a logger of its own, and cached results of its own", () => {
    const lines: string[] = [];
    const loggerFor = ({ id }: Request) => ({
      info: (entry: LogEntry) => void lines.push(`${id} ${entry.member} ${entry.event}`),
      error: () => {},
    });
    const ledgerFor = inContext(
      new Ledger(),
      logging({ loggerFor, only: ["book"] }),
      cached({ only: ["book"], key: (args, _member, { user }: Request) => `${user} ${args.join()}` }),
    );
    const [ada, tom] = [ledgerFor(request(1)), ledgerFor(request(2, "Tom Hale"))];
    expect([ada.book(3), ada.book(3), tom.book(3)]).toEqual([3, 3, 6]);
    expect(lines).toHaveLength(6);
    expect(lines[4]).toBe("2 book called");
  });

  test("can cancel the delays of retries", async () => {
    const controller = new AbortController();
    let attempts = 0;
    const gauge = {
      read: async (): Promise<number> => {
        attempts += 1;
        controller.abort();
        throw new Error("no answer");
      },
    };
    const gaugeFor = inContext(
      gauge,
      retrying({ only: ["read"], signalFor: ({ signal }: { signal: AbortSignal }) => signal }),
    );
    await expect(gaugeFor({ signal: controller.signal }).read()).rejects.toBe(controller.signal.reason);
    expect(attempts).toBe(1);
  });

  test("may be a function", () => {
    const seen: number[] = [];
    const counting = layer<unknown, Request>("counting", {
      call: (next) => (call) => {
        seen.push(call.context.id);
        return next(call);
      },
    });
    const doubleFor = inContext((value: number) => value * 2, counting);
    expect([doubleFor(request(1))(4), doubleFor(request(2))(5)]).toEqual([8, 10]);
    expect(seen).toEqual([1, 2]);
  });

  test("has no context for what is used in another way", () => {
    const { book } = inContext(new Ledger(), noting([]))(request(1));
    expect(() => book.call({} as Ledger, 1)).toThrow(expect.objectContaining({ code: "NO_CONTEXT" }));
    const again = layer<Ledger, Request>("again", {
      call: () => (call) => (call.wrapper as Ledger).book(1),
    });
    expect(() => inContext(new Ledger(), again)(request(1)).book(2)).toThrow(
      expect.objectContaining({ code: "NO_CONTEXT" }),
    );
  });

  test("is that of the wrapper which an object inherits from", () => {
    const seen: [string, number][] = [];
    const wrapper = inContext(new Ledger(), noting(seen))(request(7));
    const inheriting = Object.create(wrapper) as Ledger;
    inheriting.book(1);
    expect(seen).toEqual([["book", 7]]);
    expect(() => new Proxy(wrapper, {}).book(1)).toThrow(
      expect.objectContaining({ code: "NO_CONTEXT", message: expect.stringContaining("a Proxy around one") }),
    );
  });

  test.each([
    ["logging", logging({ fields: (given: Request) => ({ id: given.id }) })],
    ["logging", logging({ loggerFor: (_: Request) => ({ info: () => {}, error: () => {} }) })],
    ["retrying", retrying({ only: ["book"], signalFor: (_: Request) => AbortSignal.abort() })],
  ] as const)("is required by a layer that needs one: %s", (name, needing) => {
    const message = expect.stringContaining(
      `the layer "${name}" needs the context of a request. Use inContext(`,
    );
    expect(() => decorate({ book: async () => {} }, needing as never)).toThrow(
      expect.objectContaining({ code: "NO_CONTEXT", message }),
    );
  });

  test("is suggested where a check fails without one", () => {
    const checked = access(({ context }: AccessRequest<Request>) => context.id > 0);
    expect(() => decorate(new Ledger(), checked as never).book(1)).toThrow(
      expect.objectContaining({ code: "DENIED", message: expect.stringContaining("wrap with inContext()") }),
    );
  });

  test("plans nothing for a request", () => {
    let planned = 0;
    const counting = layer<Ledger, Request>("counting", {
      call: (next) => {
        planned += 1;
        return next;
      },
    });
    const ledgerFor = inContext(new Ledger(), counting);
    const before = planned;
    for (let id = 0; id < 100; id += 1) ledgerFor(request(id)).book(1);
    expect([before > 0, planned]).toEqual([true, before]);
  });

  test("is refused for a class, with a layer that hides members, and for inner objects", () => {
    expect(() => inContext(Ledger)).toThrow(expect.objectContaining({ code: "BAD_OPTION" }));
    expect(() => inContext({ part: { size: () => 3 } }, deep())).toThrow(
      expect.objectContaining({ code: "BAD_OPTION", message: expect.stringContaining("deep()") }),
    );
    expect(() =>
      inContext(
        new Ledger(),
        access(() => true, { onDenied: "hide" }),
      ),
    ).toThrow(
      expect.objectContaining({ code: "BAD_OPTION", message: expect.stringContaining("hides members") }),
    );
  });
});

/** Checked by the compiler: a layer that needs a context cannot be used without one. */
function typed(ledger: Ledger): void {
  const needing = layer<Ledger, Request>("needing", { call: (next) => (call) => next(call) });
  // @ts-expect-error
  decorate(ledger, needing);
  const ledgerFor = inContext(ledger, needing, timing({ onSample: () => {} }));
  // @ts-expect-error
  ledgerFor({ id: "one" });
  ledgerFor(request(1));
}

void typed;
