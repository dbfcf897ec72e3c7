import { EventEmitter, once } from "node:events";
import { PassThrough, Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import fc from "fast-check";
import { access, decorateClass, deep, type Layer, logging, open, timing } from "sleeve";
import { describe, expect, test } from "vitest";
import { decorateAny as decorate } from "../decorate-any.ts";

const silent = { info: () => {}, error: () => {} };
const stacks: Readonly<Record<string, () => Layer[]>> = {
  "no layers": () => [],
  "logging and timing": () => [logging({ logger: silent }), timing({ onSample: () => {} })],
  "open forwarding": () => [open()],
  "open and deep forwarding": () => [deep()],
  "open forwarding, logged and timed": () => [
    open(),
    logging({ logger: silent }),
    timing({ onSample: () => {} }),
  ],
};

const DEPTH = Symbol("depth");

class Buoy {
  static made = 0;
  static at(name: string): Buoy {
    return new Buoy(name);
  }
  static #hidden = "hidden";
  static peek(): string {
    return Buoy.#hidden;
  }
  readonly #depth = 4;
  name: string;
  lit = false;
  next: Buoy | undefined;
  constructor(name = "PE") {
    this.name = name;
  }
  get depth(): number {
    return this.#depth;
  }
  set draught(value: number) {
    this.lit = value > this.#depth;
  }
  light(): this {
    this.lit = true;
    return this;
  }
  get [DEPTH](): number {
    return this.#depth;
  }
  child(): { readonly parent: Buoy; readonly of: string } {
    return { parent: this, of: this.name };
  }
  *[Symbol.iterator](): Generator<string> {
    yield* this.name;
  }
  async *slowly(): AsyncGenerator<string> {
    yield* this.name;
  }
  then?: never;
  toJSON(): object {
    return { buoy: this.name };
  }
  [Symbol.toPrimitive](hint: string): unknown {
    return hint === "number" ? this.#depth : this.name;
  }
  static [Symbol.hasInstance](value: unknown): boolean {
    return typeof value === "object" && value !== null && "depth" in value;
  }
}

class Spar extends Buoy {
  override light(): this {
    super.light();
    this.name += "*";
    return this;
  }
}

const callable = () =>
  Object.assign((left: number, right = 1) => left + right, { unit: "m", twice: (of: number) => of * 2 });

/** Subjects of every kind, created anew for each comparison. */
const subjects: Readonly<Record<string, () => object>> = {
  "a plain object": () => ({ a: 1, get b(): unknown { return Reflect.get(this, "a"); }, c(): unknown { return this; }, [DEPTH]: 2 }),
  "a class with private fields, accessors and symbols": () => new Buoy(),
  "a subclass": () => new Spar("S"),
  "a frozen object": () => Object.freeze({ a: 1, f: () => 2 }),
  "a sealed object": () => Object.seal({ a: 1 }),
  "an object that cannot be extended": () => Object.preventExtensions({ a: 1 }),
  "an object of hidden and fixed properties": () =>
    Object.defineProperties({}, { hidden: { value: 1 }, fixed: { value: 2, enumerable: true }, own: { get: () => 3, configurable: true } }),
  "an object without a prototype": () => Object.assign(Object.create(null), { a: 1 }),
  "an object with an object for its prototype": () => Object.create({ a: 1, f(): unknown { return this; } }, { b: { value: 2, writable: true } }),
  "an array": () => [3, 1, 2],
  "a sparse array": () => [1, , 3],
  "an array of a class": () => new (class Fleet extends Array<number> { get flag() { return this[0]; } })(1, 2, 3),
  "a Map": () => new Map<unknown, unknown>([["a", 1]]),
  "a Set": () => new Set([1, 2]),
  "a WeakMap": () => new WeakMap(),
  "a Date": () => new Date(86_400_000),
  "a pattern": () => /(?<berth>\d+)/g,
  "an error": () => new RangeError("far", { cause: 4 }),
  "a URL": () => new URL("https://ellery.example/tides?day=1"),
  "search parameters": () => new URLSearchParams("a=1&b=2"),
  "headers": () => new Headers({ "x-berth": "4" }),
  "a typed array": () => new Uint8Array([3, 1, 2]),
  "a buffer": () => Buffer.from("tide"),
  "a data view": () => new DataView(new ArrayBuffer(4)),
  "an event emitter": () => new EventEmitter(),
  "an event target": () => new EventTarget(),
  "a promise": () => Promise.resolve(4),
  "a thenable": () => ({ then: (resolve: (value: number) => void) => resolve(4) }),
  "a generator": () => (function* () { yield 1; yield 2; return 3; })(),
  "an async generator": () => (async function* () { yield 1; yield 2; })(),
  "a function": () => function add(left: number, right: number) { return left + right; },
  "an arrow function": () => (value: unknown) => value,
  "an async function": () => async (value: unknown) => value,
  "a generator function": () => function* (value: unknown) { yield value; },
  "a callable with properties": callable,
  "a class": () => class Lamp { static unit = "W"; static of() { return new this(); } watts = 5; shine() { return this.watts; } },
  "an object that returns itself": () => { const it = { self: () => it, get me() { return it; } }; return it; },
}; // biome-ignore format: one a line

type Look = (subject: never) => unknown;

/** Operations by which a client could distinguish a wrapper from its subject. */
const looks: Readonly<Record<string, Look>> = {
  typeof: (it: object) => typeof it,
  "Array.isArray": (it) => Array.isArray(it),
  "the language's tag": (it) => Object.prototype.toString.call(it),
  "its constructor": (it: object) => it.constructor?.name,
  "instanceof of the usual classes": (it: unknown) =>
    [Object, Function, Array, Map, Set, Date, Error, RegExp, Promise, EventEmitter, Uint8Array, URL].map((item) => it instanceof item),
  "own keys": (it) => Reflect.ownKeys(it),
  "keys by for in": (it) => { const keys = []; for (const key in it as object) keys.push(key); return keys; },
  "values of own keys": (it) => Object.values(it).filter((item) => Object(item) !== item),
  "spread": (it: object) => Object.keys({ ...it }),
  "JSON": (it) => JSON.stringify(it),
  "string": (it) => String(it).replace(/^(class|function|async|\().*$/s, "code"),
  "number": (it: object) => { try { return Number(it); } catch (error) { return (error as Error).name; } },
  "frozen, sealed, extensible": (it) => [Object.isFrozen(it), Object.isSealed(it), Object.isExtensible(it)],
  "in": (it: object) => ["a", "b", "f", "size", "then", "length", "constructor", "toString", "nothing", DEPTH].map((key) => key in it),
  "hasOwn": (it) => ["a", "b", "f", "length", "name", "prototype", DEPTH].map((key) => Object.hasOwn(it, key)),
  "enumerable": (it) => Reflect.ownKeys(it).map((key) => Object.prototype.propertyIsEnumerable.call(it, key)),
  "names and lengths of its methods": (it) => methodsOf(it),
  "name and length": (it: { name?: unknown; length?: unknown }) => (typeof it === "function" ? [it.name, it.length] : []),
  "adding": (it: Record<string, unknown>) => { const is = Reflect.set(it, "added", 1); return [is, it["added"], Object.keys(it), "added" in it]; },
  "writing over": (it: Record<string, unknown>) => ["a", "b", "fixed", "name", "lit"].map((key) => [Reflect.set(it, key, 9), typeof it[key] === "function" ? 0 : it[key]]),
  "defining": (it: Record<string, unknown>) => {
    const is = Reflect.defineProperty(it, "defined", { value: 1, enumerable: true, configurable: true, writable: true });
    return [is, it["defined"], Object.keys(it)];
  },
  "freezing": (it: Record<string, unknown>) => {
    if ("byteLength" in it) return 0;
    Object.freeze(it);
    return [Object.isFrozen(it), Reflect.set(it, "a", 7), Reflect.set(it, "new", 7), Object.keys(it)];
  },
  "iterating": (it: Iterable<unknown>) => (typeof it === "object" && Symbol.iterator in it ? [...it] : 0),
  "iterating later": async (it: AsyncIterable<unknown>) => {
    if (typeof it !== "object" || !(Symbol.asyncIterator in it)) return 0;
    const seen = [];
    for await (const item of it) seen.push(item);
    return seen;
  },
  "awaiting": async (it: unknown) => { const come = await it; return come === it ? "itself" : come; },
  "comparing with itself": (it) => [Object.is(it, it), new Set([it, it]).size],
  "handing itself to a callback": (it: unknown) => {
    if (!(it instanceof Map || it instanceof Set)) return 0;
    const seen: unknown[] = [];
    it.forEach(function (this: unknown, value, key, whole) { seen.push(this, value, key, whole === it); }, 7);
    return seen;
  },
  "returning itself": (it: { self?(): unknown; me?: unknown; light?(): unknown }) => [it.self?.() === it, it.me === it, it.light?.() === it],
  "calling": async (it: unknown) => {
    if (typeof it !== "function" || isClass(it)) return 0;
    const come: unknown = await (it as (...args: unknown[]) => unknown)(4, 3);
    return typeof come === "object" && come !== null && Symbol.iterator in come ? [...(come as Iterable<unknown>)] : come;
  },
  "constructing": (it: unknown) => {
    if (typeof it !== "function" || it.prototype === undefined) return 0;
    try {
      const made = Reflect.construct(it, []) as object;
      return [made instanceof it, made.constructor === it || made.constructor.name, Object.keys(made), (made as { shine?(): number }).shine?.()];
    } catch (error) {
      return (error as Error).name;
    }
  },
  "subclassing": (it: unknown) => {
    if (!isClass(it)) return 0;
    class Sub extends (it as new () => { shine(): number }) {
      override shine() { return super.shine() + 1; }
      more() { return this.shine(); }
    }
    const made = new Sub();
    return [made.more(), made instanceof Sub, made instanceof (it as never), (Sub as never as { of(): object }).of() instanceof Sub];
  },
}; // biome-ignore format: one a line

function isClass(it: unknown): boolean {
  return typeof it === "function" && Object.getOwnPropertyDescriptor(it, "prototype")?.writable === false;
}

function methodsOf(it: object): readonly string[] {
  const found = new Map<PropertyKey, string>();
  for (
    let item: object | null = it;
    item && item !== Object.prototype && item !== Function.prototype;
    item = Object.getPrototypeOf(item)
  ) {
    for (const key of Reflect.ownKeys(item)) {
      const own = Object.getOwnPropertyDescriptor(item, key);
      const value: unknown = own?.get && item !== it ? undefined : Reflect.get(it, key);
      if (typeof value === "function" && key !== "constructor")
        found.set(key, `${value.name}/${value.length}`);
    }
  }
  return [...found.values()].sort();
}

/** Operations that distinguish closed wrappers, as in docs/fidelity.md, each with its subjects. */
const CLOSED_DIFFERENT: Readonly<Record<string, (subject: string) => boolean>> = {
  // Freezing a wrapper freezes the wrapper.
  freezing: () => true,
  // A forwarded property has a getter, and one that is not configurable counts as frozen.
  "frozen, sealed, extensible": (subject) => subject === "a sealed object",
  // Source text is the wrapper's own.
  string: (subject) => /function$|^a callable/.test(subject),
};

/** Operations that distinguish all wrappers: objects that a wrapped function constructs name the function itself. */
const ALWAYS_DIFFERENT: Readonly<Record<string, (subject: string) => boolean>> = {
  constructing: (subject) => subject === "a function" || subject === "a class",
};

function isTold(stack: string, what: string, subject: string): boolean {
  const reported = stack.startsWith("open") ? ALWAYS_DIFFERENT : { ...CLOSED_DIFFERENT, ...ALWAYS_DIFFERENT };
  return reported[what]?.(subject) ?? false;
}

async function seen(look: Look, subject: object): Promise<unknown> {
  try {
    return { saw: await look(subject as never) };
  } catch (error) {
    return { threw: (error as Error).name };
  }
}

describe.each(Object.entries(stacks))("with %s, a wrapper cannot be distinguished from", (stack, layers) => {
  test.each(Object.entries(subjects))("%s", async (name, create) => {
    for (const [what, look] of Object.entries(looks)) {
      if (isTold(stack, what, name)) continue;
      const subject = create();
      const isList = Array.isArray(subject) || ArrayBuffer.isView(subject);
      const wrapper = decorate(subject, ...layers(), ...(isList ? [open()] : []));
      expect(await seen(look, wrapper), what).toEqual(await seen(look, create()));
    }
  });
});

const keys = fc.constantFrom("a", "b", "c", "d");
const values = fc.oneof(fc.integer(), fc.constant(undefined), fc.string());
const step = fc.oneof(
  fc.record({ do: fc.constant("get"), key: keys }),
  fc.record({ do: fc.constant("set"), key: keys, value: values }),
  fc.record({ do: fc.constant("call"), key: keys, value: values }),
  fc.record({ do: fc.constantFrom("keys", "json", "spread", "entries"), key: keys }),
  fc.record({ do: fc.constantFrom("has", "own"), key: keys }),
  fc.record({ do: fc.constantFrom("delete", "define"), key: keys, value: values }),
);
type Step = { readonly do: string; readonly key: string; readonly value?: unknown };

/** Creates an object with generated members, own and inherited. */
function createOf(kinds: readonly string[]): Record<string, unknown> {
  const prototype = {};
  const subject: Record<string, unknown> = Object.create(prototype);
  let stored: unknown = 0;
  kinds.forEach((kind, index) => {
    const key = "abcd"[index] as string;
    const holder = kind.startsWith("inherited") ? prototype : subject;
    const enumerable = !kind.includes("hidden");
    if (kind.includes("method")) {
      const value = function (this: unknown, given: unknown) {
        return given === undefined ? this : [key, given, stored];
      };
      Object.defineProperty(holder, key, { value, enumerable, writable: true, configurable: true });
    } else if (kind.includes("accessor")) {
      const set = kind.includes("fixed") ? {} : { set: (value: unknown) => void (stored = value) };
      Object.defineProperty(holder, key, { get: () => stored, ...set, enumerable, configurable: true });
    } else if (kind.includes("property")) {
      const writable = !kind.includes("fixed");
      Object.defineProperty(holder, key, { value: index, writable, enumerable, configurable: true });
    }
  });
  return subject;
}

const kind = fc.constantFrom(
  "none", "own property", "own property, hidden", "own property, fixed", "own method", "own method, hidden", "own accessor",
  "own accessor, fixed", "inherited property", "inherited method", "inherited accessor", "inherited accessor, fixed",
); // biome-ignore format: a list

function take({ do: what, key, value }: Step, it: Record<string, unknown>): unknown {
  const shown = (item: unknown) =>
    item === it ? "itself" : typeof item === "function" ? "a function" : item;
  switch (what) {
    case "get":
      return shown(it[key]);
    case "set":
      return [Reflect.set(it, key, value), shown(it[key])];
    case "call":
      return typeof it[key] === "function"
        ? shown((it as Record<string, (given: unknown) => unknown>)[key]?.(value))
        : 0;
    case "keys":
      return Object.keys(it).sort();
    case "json":
      return Object.keys(JSON.parse(JSON.stringify(it)));
    case "spread":
      return Object.keys({ ...it }).sort();
    case "entries":
      return Object.entries(it)
        .map(([name, value]) => [name, shown(value)])
        .sort();
    case "has":
      return key in it;
    case "own":
      return Object.hasOwn(it, key);
    case "delete":
      return Reflect.deleteProperty(it, key);
    default:
      return Reflect.defineProperty(it, key, { value, writable: true, enumerable: true, configurable: true });
  }
}

describe.each(Object.entries(stacks))(
  "with %s, whatever the members and the uses of them",
  (stack, layers) => {
    test("a wrapper behaves as its subject", () => {
      fc.assert(
        fc.property(
          fc.array(kind, { minLength: 4, maxLength: 4 }),
          fc.array(step, { maxLength: 15 }),
          (kinds, steps) => {
            const plain = createOf(kinds);
            const wrapper = decorate(createOf(kinds), ...layers());
            for (const step of steps as readonly Step[]) {
              // Defining or deleting a property of a closed wrapper changes only the wrapper.
              if (!stack.startsWith("open") && (step.do === "delete" || step.do === "define")) continue;
              expect(take(step, wrapper), JSON.stringify(step)).toEqual(take(step, plain));
            }
          },
        ),
        { numRuns: 400 },
      );
    });

    test("changes of the subject are visible through the wrapper", () => {
      fc.assert(
        fc.property(
          fc.array(kind, { minLength: 4, maxLength: 4 }),
          fc.array(step, { maxLength: 15 }),
          (kinds, steps) => {
            const subject = createOf(kinds);
            const wrapper = decorate(subject, ...layers());
            for (const step of steps as readonly Step[]) {
              if (!stack.startsWith("open") && (step.do === "delete" || step.do === "define")) continue;
              // A method replaced by another function is visible; one replaced by another kind of value is not.
              if (step.do === "set" && typeof subject[step.key] === "function") continue;
              take(step, subject);
              for (const key of ["a", "b", "c", "d"]) {
                // A closed wrapper adds a later member when it is first read.
                expect([typeof wrapper[key], key in wrapper]).toEqual([typeof subject[key], key in subject]);
                if (typeof subject[key] !== "function") expect(wrapper[key]).toBe(subject[key]);
              }
            }
          },
        ),
      );
    });

    test("a wrapped stream flows, and emits", async () => {
      const source = decorate(Readable.from(["high", " ", "water"]), ...layers());
      const through = decorate(new PassThrough(), ...layers());
      const ended = once(through, "end");
      let text = "";
      through.on("data", (chunk: Buffer) => {
        text += chunk.toString();
      });
      await pipeline(source, through);
      await ended;
      expect(text).toBe("high water");
    });

    test("listeners of a wrapped emitter are called, and can be removed", () => {
      const bell = decorate(new EventEmitter(), ...layers());
      const heard: unknown[] = [];
      const listener = (times: number) => void heard.push(times);
      expect(bell.on("ring", listener)).toBe(bell);
      bell.emit("ring", 2);
      bell.off("ring", listener).emit("ring", 3);
      expect([heard, bell.listenerCount("ring")]).toEqual([[2], 0]);
    });

    test("a wrapped class with private statics, fields and subclasses works as it does", () => {
      const Wrapped = decorateClass(Buoy, ...layers());
      class Cardinal extends Wrapped {
        override light(): this {
          return super.light();
        }
      }
      const [one, other] = [new Wrapped("N"), new Cardinal("E")];
      expect([
        one.name,
        one.depth,
        one.light() === one,
        [...one],
        JSON.stringify(one),
        Wrapped.peek(),
      ]).toEqual(
        ["N", 4, true, ["N"], '{"buoy":"N"}', "hidden"], // biome-ignore format: one line
      );
      expect([
        other.light() === other,
        other.lit,
        other instanceof Cardinal,
        other instanceof Wrapped,
      ]).toEqual(
        [true, true, true, true], // biome-ignore format: one line
      );
      expect(Wrapped.at("W").name).toBe("W");
      Wrapped.made += 2;
      expect(Buoy.made).toBe(2);
      Buoy.made = 0;
    });
  },
);

describe("deep wrapping", () => {
  const fleet = () => {
    const boats = new Map<string, Boat>();
    class Boat {
      readonly name: string;
      constructor(name: string) {
        this.name = name;
      }
      home(): Fleet {
        return it;
      }
      hail(): string {
        return `${this.name}!`;
      }
    }
    class Fleet {
      readonly flag = new Boat("Tern");
      all(): readonly Boat[] {
        return [...boats.values()];
      }
      boats(): ReadonlyMap<string, Boat> {
        return boats;
      }
      async later(): Promise<Boat> {
        return this.flag;
      }
      *each(): Generator<Boat> {
        yield* boats.values();
      }
      add(boat: Boat): boolean {
        boats.set(boat.name, boat);
        return boat === this.flag;
      }
      with(use: (boat: Boat) => unknown): unknown {
        return use(this.flag);
      }
      at(): Date {
        return new Date(0);
      }
      lose(): never {
        throw Object.assign(new RangeError("lost"), { boat: this.flag });
      }
    }
    const it = new Fleet();
    it.add(new Boat("Petrel"));
    return it;
  };
  const watched = () => {
    const calls: string[] = [];
    const note = (entry: { readonly event: string; readonly member: string }) => {
      if (entry.event === "called") calls.push(entry.member);
    };
    return { calls, fleet: decorate(fleet(), deep(), logging({ logger: { info: note, error: note } })) };
  };

  test("returned objects are wrapped on every path, with one wrapper each", async () => {
    const { calls, fleet: it } = watched();
    const boat = it.flag;
    expect([await it.later(), it.with((boat) => boat)]).toEqual([boat, boat]);
    expect((await it.later()) === boat && it.with((boat) => boat) === boat).toBe(true);
    it.add(boat);
    const ways = [it.all()[1], it.boats().get("Tern"), [...it.each()][1], [...it.boats().values()][1]];
    expect(ways.every((way) => way === boat)).toBe(true);
    calls.length = 0;
    expect(ways.map((way) => way?.hail())).toEqual(["Tern!", "Tern!", "Tern!", "Tern!"]);
    expect(calls).toEqual(["hail", "hail", "hail", "hail"]);
    expect(boat.home()).toBe(it);
  });

  test("a wrapped class and its subclasses create instances of it", () => {
    const Deep = decorateClass(Buoy, deep());
    class Plain {
      light(): this {
        return this;
      }
    }
    const DeepPlain = decorateClass(Plain, deep());
    class Sub extends DeepPlain {}
    expect([
      new DeepPlain() instanceof DeepPlain,
      new Sub() instanceof Sub,
      new Sub() instanceof DeepPlain,
    ]).toEqual([true, true, true]);
    expect([new Deep("N").light().lit, new Sub().light() instanceof Sub]).toEqual([true, true]);
  });

  test("arguments are unwrapped, and built-in values pass unchanged", () => {
    const { fleet: it } = watched();
    expect(it.add(it.flag)).toBe(true);
    expect(it.at()).toEqual(new Date(0));
    expect(it.at().getTime()).toBe(0);
    let lost: unknown;
    try {
      it.lose();
    } catch (error) {
      lost = error;
    }
    expect((lost as { readonly boat: unknown }).boat).toBe(it.flag);
  });
});

describe("differences that docs/fidelity.md documents", () => {
  const wrapper = decorate(new Buoy());

  test("a method borrowed from its class finds no private fields in it, nor internal slots", () => {
    expect(() => Reflect.get(Buoy.prototype, "depth", wrapper)).toThrow(TypeError);
    expect(() => Map.prototype.get.call(decorate(new Map()), 1)).toThrow(TypeError);
    expect(() => Map.prototype.get.call(decorate(new Map(), open()), 1)).toThrow(TypeError);
    expect(ArrayBuffer.isView(decorate(new Uint8Array(1), open()))).toBe(false);
    expect(() => structuredClone(decorate(new Map(), open()))).toThrow();
  });

  test("the prototype of a closed wrapper is its own, and to define or delete a property changes the wrapper alone", () => {
    expect(Object.getPrototypeOf(wrapper) === Buoy.prototype).toBe(false);
    expect(Object.getPrototypeOf(decorate(new Buoy(), open())) === Buoy.prototype).toBe(true);
    const subject: Record<string, unknown> = { a: 1 };
    const shown = decorate(subject);
    Object.defineProperty(shown, "a", { value: 2 });
    expect([shown["a"], subject["a"]]).toEqual([2, 1]);
  });

  test("assigning to an inherited method replaces it on a closed wrapper alone", () => {
    const subject = new Buoy();
    const shown = decorate(subject);
    shown.light = function () {
      return this;
    };
    expect([Object.hasOwn(shown, "light"), Object.hasOwn(subject, "light")]).toEqual([true, false]);
    const opened = decorate(subject, open());
    opened.light = shown.light;
    expect(Object.hasOwn(subject, "light")).toBe(true);
  });

  test("a closed wrapper lists a later member after its first read", () => {
    const subject: Record<string, unknown> = { a: 1 };
    const shown = decorate(subject);
    subject["b"] = 2;
    expect(["b" in shown, shown["b"], "b" in shown, Object.keys(shown)]).toEqual([
      false,
      2,
      true,
      ["a", "b"],
    ]);
    expect("b" in decorate(subject, open())).toBe(true);
  });

  test("a closed wrapper still shows an inherited method that was replaced by another kind", () => {
    const subject = Object.create({ ring: () => "ding" }) as { ring: unknown };
    const shown = decorate(subject);
    subject.ring = 4;
    expect([typeof shown.ring, typeof decorate(subject, open()).ring]).toEqual(["function", "number"]);
  });

  test("references to the subject in other objects are not wrapped, except in deep mode", () => {
    const subject = new Buoy();
    expect(decorate(subject).child().parent).toBe(subject);
    const shown = decorate(subject, deep());
    expect(shown.child().parent).toBe(shown);
  });

  test("a promise of a decorated promise class does not recurse", async () => {
    const Later = decorateClass(class Later<Value> extends Promise<Value> {}, logging({ logger: silent }));
    expect(await Later.resolve(4).then((value) => value + 1)).toBe(5);
  });

  test("a static member that uses a private one through `this` fails, as in any subclass", () => {
    class Lamp {
      static #count = 0;
      static next(): number {
        return ++this.#count;
      }
    }
    class Plain extends Lamp {}
    expect(() => Plain.next()).toThrow(TypeError);
    expect(() => decorateClass(Lamp, logging({ logger: silent })).next()).toThrow(TypeError);
  });

  test("calls of an object on itself bypass the layers; those of instances of a wrapped class do not", () => {
    class Horn {
      twice(): string {
        return this.sound() + this.sound();
      }
      sound(): string {
        return "o";
      }
    }
    let calls = 0;
    const counting = timing({ onSample: () => calls++ });
    decorate(new Horn(), counting).twice();
    expect(calls).toBe(1);
    new (decorateClass(Horn, counting))().twice(); // the construction counts too
    expect(calls).toBe(5);
  });
});

test("every case is listed", () => {
  expect([Object.keys(stacks).length, Object.keys(subjects).length]).toEqual([5, 37]);
});

describe("differences of listeners, errors, classes and functions", () => {
  test.each([
    ["closed", [], false],
    ["open", [open()], false],
    ["deep", [deep()], true],
    ["sealed", [access(() => true)], true],
  ] as const)(
    "the receiver of a listener and the target of an event are the subject's own: %s",
    (_, layers, isWrapper) => {
      const bell = new EventEmitter();
      const shownBell = decorate(bell, ...layers);
      const receivers: unknown[] = [];
      shownBell.on("ring", function (this: unknown) {
        receivers.push(this);
      });
      shownBell.emit("ring");
      const horn = new EventTarget();
      const shownHorn = decorate(horn, ...layers);
      shownHorn.addEventListener("blow", ({ target }) => receivers.push(target));
      shownHorn.dispatchEvent(new Event("blow"));
      expect(receivers[0] === (isWrapper ? shownBell : bell)).toBe(true);
      expect(receivers[1] === (isWrapper ? shownHorn : horn)).toBe(true);
    },
  );

  test("the error for a write to a frozen property has another text, and a client's own Proxy refuses a deletion as on the subject", () => {
    const buoy = Object.freeze({ depth: 4 });
    const messages = [buoy, decorate(buoy), decorate(buoy, open())].map((object) => {
      try {
        (object as { depth: number }).depth = 5;
        return "";
      } catch (error) {
        return (error as Error).message;
      }
    });
    expect(new Set(messages).size).toBe(3);
    for (const layers of [[], [open()], [deep()], [access(() => true)]]) {
      const subject = { depth: 4 };
      const proxied = new Proxy(decorate(subject, ...layers), { deleteProperty: () => false });
      expect([Reflect.deleteProperty(proxied, "depth"), subject.depth]).toEqual([false, 4]);
    }
  });

  test("the subject's test of a client's class that it has imported fails, but for platform classes and classes of its own objects", () => {
    class Shape {}
    class Board {
      readonly shapes: Shape[] = [];
      isShape(value: unknown): boolean {
        return value instanceof Shape;
      }
      isEmitter(value: unknown): boolean {
        return value instanceof EventEmitter && value instanceof Object;
      }
      create(): Shape {
        return new Shape();
      }
    }
    for (const layers of [[deep()], [access(() => true)]]) {
      const board = decorate(new Board(), ...layers);
      expect([board.isShape(new Shape()), board.isEmitter(new EventEmitter())]).toEqual([false, true]);
      board.create();
      expect(board.isShape(new (class extends Shape {})())).toBe(true);
    }
  });

  test("a function without layers is one function under all keys of an open or deep wrapper", () => {
    const names = (layers: readonly Layer[]) => {
      const bell = decorate(new EventEmitter(), ...layers);
      return bell.on === bell.addListener;
    };
    expect([[], [open()], [deep()], [open(), logging({ logger: silent })]].map(names)).toEqual([
      false,
      true,
      true,
      false,
    ]);
  });
});
