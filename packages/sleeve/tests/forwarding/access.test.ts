import { EventEmitter } from "node:events";
import { inspect } from "node:util";
import { access, bridge, deep, explain, layer, logging, override, ProxyControl, proxy } from "sleeve";
import { describe, expect, test } from "vitest";
import { decorateAny as decorate } from "../decorate-any.ts";

const SECRET = "the combination is 4711";
const CODE = Symbol("code");
const OPEN = Symbol("open");

class Drawer {
  readonly vault: Vault;
  constructor(vault: Vault) {
    this.vault = vault;
  }
  up(): Vault {
    return this.vault;
  }
}

class Vault extends EventEmitter {
  static readonly master = SECRET;
  static make(): Vault {
    return new Vault();
  }
  readonly #secret = SECRET;
  secretField = SECRET;
  [CODE] = SECRET;
  visits = 0;
  readonly drawer: Drawer = new Drawer(this);
  readonly arrow = (): string => this.#secret;
  get secretNow(): string {
    return this.#secret;
  }
  reveal(): string {
    return this.#secret;
  }
  [OPEN](): string {
    return this.#secret;
  }
  async revealLater(): Promise<string> {
    return this.#secret;
  }
  greet(): string {
    this.visits += 1;
    return "good day";
  }
  fluent(): this {
    return this;
  }
  async later(): Promise<this> {
    return this;
  }
  seen(): Vault {
    return decorate(this as Vault, logging({ logger: { info() {}, error() {} } }));
  }
  inheriting(): Vault {
    return Object.create(this);
  }
  inner(): Drawer {
    return this.drawer;
  }
  list(): readonly object[] {
    return [this, this.drawer];
  }
  map(): ReadonlyMap<string, object> {
    return new Map([["vault", this]]);
  }
  record(): { readonly vault: Vault } {
    return { vault: this };
  }
  call(back: (vault: Vault) => unknown): unknown {
    return back(this);
  }
  callBound(back: (this: Vault) => unknown): unknown {
    return back.call(this);
  }
  failing(): never {
    throw Object.assign(new Error("stuck"), { vault: this, cause: this });
  }
  async failingLater(): Promise<never> {
    throw new AggregateError([this], "stuck", { cause: { vault: this } });
  }
  *[Symbol.iterator](): Generator<Vault> {
    yield this;
  }
  async *[Symbol.asyncIterator](): AsyncGenerator<Vault> {
    yield this;
  }
  pair(): { readonly open: () => string } {
    return { open: () => this.#secret };
  }
  opener(): { open(): string } {
    const vault = this;
    return {
      open() {
        return vault === (this as unknown) ? SECRET : "shut";
      },
    };
  }
  equals(other: unknown): boolean {
    return other === this;
  }
  put(key: string, value: unknown): void {
    Reflect.set(this, key, value);
  }
  emitSelf(): void {
    this.emit("opened", this);
  }
}

const ALLOWED: ReadonlySet<string> = new Set([
  "greet", "fluent", "seen", "inheriting", "later", "inner", "list", "map", "record", "call", "callBound", "failing", "failingLater",
  "pair", "opener", "equals", "put", "emitSelf", "on", "once", "drawer", "visits", "Symbol(Symbol.iterator)", "Symbol(Symbol.asyncIterator)",
]); // biome-ignore format: a list

/** All allowed uses reach the vault, and none exposes a denied member. */
const may = ({ member, use }: { member: string; use: string }) => ALLOWED.has(member) && use !== "write";

type Attempt = (vault: Vault) => unknown;
const thief = { stolen: undefined as unknown };

const attempts: Readonly<Record<string, Attempt>> = {
  "a plain call": (vault) => vault.reveal(),
  "an optional call": (vault) => vault.reveal?.(),
  "a getter": (vault) => vault.secretNow,
  "a field": (vault) => vault.secretField,
  "a symbol's field": (vault) => vault[CODE],
  "a symbol's method": (vault) => vault[OPEN](),
  "a function that it holds": (vault) => vault.arrow(),
  "a promise": (vault) => vault.revealLater(),
  "Reflect.get": (vault) => Reflect.get(vault, "secretField"),
  "Reflect.get with another receiver": (vault) => Reflect.get(vault, "secretNow", {}),
  "Reflect.apply of the class's method": (vault) => Reflect.apply(Vault.prototype.reveal, vault, []),
  "a borrowed method": (vault) => Vault.prototype.reveal.call(vault),
  "a method bound to it": (vault) => Vault.prototype.reveal.bind(vault)(),
  "a borrowed getter": (vault) =>
    Object.getOwnPropertyDescriptor(Vault.prototype, "secretNow")?.get?.call(vault),
  __lookupGetter__: (vault) =>
    (vault as never as { __lookupGetter__(key: string): (() => unknown) | undefined })
      .__lookupGetter__("secretNow")
      ?.call(vault),
  "its prototype": (vault) => (Object.getPrototypeOf(vault) as Vault).reveal.call(vault),
  "its prototype's getter": (vault) =>
    Reflect.get(Object.getPrototypeOf(vault) as object, "secretNow", vault),
  "the accessor of its prototype": (vault) => (Reflect.get(vault, "__proto__") as Vault).reveal.call(vault),
  "its constructor": (vault) => new (vault.constructor as typeof Vault)().reveal(),
  "its constructor's statics": (vault) => (vault.constructor as typeof Vault).master,
  "its constructor's prototype": (vault) => (vault.constructor.prototype as Vault).reveal.call(vault),
  "an allowed method's constructor": (vault) => vault.greet.constructor("return this")() && vault.reveal(),
  "an allowed method's properties": (vault) =>
    Reflect.ownKeys(vault.greet).map((key) => Reflect.get(vault.greet, key)),
  spread: (vault) => ({ ...vault }),
  "Object.assign": (vault) => Object.assign({}, vault),
  "Object.entries": (vault) => Object.entries(vault),
  "Object.values": (vault) => Object.values(vault),
  "its own property descriptors": (vault) => {
    const found = Object.getOwnPropertyDescriptors(vault) as Record<string, PropertyDescriptor>;
    return Object.values(found).map(({ value, get }) =>
      typeof value === "function" ? value() : (value ?? get?.call(vault)),
    );
  },
  "for in": (vault) => {
    const found: unknown[] = [];
    for (const key in vault) found.push(vault[key as keyof Vault]);
    return found;
  },
  JSON: (vault) => JSON.stringify(vault),
  structuredClone: (vault) => structuredClone(vault),
  inspect: (vault) => inspect(vault, { showHidden: true, depth: 9, getters: true }),
  "inspect with proxies shown": (vault) => inspect(vault, { showProxy: true, showHidden: true, depth: 9 }),
  "string conversion": (vault) => `${vault}${String(vault)}`,
  "number conversion": (vault) => +(vault as never),
  "a returned this": (vault) => vault.fluent().reveal(),
  "a wrapper of its own making": (vault) => vault.seen().reveal(),
  "a field of an inheriting object that it created": (vault) => vault.inheriting().secretField,
  "the prototype of an inheriting object": (vault) => Object.getPrototypeOf(vault.inheriting()).secretField,
  "a promised this": async (vault) => (await vault.later()).reveal(),
  "a promise's own then": (vault) =>
    Promise.prototype.then.call(vault.later(), (item: unknown) => (item as Vault).reveal()),
  "a child's way back": (vault) => vault.inner().vault.reveal(),
  "a child's method that leads back": (vault) => vault.inner().up().reveal(),
  "a property's way back": (vault) => vault.drawer.up().reveal(),
  "an element": (vault) => (vault.list()[0] as Vault).reveal(),
  "elements by iteration": (vault) => vault.list().map((item) => (item as Vault).reveal?.()),
  "destructured elements": (vault) => {
    const [first] = vault.list();
    return (first as Vault).secretField;
  },
  "a map's value": (vault) => (vault.map().get("vault") as Vault).reveal(),
  "a map by iteration": (vault) => [...vault.map().values()].map((item) => (item as Vault).reveal()),
  "a record": (vault) => vault.record().vault.reveal(),
  "a spread record": (vault) => ({ ...vault.record() }).vault.secretField,
  "an iterator": (vault) => [...vault].map((vault) => vault.reveal()),
  "an iterator's steps": (vault) => vault[Symbol.iterator]().next().value.secretField,
  "an async iterator": async (vault) => {
    for await (const candidate of vault as never as AsyncIterable<Vault>) return candidate.reveal();
    return undefined;
  },
  "a callback's argument": (vault) => vault.call((vault) => vault.reveal()),
  "a callback's kept argument": (vault) => {
    vault.call((vault) => {
      thief.stolen = vault;
    });
    return (thief.stolen as Vault).reveal();
  },
  "a callback's this": (vault) =>
    vault.callBound(function () {
      return this.reveal();
    }),
  "a callback's arguments": (vault) =>
    vault.call(function () {
      // biome-ignore lint/complexity/noArguments: what is tried
      return (arguments[0] as Vault).secretField;
    } as never),
  "an event's argument": (vault) => {
    let found: unknown;
    vault.on("opened", (vault: Vault) => {
      found = vault.secretField;
    });
    vault.emitSelf();
    return found;
  },
  "an event's this": (vault) => {
    let found: unknown;
    vault.once("opened", function (this: Vault) {
      found = this.secretField;
    });
    vault.emitSelf();
    return found;
  },
  "an error": (vault) => {
    try {
      return vault.failing();
    } catch (error) {
      return (error as { vault: Vault }).vault.reveal();
    }
  },
  "an error's cause": (vault) => {
    try {
      return vault.failing();
    } catch (error) {
      return ((error as Error).cause as Vault).secretField;
    }
  },
  "a rejection's cause": (vault) =>
    vault.failingLater().catch((error: Error) => (error.cause as { vault: Vault }).vault.reveal()),
  "a rejection's errors": (vault) =>
    vault.failingLater().catch((error: AggregateError) => (error.errors[0] as Vault).reveal()),
  "a refusal's error": (vault) => {
    try {
      return vault.reveal();
    } catch (error) {
      return inspect(error, { showHidden: true, depth: 9 });
    }
  },
  "the language's map of one": (vault) =>
    Array.prototype.map.call([vault], (item: unknown) => (item as Vault).reveal()),
  "EventEmitter's own code": (vault) => EventEmitter.prototype.emit.call(vault, "opened", vault),
  "its listeners": (vault) => Reflect.get(vault, "_events"),
  "an overwritten member": (vault) => {
    vault.greet = vault.reveal;
    return vault.greet();
  },
  "a defined member": (vault) => {
    Object.defineProperty(vault, "greet", { get: () => vault.secretField });
    return vault.greet;
  },
  "a deleted check": (vault) => {
    Reflect.deleteProperty(vault, "secretField");
    return vault.secretField;
  },
  "another prototype": (vault) => {
    Object.setPrototypeOf(vault, {
      steal(this: Vault) {
        return this.secretField;
      },
    });
    return (vault as never as { steal(): string }).steal();
  },
  "an inheriting object": (vault) => (Object.create(vault) as Vault).reveal(),
  "a getter of an inheriting object": (vault) => (Object.create(vault) as Vault).secretNow,
  "a subclass with its prototype": (vault) => {
    function Thief() {}
    Thief.prototype = vault;
    return (Reflect.construct(Thief as never, []) as Vault).reveal();
  },
  "a proxy around it": (vault) =>
    new Proxy(vault, { get: (target, key) => Reflect.get(target, key, target) }).reveal(),
  "a thenable that is handed in": (vault) =>
    vault.call((vault) =>
      Promise.resolve({ then: (resolve: (value: unknown) => void) => resolve(vault.secretField) }),
    ),
  "itself handed back to it": (vault) => (vault.equals(vault) ? vault.fluent().reveal() : "not itself"),
  "a getter handed in": (vault) => {
    vault.put("send", (vault: Vault) => vault.secretField);
    return vault.call((vault) => Reflect.get(vault, "send")(vault));
  },
  "a method of its own that is handed in": (vault) => vault.call(Vault.prototype.reveal as never),
  "a method of its own as a callback with this": (vault) => vault.callBound(Vault.prototype.reveal as never),
  "a layer of the client's own": (vault) => {
    const layers = layer("thief", { call: (next) => (call) => next({ ...call, wrapper: {} as object }) });
    return decorate(vault, layers).reveal();
  },
  "what a layer of the client's sees": (vault) => {
    const seen: unknown[] = [];
    const layers = layer("thief", {
      call: (next) => (call) => (seen.push(call.wrapper, ...call.args), next(call)),
    });
    decorate(vault, layers).greet();
    return seen.map((outcome) => (outcome as Vault).reveal());
  },
  "a deep wrapper of the client's own": (vault) => decorate(vault, deep()).inner().vault.reveal(),
  "a second wrapper": (vault) => decorate(vault, logging({ logger: { info() {}, error() {} } })).secretField,
  explain: (vault) => JSON.stringify(explain(vault)),
  "a member of another object, bound": (vault) => vault.opener().open.call(vault as never),
  in: (vault) => ("reveal" in vault ? vault.reveal() : "absent"),
  "instanceof and back": (vault) => (vault instanceof Vault ? (vault as Vault).reveal() : "not known"),
  "a private field": (vault) => {
    class Reader extends (((object: object) => object) as never as new (object: object) => object) {
      #mark = 1;
      static has(object: object): boolean { return #mark in object; }
    } // biome-ignore format: a known trick
    new Reader(vault);
    return Reader.has(vault) ? (vault as Vault).reveal() : "unmarked";
  },
};

/** Whether a result contains the secret, or is the vault itself. */
function holdsSecret(value: unknown, real: object, depth = 0, seen = new Set<unknown>()): boolean {
  if (typeof value === "string") return value.includes(SECRET);
  if (value === real) return true;
  if (
    (typeof value !== "object" && typeof value !== "function") ||
    value === null ||
    depth > 4 ||
    seen.has(value)
  )
    return false;
  seen.add(value);
  return Reflect.ownKeys(value).some((key) => {
    try {
      return holdsSecret(Reflect.get(value, key), real, depth + 1, seen);
    } catch {
      return false;
    }
  });
}

const checks = {
  throwing: (real: Vault) => decorate(real, access(may)),
  absent: (real: Vault) => decorate(real, access(may, { onDenied: "hide" })),
  deep: (real: Vault) => decorate(real, deep(), access(may)),
  "logged outside": (real: Vault) =>
    decorate(real, logging({ logger: { info() {}, error() {} } }), access(may)),
  "logged inside": (real: Vault) =>
    decorate(real, access(may), logging({ logger: { info() {}, error() {} } })),
  "at first use": (real: Vault) => proxy(() => real, { layers: [access(may)] }),
  "at first use, of a wrapper": (real: Vault) =>
    proxy(() => decorate(real, logging({ logger: { info() {}, error() {} } })), { layers: [access(may)] }),
  "a refined abstraction": (real: Vault) =>
    decorate(
      bridge<Vault>({ real }, { start: "real" }).refine((port) => ({
        twice: () => [port.greet(), port.greet()],
      })),
      access(may),
    ),
  "an overridden object": (real: Vault) =>
    decorate(
      override(real, () => ({ emitSelf() {} })),
      access(may),
    ),
  "beside another proxy of the same": (real: Vault) => {
    const checked = proxy(() => real, { layers: [access(may)] });
    const other = proxy(() => real);
    expect([checked.greet(), other.greet()]).toEqual(["good day", "good day"]);
    return checked;
  },
  "beside another bridge to the same": (real: Vault) => {
    const checked = decorate(bridge<Vault>({ real }, { start: "real" }).port, access(may));
    const other = bridge<Vault>({ real }, { start: "real" }).port;
    expect([checked.greet(), other.greet()]).toEqual(["good day", "good day"]);
    return checked;
  },
  "made by a checked class": (real: Vault) => {
    // The class constructs the vault that the attempt is checked on.
    class Made extends Vault {
      constructor() {
        super();
        // biome-ignore lint/correctness/noConstructorReturn: see above
        return real as Made;
      }
    }
    const Checked = decorate(
      Made,
      access((request) => request.use === "construct" || may(request)),
    );
    return new Checked();
  },
  "behind a bridge": (real: Vault) => decorate(bridge<Vault>({ real }, { start: "real" }).port, access(may)),
} as const;

test("at least sixty attacks on an access check are tried", () => {
  expect(Object.keys(attempts).length).toBeGreaterThanOrEqual(60);
});

describe.each(Object.entries(checks))("no attack bypasses an access check, %s", (_, check) => {
  test.each(Object.entries(attempts))("%s", async (_, attempt) => {
    const real = new Vault();
    const wrapper = check(real);
    let found: unknown;
    try {
      found = await attempt(wrapper);
    } catch (error) {
      found = error;
    }
    expect(holdsSecret(found, real)).toBe(false);
    expect(real.greet()).toBe("good day");
    expect(real.secretField).toBe(SECRET);
  });
});

describe("an access check", () => {
  test("decides by the use, member and arguments of a request", () => {
    const requested: string[] = [];
    const ledger = decorate(
      { rows: 3, book: (berth: number) => berth },
      access(({ use, member, args }) => {
        requested.push(`${use} ${member} ${args.join()}`);
        return use !== "write" && args[0] !== 9;
      }),
    );
    expect([ledger.rows, ledger.book(4)]).toEqual([3, 4]);
    expect(() => ledger.book(9)).toThrow(
      expect.objectContaining({
        code: "DENIED",
        message: expect.stringContaining("Access denied: call book."),
      }),
    );
    expect(() => {
      ledger.rows = 4;
    }).toThrow(expect.objectContaining({ code: "DENIED" }));
    expect(requested).toContain("write rows 4");
  });

  test("denies unless the check returns true, and when it throws", () => {
    for (const answer of [1, "true", undefined, {}, [true]]) {
      expect(() =>
        decorate(
          { ring: () => 1 },
          access(() => answer as never),
        ).ring(),
      ).toThrow(expect.objectContaining({ code: "DENIED" }));
    }
    const broken = decorate(
      { ring: () => 1 },
      access(() => {
        throw new RangeError("no session");
      }),
    );
    expect(() => broken.ring()).toThrow(
      expect.objectContaining({ code: "DENIED", cause: expect.any(RangeError) }),
    );
  });

  test("hides members that may not be listed, with onDenied: hide", () => {
    const shown = decorate(
      { open: 1, shut: 2 },
      access(({ member }) => member === "open", { onDenied: "hide" }),
    );
    expect([
      Object.keys(shown),
      "shut" in shown,
      { ...shown },
      explain(shown).members.map(({ member }) => member),
    ]).toEqual([["open"], false, { open: 1 }, ["open"]]);
  });

  test("may be asynchronous for members that return promises", async () => {
    const ledger = decorate(
      { book: async (berth: number) => berth },
      access(async ({ args }) => args[0] === 4, { only: ["book"] }),
    );
    expect(await ledger.book(4)).toBe(4);
    await expect(ledger.book(5)).rejects.toMatchObject({ code: "DENIED" });
  });

  test("applies to construction, statics and instances of a class", () => {
    const Guarded = decorate(
      Vault,
      access(({ member, use }) => use === "construct" || member === "greet"),
    );
    const vault = new Guarded();
    expect(vault.greet()).toBe("good day");
    for (const use of [
      () => vault.reveal(),
      () => Guarded.make(),
      () => Guarded.master,
      () => vault.secretField,
    ])
      expect(use).toThrow(expect.objectContaining({ code: "DENIED" }));
    expect(
      () =>
        new (decorate(
          Vault,
          access(() => false),
        ))(),
    ).toThrow(expect.objectContaining({ code: "DENIED" }));
  });

  test("lets errors of bare classes through unchanged, so that clients can distinguish them", () => {
    class Full extends Error {
      override readonly name = "Full";
    }
    const full = new Full("no berth is free");
    const cause = new Full("no berth is free", { cause: { vault: new Vault() } });
    const failing = (error: Error) =>
      decorate(
        {
          book: (): void => {
            throw error;
          },
        },
        access(() => true),
      );
    expect(() => failing(full).book()).toThrow(full);
    const caught = (() => {
      try {
        return failing(cause).book();
      } catch (error) {
        return error;
      }
    })() as unknown as Full;
    expect([caught instanceof Full, caught.message, caught === cause]).toEqual([
      true,
      "no berth is free",
      false,
    ]);
  });

  test("on a class permits no bypass through its prototype, its statics or a subclass", () => {
    const Guarded = decorate(
      Vault,
      access(({ use, member }) => use !== "write" && member !== "reveal" && !member.startsWith("secret")),
    );
    const vault = new Guarded();
    expect([vault instanceof Guarded, Guarded.prototype.constructor === Vault]).toEqual([true, false]);
    const ways: readonly (() => unknown)[] = [
      () => Guarded.prototype.reveal.call(vault),
      () => Reflect.get(Guarded.prototype, "secretNow", vault),
      () => Object.getOwnPropertyDescriptor(Guarded.prototype, "secretNow")?.get?.call(vault),
      () => Object.getPrototypeOf(vault).reveal.call(vault),
      () => Guarded.make().reveal(),
      () => new (class extends Guarded {})().reveal(),
      () => Reflect.construct(Guarded, [], Object).secretField,
      () => (vault.drawer.up() as Vault).reveal(),
    ];
    for (const way of ways) {
      let found: unknown;
      try {
        found = way();
      } catch (error) {
        found = error;
      }
      expect(holdsSecret(found, {})).toBe(false);
    }
  });

  test("applies to all returned objects in deep mode", () => {
    const calls: string[] = [];
    const checked = decorate(
      new Vault(),
      deep(),
      access(({ member }) => (calls.push(member), member !== "up")),
    );
    expect(() => checked.inner().up()).toThrow(expect.objectContaining({ code: "DENIED" }));
    expect(calls).toEqual(["inner", "up"]);
  });

  test("reports an unknown member without listing the others", () => {
    const layers = access(() => false, { only: ["rveeal"] as never });
    expect(() => decorate(new Vault(), layers)).toThrow(/^((?!secretField).)*rveeal((?!secretField).)*$/);
    expect(() =>
      new (decorate(
        Vault,
        access(() => false, { only: ["reveal"] }),
      ))().reveal(),
    ).toThrow(expect.objectContaining({ code: "DENIED" }));
  });

  test("a revocation covers objects returned before it, and calls in flight", async () => {
    const control = new ProxyControl();
    const real = new Vault();
    const vault = proxy(() => real, { layers: [access(may)], control });
    const drawer = vault.inner();
    const { greet } = vault;
    const steps = vault[Symbol.iterator]();
    const pending = vault.later();
    await control.revoke();
    const uses = [
      () => vault.greet(),
      () => drawer.vault,
      () => greet.call(vault),
      () => steps.next(),
      () => Object.keys(vault),
    ];
    for (const use of uses) expect(use).toThrow(expect.objectContaining({ code: "REVOKED" }));
    await expect(pending).rejects.toMatchObject({ code: "REVOKED" });
  });

  test("a revocation covers objects from nested wrappers", async () => {
    const control = new ProxyControl();
    const quiet = logging({ logger: { info() {}, error() {} } });
    const real = new Vault();
    const late = proxy(() => real, { control });
    const listed = proxy(() => real, { control, layers: [quiet, access(may)] });
    const drawers = [late, listed].map((vault) => decorate(vault, access(may), quiet).inner());
    const again = decorate(decorate(late, quiet), deep()).inner();
    await control.revoke();
    for (const drawer of [...drawers, again])
      expect(() => drawer.vault).toThrow(expect.objectContaining({ code: "REVOKED" }));
  });

  test("a replacement during a call does not expose the former subject", async () => {
    let go = () => {};
    class Slow extends Vault {
      override async later(): Promise<this> {
        await new Promise<void>((resolve) => {
          go = resolve;
        });
        return this;
      }
    }
    const [one, other] = [new Slow(), new Slow()];
    const channel = bridge<Slow>({ one, other }, { start: "one" });
    const vault = decorate(channel.port, access(may));
    const pending = vault.later();
    void channel.use("other");
    go();
    const came = await pending;
    expect(came === one || came === other).toBe(false);
    expect(() => came.reveal()).toThrow(expect.objectContaining({ code: "DENIED" }));
  });
});

describe("a hidden member", () => {
  const desk = () => ({ open: () => "open", pin: 4711, nested: { toJSON: () => "n" }, toJSON: () => "all" });
  const hidden = new Set(["pin", "toJSON", "open"]);
  const wrap = () =>
    decorate(
      desk(),
      access(({ member }) => !hidden.has(member), { onDenied: "hide" }),
    );

  test("appears not to exist, in whatever way a client looks", () => {
    const wrapper = wrap() as Partial<ReturnType<typeof desk>>;
    for (const key of ["pin", "toJSON", "open"] as const) {
      expect([wrapper[key], key in wrapper, Object.hasOwn(wrapper, key), Reflect.get(wrapper, key)]).toEqual([
        undefined,
        false,
        false,
        undefined,
      ]);
      expect(Object.getOwnPropertyDescriptor(wrapper, key)).toBe(undefined);
      expect(Reflect.deleteProperty(wrapper, key)).toBe(true);
      expect(() => (wrapper[key] as () => unknown)()).toThrow(TypeError);
    }
    expect([Object.keys(wrapper), Object.keys({ ...wrapper }), JSON.stringify(wrapper)]).toEqual([
      ["nested"],
      ["nested"],
      '{"nested":"n"}',
    ]);
    const listed = [];
    for (const key in wrapper) listed.push(key);
    expect(listed).toEqual(["nested"]);
  });
});

describe("the uses that docs/layers.md lists", () => {
  const uses: string[] = [];
  const wrap = () => {
    class Desk {
      pin = 4;
      arrow = () => 1;
      Form = class {};
      get total(): number {
        return 1;
      }
      set total(_: number) {}
      open(): string {
        return "open";
      }
    }
    return decorate(
      new Desk(),
      access(({ use, member }) => (uses.push(`${use} ${member}`), true), { onDenied: "hide" }),
    );
  };
  const operations: Readonly<Record<string, readonly [(desk: ReturnType<typeof wrap>) => unknown, string]>> = {
    "w.pin": [(desk) => desk.pin, "list, read pin"],
    "w.total": [(desk) => desk.total, "list, read total"],
    "w.open": [(desk) => desk.open, "list open"],
    "w.open()": [(desk) => desk.open(), "list, call open"],
    "w.arrow()": [(desk) => desk.arrow(), "list, call arrow"],
    "w.pin = 1": [(desk) => { desk.pin = 1; }, "write pin"],
    "w.total = 1": [(desk) => { desk.total = 1; }, "write total"],
    "delete w.pin": [(desk) => Reflect.deleteProperty(desk, "pin"), "list, write pin"],
    "Object.defineProperty(w, pin)": [(desk) => Reflect.defineProperty(desk, "pin", { value: 1 }), "write pin"],
    "Object.freeze(w)": [(desk) => Object.preventExtensions(desk), "write constructor"],
    "pin in w": [(desk) => "pin" in desk, "list pin"],
    "Object.hasOwn(w, pin)": [(desk) => Object.hasOwn(desk, "pin"), "list, read pin"],
    "new w.Form()": [(desk) => new desk.Form(), "list, read, construct Form"],
  }; // biome-ignore format: one a line

  test.each(Object.entries(operations))("%s", (_, [operation, expected]) => {
    const desk = wrap();
    uses.length = 0;
    operation(desk);
    const members = [...new Set(uses.map((use) => use.split(" ")[1] as string))].filter(
      (name) => name === expected.split(" ").at(-1),
    );
    const shown = members.map(
      (name) =>
        `${[...new Set(uses.filter((use) => use.endsWith(` ${name}`)).map((use) => use.split(" ")[0]))].join(", ")} ${name}`,
    );
    expect(shown).toEqual([expected]);
  });

  test("every operation is listed", () => {
    expect(Object.keys(operations)).toHaveLength(13);
  });
});

describe("what an access check cannot close", () => {
  test("code of the subject's module that receives the wrapper works on the subject", () => {
    class Desk {
      pin = 4711;
      tools() {
        return { read: (desk: Desk) => desk.pin };
      }
    }
    const desk = decorate(
      new Desk(),
      access(({ member }) => member !== "pin"),
    );
    expect(() => desk.pin).toThrow(expect.objectContaining({ code: "DENIED" }));
    expect(desk.tools().read(desk)).toBe(4711);
  });

  test("an object that the client passes may change after the check", () => {
    const desk = { book: (request: { readonly berth: number }) => request.berth };
    const checked = decorate(
      desk,
      access(({ args }) => (args[0] as { berth: number }).berth === 4),
    );
    let reads = 0;
    expect(checked.book({ get berth() { return reads++ === 0 ? 4 : 99; } })).toBe(99); // biome-ignore format: one line
  });

  test("memory is shared, so nothing can be attached to its buffer any more", () => {
    const desk = {
      fill: (bytes: Uint8Array) => void bytes.fill(7),
      mark: (bytes: Uint8Array) => void Object.assign(bytes.buffer, { owner: desk }),
    };
    const checked = decorate(
      desk,
      access(() => true),
    );
    const bytes = new Uint8Array(2);
    checked.fill(bytes);
    expect([...bytes]).toEqual([7, 7]);
    expect(() => checked.mark(bytes)).toThrow(TypeError);
    expect([Reflect.get(bytes.buffer, "owner"), Object.isExtensible(bytes.buffer)]).toEqual([
      undefined,
      false,
    ]);
  });
});

test("every case is listed", () => {
  expect([Object.keys(checks).length, Object.keys(attempts).length]).toEqual([13, 90]);
});

test("a check distinguishes symbols with one description from each other and from text", () => {
  const allowed = Symbol("berth");
  const denied = Symbol("berth");
  const ledger = { [allowed]: 1, [denied]: 2, "Symbol(berth)": 3 };
  const wrapper = decorate(
    ledger,
    access(({ key }) => key === allowed),
  );
  expect(wrapper[allowed]).toBe(1);
  expect(() => wrapper[denied]).toThrow(expect.objectContaining({ code: "DENIED" }));
  expect(() => wrapper["Symbol(berth)"]).toThrow(expect.objectContaining({ code: "DENIED" }));
});

test("an instance that a client constructs with the subject's class is checked like the subject, with its own fields", () => {
  class Berth {
    readonly pin = "4711";
    kind(): typeof Berth {
      return Berth;
    }
  }
  const berth = decorate(
    new Berth(),
    access(({ member }) => member !== "pin"),
  );
  const other = new (berth.kind())();
  expect(() => other.pin).toThrow(expect.objectContaining({ code: "DENIED" }));
  expect(typeof other.kind).toBe("function");
});

test("formatting the stack of an error gives it to no function that a client has set", () => {
  const received: unknown[] = [];
  class Berth {
    readonly pin = "4711";
    fail(): never {
      throw Object.assign(new Error("closed"), { berth: this });
    }
  }
  const berth = new Berth();
  const checked = decorate(
    berth,
    access(({ member }) => member !== "pin"),
  );
  const before = Object.getOwnPropertyDescriptor(Error, "prepareStackTrace");
  let stack: unknown;
  try {
    Error.prepareStackTrace = (error) => received.push(error);
    checked.fail();
  } catch (error) {
    stack = (error as Error).stack;
  } finally {
    if (before) Object.defineProperty(Error, "prepareStackTrace", before);
    else Reflect.deleteProperty(Error, "prepareStackTrace");
  }
  expect(stack).toContain("fail");
  expect(received).not.toContain(berth);
  expect(received.filter((error) => (error as { berth?: unknown }).berth === berth)).toEqual([]);
});

test.each([
  ["a proxy", (ledger: object) => proxy(() => ledger, { layers: [access(({ use }) => use !== "write")] })],
  [
    "a proxy with a class",
    (ledger: object) =>
      proxy(() => ledger, {
        surface: ledger.constructor as never,
        layers: [access(({ use }) => use !== "write")],
      }),
  ],
  [
    "a decorated proxy",
    (ledger: object) =>
      decorate(
        proxy(() => ledger),
        access(({ use }) => use !== "write"),
      ),
  ],
] as const)("methods of every object change nothing through %s", (_, wrap) => {
  class Ledger {
    berth = 4;
  }
  for (const method of ["__defineGetter__", "__defineSetter__"]) {
    const ledger = new Ledger();
    const wrapper = wrap(ledger) as Record<string, (key: string, fn: () => unknown) => void>;
    expect(() => wrapper[method]?.("berth", () => 9)).toThrow(expect.objectContaining({ code: "DENIED" }));
    expect(Object.getOwnPropertyDescriptor(ledger, "berth")?.value).toBe(4);
  }
});

test("a copy that reaches the subject in another way than through the wrapper does not come back as the original", () => {
  const box: { value?: unknown } = {};
  class Berth {
    readonly pin = "4711";
    readonly date = new Date(0);
    fail(): never {
      throw Object.assign(new Error("closed"), { berth: this });
    }
    fetch(): { readonly berth?: unknown } {
      return box.value as object;
    }
  }
  const berth = new Berth();
  const checked = decorate(
    berth,
    access(({ member }) => member !== "pin"),
  );
  for (const obtain of [() => checked.fail(), () => checked.date]) {
    try {
      box.value = obtain();
    } catch (error) {
      box.value = error;
    }
    const back = checked.fetch();
    expect([back === berth.date, back.berth === undefined || back.berth === checked]).toEqual([false, true]);
  }
});
