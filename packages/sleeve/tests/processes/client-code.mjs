// Run by client-code.test.ts: a checked subject uses classes, prototypes, accessors, errors and generators of its client, in
// every form of wrapper. Prints what the client's code got of the subject, as JSON.
import { EventEmitter } from "node:events";
import { access, bridge, decorate, decorateClass, deep, inContext, logging, override, proxy } from "sleeve";

const PIN = "the pin of the subject";

/** What code of the subject does with something of the client's, `x`, and with itself, `me`. */
const uses = {
  call: (x, me) => x(me),
  "call with itself as this": (x, me) => x.call(me, me),
  apply: (x, me) => Reflect.apply(x, me, [me]),
  "call by call": (x, me) => Function.prototype.call.call(x, me, me),
  bind: (x, me) => x.bind(me, me)(),
  tag: (x, me) => x`${me}`,
  new: (x, me) => new x(me),
  "construct as another class": (x, me) => Reflect.construct(x, [me], class { m2() { return me; } }),
  "extend, super with itself": (x, me) => new (class extends x { constructor() { super(me); } })(),
  "extend, field": (x, me) => new (class extends x { owner = me; })(),
  "extend, assign": (x, me) => new (class extends x { constructor() { super(); this.z = me; this.owner = me; } })(),
  "extend, call": (x, me) => new (class extends x { constructor() { super(); this.m(me); } })(),
  "extend, super call": (x, me) => new (class extends x { go() { return super.m(me); } })().go(),
  "extend, super assign": (x, me) => new (class extends x { go() { super.z = me; } })().go(),
  "extend, static": (x, me) => { class X extends x {} X.s(me); X.t = me; return X; },
  "extend, hand out": (x, me) => class extends x { me() { return me; } get g2() { return me; } },
  "inherit the old way": (x, me) => { function X() { x.call(this, me); this.owner = me; } X.prototype = Object.create(x.prototype, { me: { value: me } }); Object.setPrototypeOf(X, x); return new X().m(me); },
  "prototype's method": (x, me) => x.prototype.m(me),
  "prototype's method on itself": (x, me) => x.prototype.m.call(me, me),
  "prototype's setter": (x, me) => { x.prototype.z = me; },
  "prototype's new property": (x, me) => { x.prototype.owner = me; },
  "prototype defined": (x, me) => Object.defineProperty(x.prototype, "owner", { get: () => me, configurable: true }),
  "object of the prototype": (x, me) => { const made = Object.create(x.prototype); made.m(me); made.z = me; return made; },
  "its prototype's method": (x, me) => Object.getPrototypeOf(x).m.call({}, me),
  "its prototype's setter": (x, me) => { prototypeOf(x).z = me; },
  "its prototype's new property": (x, me) => Reflect.set(prototypeOf(x), "owner", me),
  "its class's prototype": (x, me) => x.constructor.prototype.m.call(x, me),
  "its class": (x, me) => x.constructor.s(me),
  "its class again": (x, me) => new x.constructor(me),
  "static call": (x, me) => x.s(me),
  "static setter": (x, me) => { x.t = me; },
  method: (x, me) => x.m(me),
  "every method": (x, me) => { for (const key of Reflect.ownKeys(Object.getPrototypeOf(x))) try { x[key](me); } catch {} },
  setter: (x, me) => { x.z = me; },
  "new property": (x, me) => { x.owner = me; },
  "own property defined": (x, me) => Object.defineProperty(x, "owner", { value: me, configurable: true }),
  "own getter defined": (x, me) => Object.defineProperty(x, "owner", { get: () => me, configurable: true }),
  assign: (x, me) => Object.assign(x, { z: me, owner: me }),
  "replace a method": (x, me) => { x.m = () => me; return x; },
  "set its prototype": (x, me) => Object.setPrototypeOf(x, me),
  "inherit from it": (x, me) => { const made = Object.create(x); made.z = me; made.owner = me; return made.m(me); },
  "get with a receiver": (x, me) => Reflect.get(x, "g", me),
  "set with a receiver": (x, me) => Reflect.set(x, "z", me, me),
  instanceof: (x, me) => [me instanceof x, x instanceof me.constructor],
  "is it equal": (x, me) => [x === me, Object.is(x, me)],
  has: (x, me) => [me in x, "owner" in x],
  spread: (x, me) => [...x, me],
  "loop over it": (x, me) => { for (const value of x) value.owner = me; },
  destructure: (x, me) => { const [first, second] = x; first(me); second(me); },
  "from iterable": (x, me) => Array.from(x, (value) => [value, me]),
  next: (x, me) => [x.next(me), x.next(me)],
  "end an iterator": (x, me) => [x.next(), x.return(me)],
  "throw into an iterator": (x, me) => [x.next(), x.throw(me)],
  "run a generator": (x, me) => { const steps = x(me); steps.next(me); return steps.next(me); },
  "throw into a generator": (x, me) => { const steps = x(); steps.next(); return steps.throw(me); },
  "delegate to a generator": (x, me) => { const outer = (function* () { yield me; yield* x(me); })(); outer.next(); return [outer.next(me), outer.next(me)]; },
  "loop asynchronously": async (x, me) => { for await (const value of x(me)) value.owner = me; },
  await: async (x, me) => [await x, me],
  then: (x, me) => x.then(() => me, () => me),
  "resolve with itself": (x, me) => Promise.resolve(me).then(x),
  "reject with itself": (x, me) => Promise.reject(me).catch(x),
  "resolve with it": (x, me) => new Promise((resolve) => resolve(x)).then((value) => value.m(me)),
  emit: (x, me) => { x.on("e", () => me); return x.emit("e", me); },
  "class emits": (x, me) => { const made = new (class extends x {})(); made.on("e", function () { return [this, me]; }); return [made.emit("e", me), made]; },
  "to text": (x, me) => [`${x}`, String(x), me],
  "to JSON": (x, me) => JSON.stringify({ x, y: { me: me.name } }, x),
  push: (x, me) => x.push(me),
  "map and set": (x, me) => { x.set?.(me, me); x.add?.(me); return x; },
  "array method": (x, me) => [x.map(() => me), x.concat(me), x.sort(() => 1)],
  "callback of an array": (x, me) => [[me].map(x), [me, me].sort(x), [me].find(x)],
  "callback of a map": (x, me) => new Map([[me, me]]).forEach(x, me),
  "reviver and replacer": (x, me) => "ab".replace(/a/, x.bind(me)),
  "array species": (x, me) => x.constructor[Symbol.species] && x.slice().push(me),
  throw: (x) => { throw x; },
  "throw with itself": (x, me) => { throw Object.assign(x, { owner: me }); },
  "rethrow what it throws": (x, me) => { try { x(); } catch (error) { error.owner = me; error.z = me; throw error; } return 0; },
  "wrap as a cause": (x, me) => { throw new Error("failed", { cause: { x, me } }); },
  "extend and throw": (x, me) => { throw new (class extends x { owner = me; })("failed"); },
  "return with itself": (x, me) => ({ x, me, list: [x, me] }),
  "return a closure": (x, me) => () => [x, me],
  keep: (x, me) => { me.kept = x; return x; },
  "define on itself": (x, me) => { Object.defineProperty(me, "extra", { get: x, set: x, configurable: true }); me.extra = me; return me.extra; },
  "symbol of itself": (x, me) => x[Symbol.toPrimitive]?.(me),
}; // biome-ignore format: one a line

/** Classes and prototypes that all code of the realm shares, where it needs no wrapper to find what other code attaches. */
const shared = new Set();
for (const value of [
  {},
  [],
  () => {},
  async () => {},
  function* () {},
  async function* () {},
  new Map(),
  Promise.resolve(),
  new Error(),
  new TypeError(),
  new RangeError(),
  new Date(),
  new Uint8Array(),
  new EventEmitter(),
])
  for (let holder = Object.getPrototypeOf(value); holder; holder = Object.getPrototypeOf(holder))
    shared.add(holder).add(holder.constructor);

function prototypeOf(x) {
  const prototype = Object.getPrototypeOf(x);
  if (shared.has(prototype)) throw new Error("shared");
  return prototype;
}

/** What a client passes. `see` records what its code gets. */
const things = {
  class: (see) => classOf(see),
  "derived class": (see) => class extends classOf(see) { constructor(...args) { super(...args); see(args, this, new.target); } },
  "old constructor": (see) => oldClassOf(see),
  "class of emitters": (see) => class extends EventEmitter { m(v) { see(this, v); } set z(v) { see(this, v); } emit(...args) { see(this, args); return super.emit(...args); } on(name, f) { see(this, f); try { see(f(see)); } catch {} return super.on(name, f); } },
  "class of errors": (see) => class extends Error { constructor(...args) { super("x"); see(args); } set owner(v) { see(this, v); } set z(v) { see(this, v); } m(v) { see(this, v); } },
  "class of errors with a setter": (see) => class extends RangeError { set owner(v) { see(this, v); } },
  "class of maps": (see) => class extends Map { set(k, v) { see(this, k, v); return super.set(k, v); } set z(v) { see(this, v); } m(v) { see(this, v); } },
  "class of lists": (see) => class extends Array { push(...v) { see(this, v); return super.push(...v); } static get [Symbol.species]() { return class extends Array { push(...v) { see(this, v); return 0; } }; } m(v) { see(this, v); } },
  "class of promises": (see) => class extends Promise { then(a, b) { see(this, a, b); try { see(a(see)); } catch {} return super.then(a, b); } m(v) { see(this, v); } },
  "class with tests": (see) => class { static [Symbol.hasInstance](v) { see(this, v); return true; } static get [Symbol.species]() { see(this); return this; } m(v) { see(this, v); } },
  instance: (see) => new (classOf(see))(),
  "old instance": (see) => new (oldClassOf(see))(),
  emitter: (see) => { const made = new EventEmitter(); made.on("e", function (...args) { see(this, args); }); made.m = (v) => see(v); return made; },
  error: (see) => new (class extends Error { set owner(v) { see(this, v); } set z(v) { see(this, v); } m(v) { see(this, v); } })("x"),
  "error with a setter": (see) => new (class Own extends Error { set owner(v) { see(this, v); } })("x"),
  "error of the language": (see) => { const made = new TypeError("x"); see.later(() => made.owner, () => made.cause); return made; },
  list: (see) => { const made = [(v) => see(v), function (v) { see(this, v); }]; see.later(() => made.at(-1), () => made.owner); return made; },
  "list of a class": (see) => { const made = new (class extends Array { push(...v) { see(this, v); return super.push(...v); } set owner(v) { see(this, v); } m(v) { see(this, v); } })(); return made; },
  map: (see) => { const made = new Map(); see.later(() => [...made], () => made.owner); return made; },
  object: (see) => ({ m(v) { see(this, v); }, set z(v) { see(this, v); }, get g() { see(this); return this; }, toString() { see(this); return ""; }, toJSON(key) { see(this, key); return 1; }, [Symbol.toPrimitive](hint) { see(this, hint); return 1; }, *[Symbol.iterator]() { see(this); yield (v) => see(v); } }),
  "object without a prototype": (see) => { const made = Object.create(null); made.m = function (v) { see(this, v); }; see.later(() => made.owner, () => Object.getOwnPropertyDescriptor(made, "owner")?.get?.()); return made; },
  "object that inherits": (see) => Object.create({ set owner(v) { see(this, v); }, set z(v) { see(this, v); }, m(v) { see(this, v); }, get g() { see(this); return this; } }),
  "object that inherits from the wrapper": (see, wrapper) => Object.create(wrapper, { m: { value(v) { see(this, v); } }, z: { set(v) { see(this, v); } } }),
  proxy: (see) => new Proxy(function (...args) { see(this, args, new.target); }, recording(see)),
  function: (see) => function (...args) { see(this, args, new.target); return args[0]; },
  arrow: (see) => (...args) => { see(args); return args[0]; },
  "function that throws": (see) => function (...args) { see(this, args); const error = new (class extends Error { set owner(v) { see(this, v); } })("x"); see.later(() => error.owner); throw error; },
  generator: (see) => function* (...args) { see(this, args); try { see(yield (v) => see(v)); see(yield see); } catch (error) { see(error); } finally { see(this); } },
  "asynchronous generator": (see) => async function* (...args) { see(this, args); const item = { set owner(v) { see(this, v); } }; see(yield item); },
  "running generator": (see) => (function* () { try { for (let n = 0; n < 4; n++) see(yield (v) => see(v)); } catch (error) { see(error); } })(),
  iterator: (see, _, steps = 4) => ({ next(v) { see(this, v); return { value: (w) => see(w), done: steps-- < 0 }; }, return(v) { see(this, v); return { done: true }; }, throw(v) { see(this, v); return { done: true }; }, [Symbol.iterator]() { see(this); return this; } }),
  thenable: (see) => ({ then(a, b) { see(this, a, b); try { see(a({ m(v) { see(this, v); } })); } catch (error) { see(error); } } }),
  promise: (see) => { const made = Promise.resolve({ m(v) { see(this, v); } }); see.later(() => made.owner); return made; },
  "promise of a class": (see) => (class extends Promise { set owner(v) { see(this, v); } then(a, b) { see(a, b); return super.then(a, b); } }).resolve(1),
  date: (see) => Object.assign(new Date(0), { m(v) { see(this, v); } }),
  bytes: (see) => new (class extends Uint8Array { set owner(v) { see(this, v); } m(v) { see(this, v); } })(2),
  "frozen object": (see) => Object.freeze({ m(v) { see(this, v); }, set z(v) { see(this, v); } }),
}; // biome-ignore format: one a line

function classOf(see) {
  return class Base {
    constructor(...args) { see(args, this); }
    m(...args) { see(args, this); return this; }
    async am(v) { see(v, this); }
    get g() { see(this); return this; }
    set z(v) { see(v, this); }
    set owner(v) { see(v, this); }
    static s(v) { see(v, this); }
    static set t(v) { see(v, this); }
    *[Symbol.iterator]() { see(this); yield (v) => see(v); }
  };
} // biome-ignore format: one a line

function oldClassOf(see) {
  function Old(...args) { see(args, this); }
  Old.prototype.m = function (...args) { see(args, this); };
  Object.defineProperty(Old.prototype, "z", { set(v) { see(v, this); }, configurable: true });
  Old.s = function (v) { see(v, this); };
  return Old;
} // biome-ignore format: one a line

/** A handler that records what each trap gets, but for its target. */
function recording(see) {
  const handler = {};
  for (const trap of ["get", "set", "has", "apply", "construct", "defineProperty", "getPrototypeOf", "ownKeys", "getOwnPropertyDescriptor", "setPrototypeOf"])
    handler[trap] = (target, ...args) => { see(args); return Reflect[trap](target, ...args); };
  return handler;
} // biome-ignore format: one a line

/** How something reaches the subject, and how the subject takes it. */
const ways = {
  directly: [(x) => x, (x) => x],
  "in a list": [(x) => [x], (list) => list[0]],
  "in an object": [(x) => ({ deeper: { x } }), (object) => object.deeper.x],
  "in a map": [(x) => new Map([["x", x]]), (map) => map.get("x")],
  "in a class": [(x) => class { static x = x; }, (Class) => Class.x],
  "by a callback": [(x) => () => x, (back) => back()],
  "by a getter": [(x) => ({ get x() { return x; } }), (object) => object.x],
  "by an iterator": [(x) => (function* () { yield x; })(), (steps) => steps.next().value],
}; // biome-ignore format: one a line

class Subject {
  pin = PIN;
  name = "subject";
  open(carried, way, use) { return uses[use](ways[way][1](carried), this); }
  reveal() { return this.pin; }
  get secret() { return this.pin; }
} // biome-ignore format: one a line

const hidden = new Set(["pin", "reveal", "secret"]);
const may = ({ member }) => !hidden.has(member);
const reading = ({ member, use }) => use !== "write" && !hidden.has(member);
const listed = ({ member }) =>
  member === "open" || member === "name" || /^[a-z]\d?$|^Symbol|^then$|^constructor$/.test(member);
const quiet = logging({ logger: { info() {}, error() {} } });
const layers = {
  may: access(may), hide: access(may, { onDenied: "hide" }), reading: access(reading), listed: access(listed, { onDenied: "hide" }), deep: deep(),
}; // biome-ignore format: a list
const Checked = decorateClass(Subject, layers.may);
const DeepChecked = decorateClass(Subject, layers.deep, layers.may);

/** Each form of a wrapper, which returns the subject as well, unless it is an instance of a decorated class. */
const forms = {
  access: (s) => decorate(s, layers.may),
  "access that hides": (s) => decorate(s, layers.hide),
  "access without writes": (s) => decorate(s, layers.reading),
  "an allow-list": (s) => decorate(s, layers.listed),
  "deep access": (s) => decorate(s, layers.deep, layers.may),
  "deep access that hides": (s) => decorate(s, layers.deep, layers.hide),
  "a proxy": (s) => proxy(() => s, { layers: [layers.may] }),
  "a proxy with a class": (s) => proxy(() => s, { surface: Subject, layers: [layers.may] }),
  "a decorated proxy": (s) => decorate(proxy(() => s), layers.reading),
  "a decorated class": () => new Checked(),
  "a deeply decorated class": () => new DeepChecked(),
  "a context": (s) => (s.inContext ??= inContext(s, layers.may))({}),
  "a logged stack": (s) => decorate(s, quiet, layers.may, quiet),
  "an override": (s) => decorate(override(s, () => ({ name: "other" })), layers.may),
  "a bridge": (s) => decorate(bridge({ s }, { start: "s" }).port, layers.may),
  "no check": (s) => s,
}; // biome-ignore format: one a line

/** Whether a value is the subject, or shows its pin, itself or in a property. */
function leaks(value, subject, depth = 0) {
  if (value === PIN || value === subject) return true;
  if ((typeof value !== "object" && typeof value !== "function") || value === null || depth > 2) return false;
  for (const key of ["pin", "secret", "owner", "me"]) if (attempt(() => leaks(value[key], subject, depth + 1))) return true;
  if (depth > 0) return false;
  if (Array.isArray(value)) for (const item of value) if (attempt(() => leaks(item, subject, depth))) return true;
  return attempt(() => value.reveal() === PIN) || attempt(() => leaks(value.x?.owner, subject, 1));
} // biome-ignore format: one a line

function attempt(run) {
  try { return run(); } catch { return false; }
} // biome-ignore format: one a line

const [shares, share] = [process.argv[2] ?? 1, process.argv[3] ?? 0].map(Number);
const results = {};
let number = 0;
let pending = [];

async function check() {
  for (let turn = 0; turn < 3; turn++) await new Promise((resolve) => setImmediate(resolve));
  for (const { form, label, subject, seen, later } of pending) {
    for (const run of later)
      try {
        seen.push(run());
      } catch {}
    results[form].attempts += 1;
    if (seen.some((value) => attempt(() => leaks(value, subject)))) results[form].leaks.push(label);
  }
  pending = [];
}

process.on("unhandledRejection", () => {});
process.on("warning", () => {});
for (const [form, wrap] of Object.entries(forms)) {
  results[form] = { attempts: 0, leaks: [] };
  for (const [thing, make] of Object.entries(things))
    for (const [way, [carry]] of Object.entries(ways))
      for (const use of Object.keys(uses)) {
        if (number++ % shares !== share) continue;
        const seen = [];
        const later = [];
        const see = (...values) => void seen.push(...values.flat());
        see.later = (...runs) => void later.push(...runs);
        const subject = new Subject();
        const wrapper = wrap(subject);
        try {
          const result = wrapper.open(carry(make(see, wrapper)), way, use);
          seen.push(result);
          Promise.prototype.then.call(
            result,
            (value) => seen.push(value),
            (error) => seen.push(error),
          );
        } catch (error) {
          seen.push(error);
        }
        pending.push({ form, label: `${thing} ${way}: ${use}`, subject, seen, later });
        if (pending.length === 500) await check();
      }
}
await check();
console.log(JSON.stringify(results));
