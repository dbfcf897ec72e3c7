import fc from "fast-check";
import { access, decorate, deep, explain, logging, ProxyControl, proxy, type Surface } from "sleeve";
import { describe, expect, test } from "vitest";

class Ledger {
  #booked: string[] = [];
  readonly office = "Port Ellery";
  book(vessel: string): this {
    this.#booked.push(vessel);
    return this;
  }
  get count(): number {
    return this.#booked.length;
  }
  async later(vessel: string): Promise<string> {
    return vessel;
  }
  self(): { readonly ledger: Ledger } {
    return { ledger: this };
  }
}

const surface: Surface<Ledger> = {
  office: "property",
  book: "method",
  count: "property",
  later: "method",
  self: "method",
};

const ways = {
  "nothing known": undefined,
  "its class": Ledger,
  "its surface": surface,
} as const;

describe.each(Object.entries(ways))("a proxy with %s", (_, known) => {
  test("creates its subject at first use, once", () => {
    let made = 0;
    const ledger = proxy(() => (made++, new Ledger()), known ? { surface: known } : {});
    expect(made).toBe(0);
    expect(ledger.book("Marigold").book("Tern").count).toBe(2);
    expect([ledger.office, made]).toEqual(["Port Ellery", 1]);
  });

  test("returns itself where the subject returns itself", () => {
    const ledger = proxy(() => new Ledger(), known ? { surface: known } : {});
    expect(ledger.book("Marigold")).toBe(ledger);
  });

  test("creates it once for concurrent calls, if creation is asynchronous", async () => {
    let made = 0;
    const ledger = proxy(
      async () => {
        made += 1;
        await null;
        return new Ledger();
      },
      known ? { surface: known } : {},
    );
    const names = ["Marigold", "Tern", "Petrel"];
    expect(await Promise.all(names.map((name) => ledger.later(name)))).toEqual(names);
    expect(made).toBe(1);
  });

  test("retries a failed creation at the next use", async () => {
    let attempts = 0;
    const failing = () => {
      attempts += 1;
      if (attempts % 2 === 1) throw new RangeError("not yet");
      return new Ledger();
    };
    const sync = proxy(failing, known ? { surface: known } : {});
    expect(() => sync.later("x")).toThrow("not yet");
    expect(await sync.later("x")).toBe("x");
    const later = proxy(async () => failing(), known ? { surface: known } : {});
    await expect(later.later("x")).rejects.toThrow("not yet");
    expect(await later.later("x")).toBe("x");
    expect(attempts).toBe(4);
  });

  test("is replaced transparently: calls finish on the subject where they began", async () => {
    const released: number[] = [];
    let made = 0;
    const gates: (() => void)[] = [];
    class Numbered extends Ledger {
      readonly number = ++made;
      override async later(vessel: string): Promise<string> {
        await new Promise<void>((open) => gates.push(open));
        return `${vessel} ${this.number}`;
      }
    }
    const control = new ProxyControl();
    const ledger = proxy(() => new Numbered(), {
      ...(known && { surface: known as Surface<Numbered> }),
      control,
      release: ({ number }) => released.push(number),
    });
    const first = ledger.later("Tern");
    const idle = control.replace();
    const second = ledger.later("Tern");
    expect(released).toEqual([]);
    for (const open of gates) open();
    expect(await Promise.all([first, second])).toEqual(["Tern 1", "Tern 2"]);
    await idle;
    expect(released).toEqual([1]);
  });

  test("throws after it was revoked, also for calls in flight", async () => {
    const control = new ProxyControl();
    let settle = (_: string) => {};
    class Slow extends Ledger {
      override later(_vessel: string): Promise<string> {
        return new Promise((resolve) => {
          settle = resolve;
        });
      }
    }
    const ledger = proxy(() => new Slow(), { ...(known && { surface: known as Surface<Slow> }), control });
    const pending = ledger.later("Tern");
    void control.revoke("the lease is over");
    settle("secret");
    await expect(pending).rejects.toMatchObject({ code: "REVOKED", message: /the lease is over/ });
    for (const use of [() => ledger.book("x"), () => ledger.count])
      expect(use).toThrow(expect.objectContaining({ code: "REVOKED" }));
    await expect(ledger.later("y")).rejects.toMatchObject({ code: "REVOKED" });
  });
});

test("a proxy that knows its members shows them before there is a subject, and can be tested for a promise", async () => {
  let made = 0;
  const create = () => (made++, new Ledger());
  const bySurface = proxy(create, { surface });
  const byClass = proxy(create, { surface: Ledger });
  expect(Object.keys(bySurface)).toEqual(Object.keys(surface));
  expect("book" in byClass && byClass instanceof Ledger).toBe(true);
  expect(typeof byClass.book).toBe("function");
  expect(await Promise.all([bySurface, byClass, proxy(create)])).toHaveLength(3);
  expect(explain(decorate(bySurface, logging())).members.map(({ member }) => member)).toContain("book");
  expect(made).toBe(0);
});

test("a call rejected by a layer creates no subject, and the subject is returned as the proxy", () => {
  let made = 0;
  const ledger = proxy(() => (made++, new Ledger()), {
    surface,
    layers: [access(({ member }) => member !== "book")],
  });
  expect(() => ledger.book("Tern")).toThrow(expect.objectContaining({ code: "DENIED" }));
  expect(made).toBe(0);
  const { ledger: inner } = ledger.self();
  expect(inner).toBe(ledger);
  expect(() => inner.book("Tern")).toThrow(expect.objectContaining({ code: "DENIED" }));
});

test("a proxy with unknown members accepts layers, also in deep mode", () => {
  const entries: string[] = [];
  const keep = (_: unknown, message: string) => void entries.push(message);
  const ledger = proxy(() => new Ledger(), {
    layers: [deep(), logging({ logger: { info: keep, error: keep } })],
  });
  ledger.self().ledger.book("Tern");
  expect(entries).toEqual(["self called", "self returned", "book called", "book returned"]);
});

test("every call reaches a complete subject, for any order of uses and replacements", async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.constantFrom("call", "replace", "fail"), { maxLength: 30 }),
      async (steps) => {
        let fails = false;
        let alive = 0;
        const control = new ProxyControl();
        const ledger = proxy(
          async () => {
            if (fails) throw new RangeError("no ledger");
            alive += 1;
            return new Ledger();
          },
          { surface, control, release: () => alive-- },
        );
        const calls: Promise<unknown>[] = [];
        for (const step of steps) {
          fails = step === "fail";
          if (step === "replace") await control.replace();
          else calls.push(ledger.later("Tern").catch((error: unknown) => error));
        }
        const answers = await Promise.all(calls);
        expect(answers.every((answer) => answer === "Tern" || answer instanceof RangeError)).toBe(true);
        await control.revoke();
        expect(alive).toBe(0);
      },
    ),
  );
});

test("every case is listed", () => {
  expect([Object.keys(ways).length]).toEqual([3]);
});
