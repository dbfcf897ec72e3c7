import assert from "node:assert";
import childProcess from "node:child_process";
import crypto from "node:crypto";
import type events from "node:events";
import fs from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import path from "node:path";
import { inspect, promisify } from "node:util";
import fc from "fast-check";
import { access, deep, type Layer, logging, open, timing } from "sleeve";
import { describe, expect, test, vi } from "vitest";
import { decorateAny as decorate } from "../decorate-any.ts";

const require = createRequire(import.meta.url);
const silent = { info: () => {}, error: () => {} };
const stacks: Readonly<Record<string, () => Layer[]>> = {
  closed: () => [],
  "closed, watched": () => [logging({ logger: silent }), timing({ onSample: () => {} })],
  open: () => [open()],
  deep: () => [deep()],
  sealed: () => [access(() => true)],
};

/** Functions of every kind, with what makes each different from a plain one. */
const functions: Readonly<Record<string, () => (...args: never[]) => unknown>> = {
  "a function": () => function add(this: unknown, left: number, right: number) { return left + right; },
  "a constructor function": () => function Boat(this: { name: string }, name: string) { this.name = name; },
  "an arrow function": () => (value: number) => value * 2,
  "a method": () => ({ twice(value: number) { return value * 2; } }).twice,
  "an async function": () => async (value: number) => value,
  "a generator function": () => function* (value: number) { yield value; },
  "an async generator function": () => async function* (value: number) { yield value; },
  "a bound function": () => ((left: number, right: number) => left + right).bind(null, 1),
  "a frozen function": () => Object.freeze((value: number) => value),
  "a built-in function": () => Math.max,
  "a function with properties": () => Object.assign((value: number) => value, { unit: "m", calls: [] as unknown[] }),
  "a function with a symbol": () => Object.assign((value: number) => value, { [promisify.custom]: async () => 5 }),
  "a test double": () => vi.fn((value: number) => value),
}; // biome-ignore format: one a line

/** What a client can see of a function. */
const looks: Readonly<Record<string, (fn: never) => unknown>> = {
  name: (fn: { name: string }) => fn.name,
  length: (fn: { length: number }) => fn.length,
  "own keys": (fn) => Reflect.ownKeys(fn).map(String).sort(),
  "enumerable values": (fn) => Object.entries(fn).map(([key, value]) => [key, typeof value]),
  "its class": (fn) => (Object.getPrototypeOf(fn) as object).constructor.name,
  "has a prototype": (fn: object) => "prototype" in fn,
  "is a constructor": (fn) => isConstructible(fn),
  "prototype names it": (fn: { prototype?: { constructor?: unknown } }) => fn.prototype?.constructor !== undefined,
  "a call": (fn: (...args: number[]) => unknown) => typeof fn(2, 3),
  "a construction": (fn: new (name: string) => object) => (isConstructible(fn) ? Object.keys(new fn("Tern")).length : 0),
  "a symbol's property": (fn: object) => typeof Reflect.get(fn, promisify.custom),
  "a later property": (fn: Record<string, unknown>) => { fn["later"] = 4; return fn["later"]; },
}; // biome-ignore format: one a line

function outcome(look: (fn: never) => unknown, fn: unknown): unknown {
  try {
    return look(fn as never);
  } catch (error) {
    return (error as Error).name;
  }
}

function isConstructible(fn: unknown): boolean {
  try {
    Reflect.construct(Object, [], fn as () => void);
    return true;
  } catch {
    return false;
  }
}

describe.each(Object.entries(stacks))("a function member, %s,", (stack, layers) => {
  const holders = {
    own: (fn: unknown) => ({ member: fn }),
    inherited: (fn: unknown) => Object.create({ member: fn }) as { member: unknown },
  };

  test.each(Object.entries(functions))("keeps everything that %s has", (kind, create) => {
    for (const [where, hold] of Object.entries(holders)) {
      for (const [name, look] of Object.entries(looks)) {
        const bare = hold(create()).member;
        const shown = decorate(hold(create()), ...layers()).member;
        // Under sealed forwarding, no class is visible.
        if (stack === "sealed" && name === "its class") continue;
        // A detached own function of a closed wrapper acts on the subject.
        if (kind === "a constructor function" && name === "a call") continue;
        expect(outcome(look, shown), `${where} ${kind}: ${name}`).toEqual(outcome(look, bare));
      }
    }
  });

  test("keeps what is attached to it, in both directions, if it has properties", () => {
    const stub = Object.assign((..._: unknown[]) => {}, { calls: [] as unknown[] });
    const service = { save: stub };
    const wrapper = decorate(service, ...layers());
    wrapper.save.calls.push(1);
    stub.calls = [...stub.calls, 2];
    expect([...wrapper.save.calls]).toEqual([1, 2]);
    wrapper.save.calls = [3];
    expect([...stub.calls]).toEqual([3]);
    expect(Reflect.set(wrapper.save, "more", 4) && Reflect.get(stub, "more")).toBe(4);
  });

  test("keeps modules usable", async () => {
    const file = path.join(tmpdir(), `sleeve-${process.pid}-${stack.replace(/\W/g, "")}.txt`);
    const disk = decorate(fs, ...layers());
    disk.writeFileSync(file, Buffer.from("tide"));
    expect([disk.readFileSync(file, "utf8"), disk.existsSync(file), typeof disk.realpath.native]).toEqual([
      "tide",
      true,
      "function",
    ]);
    expect(Buffer.concat([disk.readFileSync(file), Buffer.from("s")]).toString()).toBe("tides");
    expect((await disk.promises.readFile(file)).toString()).toBe("tide");
    expect(await promisify(disk.readFile)(file, "utf8")).toBe("tide");
    expect(disk.statSync(file).isFile()).toBe(true);
    const copy = `${file}.copy`;
    await new Promise((resolve) =>
      disk
        .createReadStream(file)
        .pipe(disk.createWriteStream(copy))
        .on("finish", () => resolve(undefined)),
    );
    expect(fs.readFileSync(copy, "utf8")).toBe("tide");
    fs.rmSync(file);
    fs.rmSync(copy);
    const processes = decorate(childProcess, ...layers());
    const { stdout } = (await promisify(processes.exec)("echo high water")) as unknown as { stdout: string };
    expect(stdout).toBe("high water\n");
    expect(processes.execFileSync("echo", ["low"]).toString()).toBe("low\n");
    const hashes = decorate(crypto, ...layers());
    expect(hashes.createHash("sha256").update(Buffer.from("tide")).digest("hex")).toBe(
      crypto.createHash("sha256").update("tide").digest("hex"),
    );
    expect(hashes.randomBytes(8).length).toBe(8);
    const paths = decorate(path, ...layers());
    expect([paths.join("a", "..", "b"), paths.posix.basename("/a/b.c", ".c"), paths.sep]).toEqual([
      "b",
      "b",
      path.sep,
    ]);
    const Emitters = decorate(require("node:events") as typeof events, ...layers());
    const bell = new Emitters.EventEmitter();
    const heard: unknown[] = [];
    bell.on("ring", (times) => heard.push(times));
    expect([bell.emit("ring", 2), heard, Emitters.listenerCount(bell, "ring")]).toEqual([true, [2], 1]);
  });
});

describe("a closed wrapper behaves as an ordinary object", () => {
  class Quay {
    free = 3;
    take(): this {
      this.free -= 1;
      return this;
    }
    isSame(other: unknown): boolean {
      return other === this;
    }
    sees(
      options: { readonly of: { readonly quay: unknown } },
      list: readonly unknown[] = [],
    ): readonly boolean[] {
      return [options.of.quay === this, list[1] === this];
    }
    static compare(left: Quay, right: Quay): number {
      return left.free - right.free;
    }
  }

  test("as a prototype, behind a Proxy, with a borrowed method and after a deletion", () => {
    const [one, other] = [new Quay(), new Quay()];
    const wrapper = decorate(one);
    const derived = Object.create(wrapper) as Quay;
    expect([derived.take().free, wrapper.free, Object.hasOwn(derived, "free")]).toEqual([2, 3, true]);
    const proxied = new Proxy(wrapper, {});
    expect([proxied.take() === proxied, proxied.free, one.free]).toEqual([true, 2, 2]);
    expect([wrapper.take.call(other) === other, other.free, one.free]).toEqual([true, 2, 2]);
    Reflect.deleteProperty(wrapper, "free");
    expect(["free" in wrapper, wrapper.free, Object.keys(wrapper), "free" in one]).toEqual([
      false,
      undefined,
      [],
      false,
    ]);
    wrapper.free = 7;
    expect([wrapper.free, one.free, Object.keys(wrapper)]).toEqual([7, 7, ["free"]]);
  });

  test("behind one of many proxies, each finds its own subject", () => {
    const proxies = Array.from(
      { length: 50 },
      (_, free) => new Proxy(decorate(Object.assign(new Quay(), { free })), {}),
    );
    expect(proxies.map((proxy) => proxy.take().free)).toEqual(proxies.map((_, free) => free - 1));
  });

  test("that code of the subject recognises, also in options and lists", () => {
    const wrapper = decorate(new Quay());
    const options = { of: { quay: wrapper } };
    const list = [1, wrapper];
    expect([wrapper.isSame(wrapper), wrapper.isSame(decorate(new Quay()))]).toEqual([true, false]);
    expect(wrapper.sees(options, list)).toEqual([true, true]);
    expect([options.of.quay === wrapper, list[1] === wrapper]).toEqual([true, true]);
    expect(Quay.compare(wrapper, decorate(new Quay()))).toBe(0);
  });

  test("and passes lists and options that do not contain it by identity, without calling a getter", () => {
    fc.assert(
      fc.property(fc.anything(), fc.anything(), (first, second) => {
        const wrapper = decorate({ give: (...args: unknown[]) => [args.length, ...args] });
        const got = wrapper.give(first, second);
        expect([got[0], Object.is(got[1], first), Object.is(got[2], second)]).toEqual([2, true, true]);
      }),
    );
    let reads = 0;
    const options = { get quay() { return ++reads; } }; // biome-ignore format: one line
    decorate(new Quay()).isSame(options);
    expect(reads).toBe(0);
  });

  test("whose __proto__ is its own", () => {
    for (const layers of [[], [open()], [access(() => true)]]) {
      const subject = new Quay();
      const wrapper = decorate(subject, ...layers);
      try {
        Reflect.set(wrapper, "__proto__", { stolen: 1 });
      } catch {
        // A sealed wrapper refuses.
      }
      const isOpen = layers.length > 0 && subject instanceof Quay === false;
      expect(isOpen || Object.getPrototypeOf(subject) === Quay.prototype).toBe(true);
    }
  });
});

describe("decorated classes", () => {
  test("can be called if the original can, and stay abstract if it is", () => {
    for (const layers of [[], [logging({ logger: silent })]]) {
      const wrap = <Subject extends object>(subject: Subject) => decorate(subject, ...layers);
      expect([
        typeof wrap(Date)(),
        wrap(BigInt)(5),
        wrap(Number)("5"),
        typeof wrap(Symbol)("x"),
        wrap(Array)(3).length,
      ]).toEqual(["string", 5n, 5, "symbol", 3]);
      class Fleet extends wrap(Array)<number> {}
      expect(new Fleet(1, 2, 3).map((item) => item * 2) instanceof Fleet).toBe(true);
      expect(() => (wrap(Map) as never as () => void)()).toThrow(TypeError);
      class Shape {
        constructor() {
          if (new.target === Shape) throw new TypeError("abstract");
        }
      }
      const Wrapped = wrap(Shape);
      expect(() => new Wrapped()).toThrow("abstract");
      expect(new (class extends Wrapped {})() instanceof Wrapped).toBe(true);
      class Kind {
        readonly isBase = this.constructor === Kind;
        ring(): string {
          return "ding";
        }
      }
      const WrappedKind = wrap(Kind);
      expect([
        new WrappedKind().ring(),
        new WrappedKind() instanceof WrappedKind,
        new Kind() instanceof WrappedKind,
      ]).toEqual(["ding", true, false]);
    }
  });
});

test("consoles, assertions and clones see what the platform allows", () => {
  class Quay {
    free = 3;
  }
  const bare = inspect(new Quay());
  for (const [name, layers] of Object.entries(stacks)) {
    const wrapper = decorate(new Quay(), ...layers());
    if (name !== "sealed") expect([name, inspect(wrapper)]).toEqual([name, bare]);
    const plain = decorate({ free: 3 }, ...layers());
    assert.deepEqual({ ...plain }, { free: 3 });
    if (name.startsWith("closed")) expect(structuredClone(plain)).toEqual({ free: 3 });
    else expect(() => structuredClone(plain)).toThrow("could not be cloned");
    if (name === "open" || name === "deep") assert.deepStrictEqual(plain, { free: 3 });
    // Node.js 20 compares prototypes.
    else if (name.startsWith("closed")) expect(Object.getPrototypeOf(plain)).not.toBe(Object.prototype);
  }
});

test("errors of the host print as they do without a wrapper", () => {
  for (const [name, layers] of Object.entries(stacks)) {
    const print = (disk: typeof fs) => {
      try {
        disk.readFileSync(4.5 as never);
        return "";
      } catch (error) {
        return inspect(error).split("\n").filter((line) => !/^ +at /.test(line)).join("\n");
      }
    }; // biome-ignore format: short
    expect([name, print(decorate(fs, ...layers()))]).toEqual([name, print(fs)]);
  }
});
