/** Conforming wrappers that look suspicious. */
export const right: readonly (readonly [what: string, code: string])[] = [
  ["fewer parameters, and nothing done", "interface T { send(x: string): void } class w { send() {} }"],
  [
    "fewer parameters, and a refusal",
    "interface T { send(x: string): void } class w { send(): never { throw new Error('closed'); } }",
  ],
  [
    "a parameter that is ignored on purpose",
    "declare const feed: { read(): number }; interface T { level(at: string): number } class w { level(_at: string) { return feed.read(); } }",
  ],
  [
    "arguments passed on as a whole",
    "declare const feed: { read(...xs: unknown[]): number }; interface T { level(at: string, unit: string): number } class w { level(...all: [string, string]) { return feed.read(...all); } }",
  ],
  [
    "a parameter wider than sent",
    "interface T { moor(at: string): number } class w { moor(at: string | number) { return String(at).length; } }",
  ],
  [
    "an optional parameter more",
    "interface T { moor(at: string): number } class w { moor(at: string, side = 'port') { return at.length + side.length; } }",
  ],
  ["a narrower result", "interface T { side(): string } class w { side(): 'port' { return 'port'; } }"],
  [
    "a richer result",
    "interface T { berth(): { name: string } } class w { berth() { return { name: 'a', depth: 3 }; } }",
  ],
  ["a result where none is promised", "interface T { send(): void } class w { send() { return 3; } }"],
  [
    "more members than required",
    "interface T { ring(): void } class w { ring() {} stop() {} readonly name = 'a'; }",
  ],
  ["an optional member left out", "interface T { ring(): void; stop?(): void } class w { ring() {} }"],
  [
    "a name near an optional one that is there too",
    "interface T { stop?(): void } class w { stop() {} stops() {} }",
  ],
  [
    "a getter for a readonly property",
    "interface T { readonly level: number } class w { get level() { return 3; } }",
  ],
  [
    "an accessor pair for a property",
    "interface T { level: number } class w { #n = 1; get level() { return this.#n; } set level(to) { this.#n = to; } }",
  ],
  ["a field that is a function", "interface T { ring(): number } class w { ring = () => 1; }"],
  [
    "a bound member that is called alone",
    "interface T { ring(): number } class w { #n = 1; ring = () => this.#n; } export const later = (bell: T) => { const { ring } = bell; return ring(); };",
  ],
  [
    "a member that is taken off and bound",
    "interface T { ring(): number } class w { #n = 1; ring() { return this.#n; } } export const later = (bell: T) => { const { ring } = bell; return ring.call(bell); };",
  ],
  [
    "a member compared and not called alone",
    "interface T { ring?(): number } class w { #n = 1; ring() { return this.#n; } } export const later = (bell: T) => bell.ring !== undefined && bell.ring() > 0;",
  ],
  [
    "as const",
    "interface T { readonly sides: readonly string[] } const w = { sides: ['port', 'starboard'] as const };",
  ],
  [
    "an assertion that only widens",
    "interface T { sides(): readonly string[] } class w { sides() { return ['port'] as readonly string[]; } }",
  ],
  [
    "an assertion on what was caught",
    "declare const feed: { read(): number }; interface T { level(): number } class w { level() { try { return feed.read(); } catch (error) { throw new Error((error as Error).message); } } }",
  ],
  [
    "an absence denied after a check",
    "interface T { find(x: string): number } class w { #all = new Map<string, number>(); find(x: string) { if (!this.#all.has(x)) throw new Error(x); return this.#all.get(x)!; } }",
  ],
  ["satisfies", "interface T { level(): number } const w = { level: () => 1 } satisfies T;"],
  [
    "a parsed value that is checked",
    "interface T { level(x: string): number } const isNumber = (x: unknown): x is number => typeof x === 'number'; class w { level(x: string) { const read: unknown = JSON.parse(x); if (!isNumber(read)) throw new Error(x); return read; } }",
  ],
  ["unknown taken in", "interface T { send(x: string): void } class w { send(x: unknown) { void x; } }"],
  [
    "an outside class in a private field",
    "import { Crane } from 'crane'; interface T { lift(x: number): number } class w { constructor(private readonly crane: Crane) {} lift(x: number) { return this.crane.hoist(x); } }",
  ],
  [
    "an outside class in a hidden field",
    "import { Crane } from 'crane'; interface T { lift(x: number): number } class w { readonly #crane: Crane; constructor(crane: Crane) { this.#crane = crane; } lift(x: number) { return this.#crane.hoist(x); } }",
  ],
  [
    "an outside class that the target shows itself",
    "import type { Load } from 'crane'; interface T { load(): Load } class w { load(): Load { return { kilograms: 1 }; } }",
  ],
  [
    "one borrowed that has to be closed",
    "import type { Winch } from 'winch'; interface T { pull(): number } class w { constructor(private readonly winch: Winch) {} pull() { return this.winch.pull(); } }",
  ],
  [
    "one made and closed",
    "import { Winch } from 'winch'; interface T { pull(): number; close(): void } class w { #winch = new Winch(); pull() { return this.#winch.pull(); } close() { this.#winch.shutdown(); } }",
  ],
  [
    "one made and closed by another name",
    "import { Winch } from 'winch'; interface T { pull(): number; leave(): void } class w { #winch = new Winch(); pull() { return this.#winch.pull(); } leave() { this.#winch.shutdown(); } }",
  ],
  [
    "one made for one call",
    "import { Winch } from 'winch'; interface T { pull(): number } class w { pull() { const winch = new Winch(); try { return winch.pull(); } finally { winch.shutdown(); } } }",
  ],
  [
    "a base of our own that is made to be extended",
    "abstract class Base { stop() {} abstract ring(): number } interface T { ring(): number } class w extends Base { ring() { return 1; } }",
  ],
  [
    "a base that serves the target",
    "class Plain { ring() { return 1; } tune() {} } interface T { ring(): number } class w extends Plain { override ring() { return super.ring() + 1; } }",
  ],
  ["an error", "interface T { readonly code: string } class w extends Error { readonly code = 'TIDE'; }"],
  [
    "a generic written with other names",
    "interface T { pick<X>(xs: readonly X[], by: (x: X) => boolean): X | undefined } class w { pick<Y>(ys: readonly Y[], by: (y: Y) => boolean): Y | undefined { return ys.find(by); } }",
  ],
  [
    "overloads in another order that hides none",
    "interface T { get(x: string): string; get(x: number): number } class w { get(x: number): number; get(x: string): string; get(x: never): never { return x; } }",
  ],
  [
    "one signature for two overloads",
    "interface T { get(x: string): string; get(x: number): string } class w { get(x: string | number) { return String(x); } }",
  ],
  [
    "itself, given back",
    "interface T { on(): this; off(): this } class w { on() { return this; } off(): this { return this; } }",
  ],
  [
    "a recursive type",
    "interface T { readonly next: T | undefined; walk(see: (x: T) => void): void } class w { readonly next: w | undefined = undefined; walk(see: (x: T) => void) { see(this); } }",
  ],
  [
    "a conditional type",
    "type Of<X> = X extends string ? { text(): X } : never; type T = Of<'a'>; const w = { text: (): 'a' => 'a' };",
  ],
  [
    "an enumeration for a number",
    "enum Side { Port, Starboard } interface T { side(): number } class w { side() { return Side.Port; } }",
  ],
  [
    "the same enumeration",
    "enum Side { Port, Starboard } interface T { moor(side: Side): Side } class w { moor(side: Side) { return side; } }",
  ],
  [
    "a promise made by hand",
    "interface T { level(): Promise<number> } class w { level() { return Promise.resolve(1); } }",
  ],
  [
    "a thenable wider than required",
    "interface T { level(): PromiseLike<number> } class w { async level() { return 1; } }",
  ],
  [
    "an iterator by a generator",
    "interface T { all(): Iterable<number>; later(): AsyncIterable<string> } class w { *all() { yield 1; } async *later() { yield ''; } }",
  ],
  [
    "a factory of a class",
    "interface T { ring(): number } class Bell { #n = 1; ring() { return this.#n; } } const w = () => new Bell();",
  ],
  [
    "a promise of a wrapper",
    "interface T { ring(): number } async function w() { return { ring: () => 1 }; }",
  ],
  [
    "a class that is the target's own",
    "class T { ring() { return 1; } } class w extends T { override ring() { return 2; } }",
  ],
  [
    "a facade that only delegates",
    "declare class Tugs { send(x: string): Promise<void> } declare class Log { note(x: string): void } interface T { admit(x: string): Promise<void> } class OfficeFacade { constructor(private tugs: Tugs, private log: Log) {} async admit(x: string) { await this.tugs.send(x); this.log.note(x + ' is in'); } } export { OfficeFacade as w };",
  ],
  [
    "a facade that goes through a list",
    "declare class Log { note(x: string): void } interface T { send(xs: readonly string[]): void } class OfficeFacade { constructor(private log: Log) {} send(xs: readonly string[]) { for (const each of xs) this.log.note(each); } } export { OfficeFacade as w };",
  ],
  [
    "a callable object with members",
    "interface T { (x: string): number; readonly unit: string } const w = Object.assign((x: string) => x.length, { unit: 'm' });",
  ],
  ["a property written both ways", "interface T { level: number } class w { level = 3; }"],
  [
    "a cache of its own",
    "declare const feed: { read(x: string): number }; interface T { level(x: string): number } class w { readonly #known = new Map<string, number>(); level(x: string) { const known = this.#known.get(x); if (known !== undefined) return known; const read = feed.read(x); this.#known.set(x, read); return read; } }",
  ],
];
