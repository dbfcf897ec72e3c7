import { EventEmitter } from "node:events";
import fc from "fast-check";
import { type Layer, logging, open, timing } from "sleeve";
import { describe, expect, test } from "vitest";
import { decorateAny as decorate } from "../decorate-any.ts";

const silent = { info: () => {}, error: () => {} };
const watching = () => [logging({ logger: silent }), timing({ onSample: () => {} })];
const stacks: Readonly<Record<string, () => Layer[]>> = {
  closed: () => [],
  "closed, watched": watching,
  open: () => [open()],
  "open, watched": () => [open(), ...watching()],
};

/** Returns the layers that a subject requires. */
function requiredBy(subject: object): readonly Layer[] {
  return Array.isArray(subject) || ArrayBuffer.isView(subject) ? [open()] : [];
}

const MARK = Symbol("mark");

class Mast {
  height = 12;
  flags: string[] = ["N"];
  #lamps = 1;
  get lamps(): number {
    return this.#lamps;
  }
  set lamps(value: number) {
    this.#lamps = value;
  }
  hoist(flag: string): this {
    this.flags.push(flag);
    return this;
  }
  isMast(other: unknown): boolean {
    return other === this;
  }
  [MARK](): string {
    return `mast of ${this.height}`;
  }
}

class OpenMast {
  height = 12;
  raise(by = 1): this {
    this.height += by;
    return this;
  }
  is(other: unknown): boolean {
    return other === this;
  }
  get tall(): boolean {
    return this.height > 10;
  }
  toJSON(): object {
    return { mast: this.height };
  }
}

function OldMast(this: { height: number }) {
  this.height = 3;
}
OldMast.prototype.raise = function (this: { height: number }, by: number) {
  this.height += by;
  return this.height;
};

const NewOldMast = OldMast as unknown as new () => object;

/** Subjects of many kinds. Each creates two equal ones. */
const kinds: Readonly<Record<string, () => object>> = {
  "an object literal": () => ({ a: 1, b: "x", sum(this: { a: number }, by: number) { return this.a + by; } }),
  "an object of closures": () => { let a = 0; return { add: (by: number) => (a += by), get total() { return a; } }; },
  "a class with private fields": () => new Mast(),
  "a class with public fields": () => new OpenMast(),
  "a subclass": () => new (class extends OpenMast { override raise(by = 2) { return super.raise(by * 2); } })(),
  "an old constructor's object": () => new NewOldMast(),
  "a frozen object": () => Object.freeze({ a: 1, f: () => 2 }),
  "a sealed object": () => Object.seal({ a: 1 }),
  "a non-extensible object": () => Object.preventExtensions({ a: 1, g: () => 1 }),
  "an object without a prototype": () => Object.assign(Object.create(null), { a: 1, f: () => 3 }),
  "an object that inherits from another": () => Object.create({ a: 1, f() { return typeof this; } }, { b: { value: 2, writable: true, configurable: true, enumerable: true } }),
  "an object with hidden properties": () => Object.defineProperties({ a: 1 }, { hidden: { value: 1, configurable: true }, own: { get: () => 3, configurable: true, enumerable: true } }),
  "an object with symbols": () => ({ [MARK]: 1, [Symbol.toPrimitive]: () => 7, a: 2 }),
  "an array": () => [3, 1, 2],
  "an array of a class": () => new (class extends Array<number> { get first() { return this[0]; } })(1, 2, 3),
  "a Map": () => new Map<unknown, unknown>([["a", 1]]),
  "a Set": () => new Set([1, 2]),
  "a WeakMap": () => new WeakMap(),
  "a Date": () => new Date(86_400_000),
  "a pattern": () => /b(?<rest>.*)/g,
  "an error": () => Object.assign(new RangeError("far"), { code: 4 }),
  "a URL": () => new URL("https://ellery.example/tides?day=1"),
  "search parameters": () => new URLSearchParams("a=1&b=2"),
  "a typed array": () => new Uint8Array([3, 1, 2]),
  "a buffer": () => Buffer.from("tide"),
  "a data view": () => new DataView(new ArrayBuffer(4)),
  "an event emitter": () => new EventEmitter(),
  "a promise": () => Promise.resolve(4),
  "a thenable": () => ({ then: (resolve: (value: number) => void) => resolve(4) }),
  "a generator": () => (function* () { yield 1; yield 2; })(),
  "a function": () => function add(left: number, right: number) { return left + right; },
  "an arrow function": () => (value: unknown) => value,
  "an async function": () => async (value: unknown) => value,
  "a function with properties": () => Object.assign((by: number) => by * 2, { unit: "m", twice: (of: number) => of * 2 }),
  "a class": () => class Lamp { static unit = "W"; static of() { return new Lamp(); } watts = 5; shine() { return this.watts; } },
  "an object of functions": () => ({ Make: function Make(this: { a: number }) { this.a = 1; }, double: Object.assign((by: number) => by * 2, { calls: 3 }) }),
  "an object with a get trap": () => new Proxy({}, { get: (target, key, receiver) => (typeof key === "string" && /^([a-f]|toString)$/.test(key) ? () => key : Reflect.get(target, key, receiver)) }),
}; // biome-ignore format: one a line

type Bag = Record<PropertyKey, unknown>;

/** What an operation acts on: the object, or one that a client derives from it. */
const receivers = ["itself", "derived", "proxied"] as const;

const operations = {
  read: (it: Bag, key) => it[key],
  write: (it: Bag, key, value) => Reflect.set(it, key, value),
  call: (it: Bag, key, value) => (it[key] as (value: unknown) => unknown)(value),
  "call without arguments": (it: Bag, key) => (it[key] as () => unknown)(),
  "call with the object": (it: Bag, key) => (it[key] as (value: unknown) => unknown)(it),
  "call it": (it: unknown, _, value) => (it as (...values: unknown[]) => unknown)(value, 2),
  "construct it": (it: unknown) => Object.keys(new (it as new () => object)()),
  "construct a member": (it: Bag, key) => Object.keys(new (it[key] as new () => object)()),
  "a member's properties": (it: Bag, key) => (typeof it[key] === "function" ? [Object.keys(it[key]), "prototype" in it[key], it[key].name, it[key].length] : 0),
  "own key": (it: Bag, key) => Object.hasOwn(it, key),
  in: (it: Bag, key) => key in it,
  delete: (it: Bag, key) => Reflect.deleteProperty(it, key),
  define: (it: Bag, key, value) => Reflect.defineProperty(it, key, { value, enumerable: true, configurable: true, writable: true }),
  describe: (it: Bag, key) => { const found = Object.getOwnPropertyDescriptor(it, key); return found && { ...found, get: typeof found.get, set: typeof found.set, value: typeof found.value }; },
  attributes: (it: Bag, key) => { const found = Object.getOwnPropertyDescriptor(it, key); return found && [found.enumerable, found.configurable]; },
  keys: (it: object) => Reflect.ownKeys(it).map(String),
  "enumerable keys": (it: object) => Object.keys(it),
  entries: (it: object) => Object.entries(it).map(([key, value]) => [key, typeof value]),
  spread: (it: object) => Object.keys({ ...it }),
  "for in": (it: object) => { const keys = []; for (const key in it) keys.push(key); return keys; },
  JSON: (it: object) => JSON.stringify(it),
  iterate: (it: Iterable<unknown>) => [...it].slice(0, 5),
  tag: (it) => Object.prototype.toString.call(it),
  "convert to a string": (it) => (typeof it === "function" ? 0 : String(it)),
  "convert to a number": (it) => (typeof it === "function" ? 0 : Number(it)),
  extensible: (it: object) => Object.isExtensible(it),
  frozen: (it: object) => [Object.isFrozen(it), Object.isSealed(it)],
  freeze: (it: object) => { Object.freeze(it); return [Object.isFrozen(it), Reflect.set(it, "a", 5), Reflect.set(it, "added", 5)]; },
  "prevent extensions": (it: object) => { Object.preventExtensions(it); return [Object.isExtensible(it), Reflect.set(it, "added", 5)]; },
  constructor: (it: object) => (it.constructor as { name?: string } | undefined)?.name,
  instanceof: (it: unknown) => [Object, Function, Array, Map, Set, Date, Error, RegExp, Promise, EventEmitter, Uint8Array, URL].map((Class) => it instanceof Class),
  prototype: (it: object, key) => { const above = Object.getPrototypeOf(it) as Bag | null; return above && Object.hasOwn(above, key); },
  "assign from it": (it: object) => Object.keys(Object.assign({}, it)),
  "read with another receiver": (it: object, key) => Reflect.get(it, key, {}),
  "write with another receiver": (it: object, key, value) => { const other: Bag = {}; return [Reflect.set(it, key, value, other), Object.keys(other)]; },
  "borrow a member": (it: Bag, key, value) => { const other = new OpenMast(); return [Reflect.apply(it[key] as never, other, [value]) === other, other.height]; },
  "detach a member": (it: Bag, key) => { const fn = it[key] as (value: number) => unknown; return fn(3); },
  "same member twice": (it: Bag, key) => { const [first, second] = [it[key], it[key]]; return first === second; },
  clone: (it) => structuredClone(it),
  typeof: (it) => typeof it,
} satisfies Record<string, (it: never, key: PropertyKey, value: unknown) => unknown>; // biome-ignore format: one a line

type Name = keyof typeof operations;

interface Step {
  readonly operation: Name;
  readonly on: (typeof receivers)[number];
  readonly key: number;
  readonly value: unknown;
}

const step: fc.Arbitrary<Step> = fc.record({
  operation: fc.constantFrom(...(Object.keys(operations) as Name[])),
  on: fc.constantFrom(...receivers, "itself" as const, "itself" as const),
  key: fc.nat(30),
  value: fc.constantFrom<unknown>(1, 2, "x", undefined, null, true),
});

/** The keys of a subject that programs use: its own and inherited ones, and some that it may lack. */
function keysOf(subject: object): readonly PropertyKey[] {
  const keys = new Set<PropertyKey>();
  for (
    let holder: object | null = subject;
    holder && keys.size < 14;
    holder = Object.getPrototypeOf(holder)
  ) {
    for (const key of Reflect.ownKeys(holder).slice(0, 12))
      if (!UNUSABLE.has(key) && !/async_id|trigger_async/.test(String(key))) keys.add(key);
  }
  return [
    ...keys,
    "a",
    "b",
    "added",
    "toString",
    "constructor",
    "valueOf",
    "then",
    "length",
    Symbol.iterator,
    "__proto__",
  ];
}

/** Keys whose outcome depends on the moment, on the process, or on V8's own bookkeeping. */
const UNUSABLE: ReadonlySet<PropertyKey> = new Set(["stack", "parent", "caller", "arguments"]);

/** Describes an outcome, so that those of a subject and of its wrapper can be compared. */
function shown(value: unknown, it: object, depth = 0): unknown {
  if (value === it) return "itself";
  if (typeof value === "function") return `function ${value.length}`;
  if (typeof value === "symbol") return String(value);
  if (typeof value !== "object" || value === null) return value;
  if (value instanceof Promise) { value.catch(() => {}); return "a promise"; }
  if (depth > 2) return "deeper";
  const tag = Object.prototype.toString.call(value);
  return [tag, ...Object.keys(value).slice(0, 12).map((key) => [key, shown((value as Bag)[key], it, depth + 1)])];
} // biome-ignore format: one a line

function outcomeOf({ operation, on, key, value }: Step, it: object, keys: readonly PropertyKey[]): unknown {
  const run = operations[operation] as (it: unknown, key: PropertyKey, value: unknown) => unknown;
  const receiver: object =
    on === "itself" ? it : on === "derived" ? (Object.create(it) as object) : new Proxy(it, {});
  try {
    return shown(run(receiver, keys[key % keys.length] as PropertyKey, value), receiver);
  } catch (error) {
    return `throws ${error instanceof Error ? error.name : String(error)}`;
  }
}

interface Difference {
  /** The forwarding modes in which the wrapper differs. */
  readonly in: "closed" | "open" | "all";
  /** Whether the difference may show in a later step only, so that a program ends with this one. */
  readonly endsProgram?: boolean;
  readonly holds: (step: Step, key: PropertyKey, kind: string) => boolean;
}

const isOneOf =
  (...names: readonly Name[]) =>
  ({ operation }: Step): boolean =>
    names.includes(operation);

const isFunctionKind = (kind: string) =>
  /function(s|$| with)|^a class$/.test(kind) && kind !== "an object of functions";

/** The differences between a wrapper and its subject that docs/fidelity.md documents. The last test checks that each is needed. */
const differences: Readonly<Record<string, Difference>> = {
  "defining or freezing changes a closed wrapper only": { in: "closed", endsProgram: true, holds: isOneOf("define", "freeze", "prevent extensions") },
  "deleting reaches the subject when the key is next looked up": { in: "closed", endsProgram: true, holds: isOneOf("delete") },
  "assigning to an inherited member": { in: "closed", endsProgram: true, holds: ({ operation, on }) => operation === "write" && on !== "derived" },
  "descriptors have accessors": { in: "closed", holds: isOneOf("describe", "frozen", "attributes") },
  "the prototype is the wrapper's own": { in: "closed", holds: ({ operation }, key) => operation === "prototype" || key === "__proto__" },
  "a read or write names another receiver": { in: "closed", holds: isOneOf("read with another receiver", "write with another receiver") },
  "own functions are bound if they are detached": { in: "closed", holds: isOneOf("detach a member") },
  "source text is the wrapper's": { in: "all", holds: ({ operation }, key, kind) => isFunctionKind(kind) && operation.startsWith("call") && /^(to(Locale)?String|constructor)$/.test(String(key)) },
  "a wrapper that is passed in and comes back in another object": { in: "all", holds: ({ operation }, _, kind) => operation === "call with the object" && kind === "a generator" },
  "watching a generator gives it methods of its own": { in: "all", holds: ({ operation }, key, kind) => kind === "a generator" && (!operation.startsWith("call") || ["next", "return", "throw"].includes(String(key))) },
  "a client's own Proxy around a closed wrapper that is not extensible": { in: "closed", holds: ({ on }, _, kind) => on === "proxied" && /frozen|sealed|extensible/.test(kind) },
  "a typed array that is not extensible counts as sealed": { in: "all", holds: ({ operation }, _, kind) => operation === "frozen" && /typed array|buffer/.test(kind) },
  "internal slots cannot be cloned": { in: "all", holds: isOneOf("clone") },
  "an object that inherits from an open wrapper, which an array always has": { in: "all", holds: ({ operation, on }) => on === "derived" && (operation === "tag" || operation === "for in") },
}; // biome-ignore format: one a line

const used = new Set<string>();

/** Runs programs on subjects and on wrappers of equal ones. Returns the first undocumented difference of each program. */
function compare(
  stack: string,
  kind: string,
  create: () => object,
  layers: () => Layer[],
): readonly string[] {
  const unexpected: string[] = [];
  const keys = keysOf(create());
  const documented = Object.entries(differences).filter(
    ([, difference]) => difference.in === "all" || stack.startsWith(difference.in),
  );
  const programs = fc.sample(fc.array(step, { minLength: 1, maxLength: 8 }), {
    numRuns: kind === "a generator" ? 5 * RUNS : RUNS,
    seed: SEED + kind.length * 131 + stack.length,
  });
  for (const program of programs) {
    const bare = create();
    const subject = create();
    const wrapper = decorate(subject, ...layers(), ...requiredBy(subject));
    let isOver = false;
    const ended = new Set<string>();
    for (const step of program) {
      const [expected, actual] = [outcomeOf(step, bare, keys), outcomeOf(step, wrapper, keys)];
      const key = keys[step.key % keys.length] as PropertyKey;
      const holding = documented.filter(([, difference]) => difference.holds(step, key, kind));
      if (JSON.stringify(expected) !== JSON.stringify(actual)) {
        for (const [name] of holding) used.add(name);
        // After a step that separates the two, a later difference shows only that the step did.
        if (isOver) for (const name of ended) used.add(name);
        else if (holding.length === 0)
          unexpected.push(
            `${step.operation} ${String(key)} ${step.on}: ${JSON.stringify(expected)} but ${JSON.stringify(actual)}`,
          );
        break;
      }
      isOver ||= holding.some(([, { endsProgram }]) => endsProgram);
      if (isOver) for (const [name, { endsProgram }] of holding) if (endsProgram) ended.add(name);
    }
  }
  return unexpected;
}

/** All programs on one shape together stay below the number of wrappers that are found behind a client's own `Proxy`. */
const RUNS = 60;
const SEED = 20_261_127;

describe.each(Object.entries(stacks))("%s", (stack, layers) => {
  test.each(Object.entries(kinds))(
    "a wrapper of %s behaves as its subject in random programs",
    (kind, create) => {
      const found = compare(stack, kind, create, layers);
      expect(found.join("\n")).toBe("");
    },
  );
});

test("each documented difference is needed", () => {
  expect(Object.keys(differences).filter((name) => !used.has(name))).toEqual([]);
  expect([Object.keys(kinds).length, Object.keys(stacks).length, Object.keys(operations).length]).toEqual([
    37, 4, 40,
  ]);
});
