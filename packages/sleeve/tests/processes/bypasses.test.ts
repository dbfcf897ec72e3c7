import { inspect } from "node:util";
import { access, bridge, decorate, decorateClass, deep, layer, logging, override, proxy } from "sleeve";
import { describe, expect, test } from "vitest";
import { sampled } from "../../../../tests/rotation.ts";

const silent = { logger: { info() {}, error() {} } };

class Shelf {
  readonly owner: Vault;
  constructor(owner: Vault) {
    this.owner = owner;
  }
  up(): Vault {
    return this.owner;
  }
  pluck(): unknown {
    return this.owner;
  }
}

/** An object whose members hand out values of every kind. Its secret is that of one instance. */
class Vault {
  readonly #secret: string;
  price = 10;
  readonly shelf = new Shelf(this);
  readonly items: unknown[] = ["rope", this];
  readonly arrow = (): string => this.#secret;
  readonly erase = Object.freeze(function erase(this: unknown): unknown {
    return this;
  });
  constructor(secret = "nothing") {
    this.#secret = secret;
  }
  get secret(): string {
    return this.#secret;
  }
  set secret(value: string) {
    this.price = value.length;
  }
  reveal(): string {
    return this.#secret;
  }
  greet(): string {
    return "good day";
  }
  self(): this {
    return this;
  }
  kind(): unknown {
    return this.constructor;
  }
  list(): unknown[] {
    return this.items;
  }
  map(): Map<unknown, unknown> {
    return new Map<unknown, unknown>([
      ["vault", this],
      [this, "vault"],
    ]);
  }
  set(): Set<unknown> {
    return new Set([this, this.shelf]);
  }
  record(): object {
    return { vault: this, deeper: { vault: this } };
  }
  inner(): Shelf {
    return this.shelf;
  }
  async later(): Promise<this> {
    return this;
  }
  *each(): Generator<unknown> {
    yield this;
  }
  method(): unknown {
    return this.reveal;
  }
  closure(): () => unknown {
    return () => this;
  }
  bound(): () => unknown {
    return this.reveal.bind(this);
  }
  call(back: (...values: unknown[]) => unknown): unknown {
    return back.call(this, this, [this], { vault: this });
  }
  fail(): never {
    throw Object.assign(new RangeError("stuck"), { vault: this, cause: this });
  }
  /** Attaches itself to whatever it gets. */
  annotate(value: object): object {
    Reflect.set(value, "owner", this);
    return value;
  }
  date(): object {
    return this.annotate(new Date(0));
  }
  bytes(): object {
    return this.annotate(new Uint8Array(4));
  }
  buffer(): object {
    return this.annotate(new ArrayBuffer(4));
  }
  pattern(): object {
    return this.annotate(/x/);
  }
  boxed(): object {
    return this.annotate(Object("x"));
  }
  error(): object {
    return this.annotate(new Error("x", { cause: this }));
  }
  promise(): object {
    return this.annotate(Promise.resolve(this));
  }
  inheriting(): object {
    return Object.create(this);
  }
  accessor(): unknown {
    return Object.getOwnPropertyDescriptor(Vault.prototype, "secret")?.get;
  }
  above(): unknown {
    return Object.getPrototypeOf(this);
  }
}

type Obtained = (vault: Vault) => unknown;

const caught = (run: () => unknown): unknown => {
  try {
    return run();
  } catch (error) {
    return error;
  }
};

/** Lets the subject attach itself to a value of the client's, and looks at that value. */
const annotated =
  (make: () => object): Obtained =>
  (vault) => {
    const value = make();
    return [value, vault.annotate(value)];
  };

class ClientPromise<Value> extends Promise<Value> {
  static override get [Symbol.species](): PromiseConstructor {
    return ClientPromise as PromiseConstructor;
  }
  set owner(value: unknown) {
    seen.push(value);
  }
}

/** Values that code of the client got while an attempt ran. */
const seen: unknown[] = [];

/** Everything that a client can obtain. */
const obtained: Readonly<Record<string, Obtained>> = {
  "the wrapper": (vault) => vault,
  "a list": (vault) => vault.list(),
  "an element": (vault) => vault.list()[1],
  "a map": (vault) => vault.map(),
  "a key of a map": (vault) => [...vault.map().keys()][1],
  "a set": (vault) => vault.set(),
  "a record": (vault) => vault.record(),
  "a child": (vault) => vault.inner(),
  "a child's parent": (vault) => vault.inner().up(),
  "its class": (vault) => vault.kind(),
  "the prototype of its class": (vault) => (vault.kind() as typeof Vault).prototype,
  "its prototype, handed out": (vault) => vault.above(),
  "an instance of its class": (vault) => new (vault.kind() as typeof Vault)(),
  itself: (vault) => vault.self(),
  "a promise": (vault) => vault.later(),
  "a promise with properties": (vault) => vault.promise(),
  "a generator": (vault) => vault.each(),
  "an item of a generator": (vault) => [...vault.each()][0],
  "a method, handed out": (vault) => vault.method(),
  "a closure": (vault) => vault.closure(),
  "what a closure returns": (vault) => vault.closure()(),
  "an accessor's function": (vault) => vault.accessor(),
  "a callback's argument": (vault) => vault.call((value) => value),
  "a callback's this": (vault) => vault.call(function (this: unknown) { return this; } as never),
  "a callback's list": (vault) => vault.call((_, list) => list),
  "an error": (vault) => caught(() => vault.fail()),
  "an error with a cause": (vault) => vault.error(),
  "a date": (vault) => vault.date(),
  "binary data": (vault) => vault.bytes(),
  "a buffer": (vault) => vault.buffer(),
  "a pattern": (vault) => vault.pattern(),
  "a boxed value": (vault) => vault.boxed(),
  "an inheriting object": (vault) => vault.inheriting(),
  "a member function": (vault) => vault.greet,
  "a frozen function": (vault) => vault.erase,
  "an allowed method's prototype": (vault) => Object.getPrototypeOf(vault.greet),
  "an object that inherits from it": (vault) => Object.create(vault),
  "a proxy around it": (vault) => new Proxy(vault, {}),
  "a date of its own": annotated(() => new Date(0)),
  "an error of its own": annotated(() => new Error("mine")),
  "a pattern of its own": annotated(() => /mine/),
  "binary data of its own": annotated(() => new Uint8Array(2)),
  "a boxed value of its own": annotated(() => Object("mine")),
  "a promise of its own": annotated(() => Promise.resolve(1)),
  "a promise class of its own": annotated(() => ClientPromise.resolve(1)),
  "an object of its own": annotated(() => ({})),
  "a function of its own": annotated(() => () => {}),
  "a proxy of its own": annotated(() => new Proxy({}, { set: (_, _key, value) => (seen.push(value), true) })),
  "a property of its own with a setter": annotated(() => ({ set owner(value: unknown) { seen.push(value); } })),
}; // biome-ignore format: one a line

const KEYS = ["secret", "reveal", "price", "arrow", "erase"] as const;

type Operation = (target: never, vault: Vault, key: (typeof KEYS)[number]) => unknown;

/** Reflective operations on something obtained, with the wrapper at hand. */
const operations: Readonly<Record<string, Operation>> = {
  read: (target: object, _, key) => Reflect.get(target, key),
  "read with the wrapper as receiver": (target: object, vault, key) => Reflect.get(target, key, vault),
  "read with another receiver": (target: object, _, key) => Reflect.get(target, key, {}),
  call: (target: Vault, _, key) => (target[key] as () => unknown)(),
  "call on the wrapper": (target: Vault, vault, key) => Reflect.apply(target[key] as never, vault, []),
  "call detached": (target: Vault, _, key) => { const fn = target[key] as () => unknown; return fn(); },
  "call bound": (target: Vault, vault, key) => (target[key] as unknown as () => unknown).bind(vault)(),
  "call itself on the wrapper": (target: () => unknown, vault) => target.call(vault),
  "call itself with the wrapper": (target: (value: unknown) => unknown, vault) => target(vault),
  construct: (target: new (vault: Vault) => Vault, vault, key) => new target(vault)[key],
  "construct as another class": (target: never, vault, key) => Reflect.get(Reflect.construct(target, [vault], Object) as object, key, vault),
  write: (target: object, _, key) => Reflect.set(target, key, 0),
  "write with the wrapper as receiver": (target: object, vault, key) => Reflect.set(target, key, () => "evil", vault),
  "write by super": (target: object, vault) => ({ __proto__: target, go() { super.price = 0 as never; } } as never as { go(): void }).go.call(vault),
  "read by super": (target: object, vault) => ({ __proto__: target, go(): unknown { return super.secret; } } as never as { go(): unknown }).go.call(vault),
  define: (target: object, _, key) => Reflect.defineProperty(target, key, { value: 0, configurable: true }),
  "define a getter": (target: object, vault, key) => { Reflect.defineProperty(target, key, { get() { seen.push(this); return this; }, configurable: true }); return Reflect.get(target, key, vault); },
  delete: (target: object, _, key) => Reflect.deleteProperty(target, key),
  describe: (target: object, vault, key) => { const found = Object.getOwnPropertyDescriptor(target, key); return found?.get ? found.get.call(vault) : found; },
  "describe and write": (target: object, vault, key) => Object.getOwnPropertyDescriptor(target, key)?.set?.call(vault, 0 as never),
  "look up a getter": (target: object, vault, key) => (target as { __lookupGetter__(key: string): (() => unknown) | undefined }).__lookupGetter__(key)?.call(vault),
  "define a getter the old way": (target: object, vault, key) => { (target as { __defineGetter__(key: string, get: () => unknown): void }).__defineGetter__(key, function (this: unknown) { seen.push(this); return 0; }); return Reflect.get(vault, key); },
  "set its prototype": (target: object, vault, key) => { Reflect.setPrototypeOf(target, vault); return Reflect.get(target, key); },
  "assign its prototype": (target: object, vault, key) => { Reflect.set(target, "__proto__", { steal: 1 }); return Reflect.get(vault, key); },
  "inherit from it": (target: object, vault, key) => Reflect.get(Object.create(target), key, vault),
  "wrap it in a Proxy": (target: object, vault, key) => Reflect.get(new Proxy(target, { get: (real, name) => Reflect.get(real, name, vault) }), key),
  "extend it": (target: new () => Vault, _, key) => new (class extends target {})()[key],
  "copy its fields": (target: object) => ({ ...target, ...Object.getOwnPropertyDescriptors(target) }),
  "assign to it": (target: object) => Object.assign(target, { price: 0, secret: 0, reveal: () => 0 }),
  "assign it to another": (target: object) => Object.assign({}, target),
  "freeze it": (target: object, vault, key) => { Object.freeze(target); return Reflect.get(vault, key); },
  "print it": (target) => inspect(target, { showHidden: true, showProxy: true, getters: true, depth: 3 }),
  "write it as JSON": (target) => JSON.stringify(target),
  "clone it": (target) => structuredClone(target),
  "iterate over it": (target: Iterable<unknown>) => [...target],
  "convert it": (target) => [`${target}`, +(target as number)],
  "use it as a promise": (target: Promise<unknown>) => target.then((value) => value),
  "use it as a built-in promise": (target: Promise<unknown>) => Promise.prototype.then.call(target, (value: unknown) => value),
  "put it into the wrapper": (target: object, vault) => vault.annotate(target),
  "hand it in as a callback": (target: () => unknown, vault) => vault.call(target),
  "find the wrapper in it": (target: unknown[], vault) => [target.concat?.(vault), target.map?.((item) => item), target.find?.(() => true)],
  "change its methods": (target: { [key: string]: unknown }, vault, key) => { target["greet"] = target[key]; return (vault as { greet(): unknown }).greet(); },
  "layer it": (target: object, vault, key) => Reflect.get(decorate(target, layer("client", { call: (next) => (call) => (seen.push(call.wrapper, ...call.args), next({ ...call, args: [vault] })), read: (next) => (call) => (seen.push(call.wrapper), next(call)) })), key, vault),
  "wrap it again": (target: object, _, key) => Reflect.get(decorate(target, deep()), key),
}; // biome-ignore format: one a line

const ALLOWED = new Set(
  Object.getOwnPropertyNames(Vault.prototype).filter((name) => name !== "reveal" && name !== "secret"),
);
ALLOWED.add("shelf").add("items").add("price").add("owner").add("up");

const may = ({ use, member }: { use: string; member: string }) =>
  use !== "write" &&
  (ALLOWED.has(member) ||
    /^Symbol|^(then|toJSON|at|map|find|concat|next|get|keys|values|length|\d)/.test(member));

const stacks: Readonly<Record<string, (vault: Vault) => Vault>> = {
  "an access check": (vault) => decorate(vault, access(may)),
  "a check that hides": (vault) => decorate(vault, access(may, { onDenied: "hide" })),
  "a deep check": (vault) => decorate(vault, deep(), access(may)),
  "a logged check": (vault) => decorate(vault, logging(silent), access(may), logging(silent)),
  "a check at first use": (vault) => proxy(() => vault, { layers: [access(may)] }),
  "a checked override": (vault) => decorate(override(vault, () => ({ greet: () => "hello" })), access(may)),
  "a checked bridge": (vault) => decorate(bridge<Vault>({ vault }, { start: "vault" }).port, access(may)),
}; // biome-ignore format: one a line

/** Whether a value is the subject or contains it or its secret, as far as a client can see. */
function leaks(value: unknown, vault: Vault, secret: string, depth = 0, known = new Set<unknown>()): boolean {
  if (typeof value === "string") return value.includes(secret);
  if (value === vault) return true;
  if ((typeof value !== "object" && typeof value !== "function") || value === null) return false;
  if (depth > 2 || known.has(value)) return false;
  known.add(value);
  return keysOf(value).some((key) => {
    try {
      return leaks(Reflect.get(value, key), vault, secret, depth + 1, known);
    } catch {
      return false;
    }
  });
}

function keysOf(value: object): readonly PropertyKey[] {
  try {
    return Reflect.ownKeys(value).slice(0, 12);
  } catch {
    return [];
  }
}

const CLASS_BEFORE = Object.getOwnPropertyDescriptors(Vault.prototype);

/** Restores the class, which an attempt may change only where nothing is checked. */
function restoreClass(): void {
  for (const key of Reflect.ownKeys(Vault.prototype)) {
    if (!(key in CLASS_BEFORE)) Reflect.deleteProperty(Vault.prototype, key);
  }
  Object.defineProperties(Vault.prototype, CLASS_BEFORE);
}

async function attempt(
  wrap: (vault: Vault) => Vault,
  obtain: Obtained,
  operation: Operation,
  key: (typeof KEYS)[number],
): Promise<string | undefined> {
  const secret = `secret-${Math.random()}`;
  const vault = new Vault(secret);
  seen.length = 0;
  const wrapper = wrap(vault);
  const before = { keys: Reflect.ownKeys(vault), prototype: Object.getPrototypeOf(vault) };
  let got: unknown;
  try {
    const target = obtain(wrapper);
    got = [target, await operation(target as never, wrapper, key)];
  } catch (error) {
    got = error;
  }
  if (leaks(got, vault, secret)) return "leaks";
  if (seen.some((value) => leaks(value, vault, secret))) return "was seen";
  if (vault.price !== 10) return "writes";
  if (Object.isFrozen(Vault.prototype)) throw new Error(`${operation} froze the class`);
  // The subject itself adds an owner to whatever it gets.
  const keys = Reflect.ownKeys(vault).filter((name) => name !== "owner");
  if (keys.length !== before.keys.length) return "adds or deletes";
  return Object.getPrototypeOf(vault) === before.prototype ? undefined : "changes the prototype";
}

const FULLY_TRIED: ReadonlySet<string> = new Set(["an access check", "a deep check"]);

/** An operation that ignores the key is tried once. Kinds of wrappers that share most of their code are tried with two keys. */
function keysFor(operation: Operation, stack: string): readonly (typeof KEYS)[number][] {
  if (operation.length < 3) return ["secret"];
  return FULLY_TRIED.has(stack) ? KEYS : ["secret", "price"];
}

describe.each(Object.entries(stacks))("%s", (stack, wrap) => {
  test.each(sampled(Object.entries(obtained)))("is not bypassed through %s", async (_, obtain) => {
    const successes: string[] = [];
    for (const [name, operation] of Object.entries(operations)) {
      for (const key of keysFor(operation, stack)) {
        const success = await attempt(wrap, obtain, operation, key);
        if (success) successes.push(`${name} ${key}: ${success}`);
        restoreClass();
      }
    }
    expect(successes.join("\n")).toBe("");
  });
});

const CLASS_SECRET = "secret of an instance";

test("a check of a class is not bypassed through what its instances hand out", async () => {
  const successes: string[] = [];
  const mayConstruct = (request: { use: string; member: string }) =>
    request.use === "construct" || may(request);
  for (const [from, obtain] of Object.entries(obtained)) {
    for (const [name, operation] of Object.entries(operations)) {
      seen.length = 0;
      const vault = new (decorateClass(Vault, access(mayConstruct)))(CLASS_SECRET);
      let got: unknown;
      try {
        got = [obtain(vault), await operation(obtain(vault) as never, vault, "secret")];
      } catch (error) {
        got = error;
      }
      const all = [got, ...seen];
      if (all.some((value) => leaks(value, {} as Vault, CLASS_SECRET))) successes.push(`${from}, ${name}`);
      restoreClass();
    }
  }
  expect(successes.join("\n")).toBe("");
});

test("the attempts are many, and succeed without a check", async () => {
  const uses = Object.keys(stacks).map(
    (stack) => Object.values(operations).flatMap((operation) => keysFor(operation, stack)).length,
  );
  expect([Object.keys(obtained).length, uses]).toEqual([49, [152, 71, 152, 71, 71, 71, 71]]);
  const unchecked = await Promise.all(
    Object.values(operations)
      .slice(0, 2)
      .map((operation) =>
        attempt(
          (vault) => vault,
          (vault) => vault,
          operation,
          "secret",
        ),
      ),
  );
  expect(unchecked.every((success) => success === "leaks")).toBe(true);
});
