import { access, decorate, deep, logging } from "sleeve";
import { describe, expect, test } from "vitest";

class Lock {
  readonly #code = "4711";
  wear = 0;
  readonly parts: unknown[] = ["bolt"];
  open(code: string): boolean {
    this.wear += 1;
    return code === this.#code;
  }
  self(): this {
    return this;
  }
  same(other: unknown): boolean {
    return other === this;
  }
  reveal(): string {
    return this.#code;
  }
  fail(): never {
    throw new RangeError("jammed");
  }
  at(): Date {
    return DAY;
  }
  get code(): string {
    return this.#code;
  }
  run(back: (lock: Lock) => unknown): unknown {
    return back(this);
  }
}
const DAY = new Date(0);

/** The functions of the language that a client can replace. */
const holders: Readonly<Record<string, object>> = {
  Reflect, Object, "Object.prototype": Object.prototype, "Function.prototype": Function.prototype, Array, "Array.prototype": Array.prototype,
  "an array's iterator": Object.getPrototypeOf([][Symbol.iterator]()) as object, "Map.prototype": Map.prototype, "Set.prototype": Set.prototype,
  "WeakMap.prototype": WeakMap.prototype, "WeakSet.prototype": WeakSet.prototype, Promise, "Promise.prototype": Promise.prototype,
  "String.prototype": String.prototype, "Date.prototype": Date.prototype, "RegExp.prototype": RegExp.prototype, "Error.prototype": Error.prototype,
  "Symbol.prototype": Symbol.prototype, globalThis: { Proxy, Reflect, WeakMap, Map, Object, Array, Promise, Symbol, String, Error },
}; // biome-ignore format: a list

const targets: readonly (readonly [label: string, holder: object, key: PropertyKey])[] = Object.entries(
  holders,
).flatMap(([label, holder]) =>
  Reflect.ownKeys(holder).flatMap((key) => {
    const found = Object.getOwnPropertyDescriptor(holder, key);
    const real = label === "globalThis" ? globalThis : holder;
    return typeof found?.value === "function" && key !== "constructor" && found.configurable
      ? [[`${label}.${String(key)}`, real, key] as const]
      : [];
  }),
);

/** Uses a checked wrapper in all ways. Calls nothing that may be replaced. */
function scenario(lock: Lock): unknown[] {
  const outcomes: unknown[] = [];
  let count = 0;
  const note = (run: () => unknown): void => {
    try {
      outcomes[count++] = run();
    } catch (error) {
      outcomes[count++] = (error as { code?: string }).code ?? (error as Error).message;
    }
  };
  note(() => lock.open("1"));
  note(() => lock.self() === lock);
  note(() => lock.same(lock));
  note(() => lock.reveal());
  note(() => lock.code);
  note(() => lock.fail());
  note(() => lock.at().getTime());
  note(() => lock.parts[0]);
  note(() => lock.run((inner) => inner === lock && inner.reveal()));
  note(() => "open" in lock);
  note(() => {
    lock.wear = 9;
  });
  note(() => delete (lock as Partial<Lock>).wear);
  note(() => {
    const keys = [];
    for (const key in lock) keys[keys.length] = key;
    return keys.length;
  });
  return outcomes;
}

const may = ({ member, use }: { member: string; use: string }) =>
  use !== "write" && member !== "reveal" && member !== "code";

const stacks = {
  "an access check": () => [access(may)],
  "a deep check": () => [deep(), access(may)],
  "a logged check": () => [logging({ logger: { info() {}, error() {} } }), access(may)],
};

/** Replaces functions by ones that record their receiver, arguments and result, while `run` runs. */
function recording(replaced: typeof targets, run: () => void): readonly unknown[] {
  const recorded: unknown[] = [];
  const { apply, construct, defineProperty, getOwnPropertyDescriptor, setPrototypeOf } = Reflect;
  let count = 0;
  const record = (value: unknown) => {
    defineProperty(recorded, count++, { value, configurable: true });
  };
  const befores = replaced.map(
    ([, holder, key]) => [holder, key, getOwnPropertyDescriptor(holder, key)] as const,
  );
  for (let index = 0; index < befores.length; index++) {
    const [holder, key, before] = befores[index] as (typeof befores)[number];
    const original = before?.value as (...args: unknown[]) => unknown;
    const spy = function (this: unknown, ...args: unknown[]): unknown {
      record(this);
      for (let at = 0; at < args.length; at++) record(args[at]);
      const result = new.target ? construct(original, args) : apply(original, this, args);
      record(result);
      return result;
    };
    defineProperty(spy, "prototype", { value: original.prototype });
    setPrototypeOf(spy, original);
    defineProperty(holder, key, { ...before, value: spy });
  }
  try {
    run();
  } finally {
    for (let index = 0; index < befores.length; index++) {
      const [holder, key, before] = befores[index] as (typeof befores)[number];
      defineProperty(holder, key, before as PropertyDescriptor);
    }
  }
  return recorded;
}

/** Whether a recorded value is the subject, or a list, description or map that contains it. */
function reveals(value: unknown, lock: object): boolean {
  if (value === lock || value === "4711") return true;
  if (typeof value !== "object" || value === null) return false;
  if (value instanceof Map) return [...value].flat().includes(lock);
  return Reflect.ownKeys(value).some((key) => Object.getOwnPropertyDescriptor(value, key)?.value === lock);
}

describe.each(Object.entries(stacks))("%s, when built-ins are replaced after loading,", (_, layers) => {
  const expected = scenario(decorate(new Lock(), ...layers()));

  test("behaves as before, and shows the subject to none of them", () => {
    const failures: string[] = [];
    for (const target of targets) {
      const lock = new Lock();
      const wrapper = decorate(lock, ...layers());
      let outcomes: unknown;
      const recorded = recording([target], () => {
        outcomes = scenario(wrapper);
      });
      if (recorded.some((value) => reveals(value, lock))) failures.push(`${target[0]} saw the subject`);
      if (JSON.stringify(outcomes) !== JSON.stringify(expected))
        failures.push(`${target[0]} changed an outcome`);
    }
    expect(failures.join("\n")).toBe("");
  });

  test("is created with the layers that it was given", () => {
    const failures: string[] = [];
    for (const target of targets) {
      const lock = new Lock();
      let outcomes: unknown;
      const given = layers();
      const recorded = recording([target], () => {
        outcomes = scenario(decorate(lock, ...given));
      });
      // `decorate` receives the subject from its caller, who may spread the layers.
      if (JSON.stringify(outcomes) !== JSON.stringify(expected))
        failures.push(`${target[0]} changed an outcome`);
      if (recorded.some((value) => value === "4711")) failures.push(target[0]);
    }
    expect(failures.join("\n")).toBe("");
  });

  test("calls no setter that was added to lists", () => {
    const seen: unknown[] = [];
    const lock = new Lock();
    const wrapper = decorate(lock, ...layers());
    let outcomes: unknown;
    const keys = [0, 1, 2];
    for (const key of keys) {
      Object.defineProperty(Array.prototype, key, {
        set(value) {
          Object.defineProperty(seen, seen.length, { value, configurable: true });
          Object.defineProperty(this, key, { value, writable: true, configurable: true, enumerable: true });
        },
        configurable: true,
      });
    }
    try {
      outcomes = scenario(wrapper);
    } finally {
      for (const key of keys) Reflect.deleteProperty(Array.prototype, key);
    }
    expect([(outcomes as unknown[]).length, seen.some((value) => reveals(value, lock))]).toEqual([
      expected.length,
      false,
    ]);
  });
});

test("every kind of built-in is replaced", () => {
  expect([Object.keys(holders).length, targets.length > 200, Object.keys(stacks).length]).toEqual([
    19,
    true,
    3,
  ]);
});
