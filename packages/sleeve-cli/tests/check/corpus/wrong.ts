/**
 * Wrong wrappers, each with one common mistake: the exact findings, in order, and the code.
 * `T` is the target and `w` the wrapper; `crane` and `winch` are outside packages.
 */
export const wrong: readonly (readonly [findings: string, fault: string, code: string])[] = [
  ["missing", "a member left out", "interface T { ring(): void; stop(): void } class w { ring() {} }"],
  ["missing", "a member misspelt", "interface T { heightAt(): number } class w { heigthAt() { return 1; } }"],
  ["missing", "a member in the wrong case", "interface T { onRing(): void } class w { onring() {} }"],
  ["missing", "a member that is static", "interface T { ring(): void } class w { static ring() {} }"],
  [
    "missing",
    "a member that is private",
    "interface T { ring(): void } class w { private ring() {} public stop() { this.ring(); } }",
  ],
  [
    "missing",
    "a member that is protected",
    "interface T { readonly name: string } class w { protected readonly name = 'a'; }",
  ],
  [
    "missing",
    "an iterator left out",
    "interface T { size: number; [Symbol.iterator](): Iterator<number> } class w { size = 1; }",
  ],
  [
    "missing",
    "disposal left out",
    "interface T { ring(): void; [Symbol.asyncDispose](): Promise<void> } const w = { ring() {} };",
  ],
  [
    "missing",
    "a member of a base interface",
    "interface Base { close(): void } interface T extends Base { ring(): void } const w = () => ({ ring() {} });",
  ],
  [
    "missing",
    "a member that a mapped type requires",
    "type T = Record<'port' | 'starboard', number>; const w = { port: 1 };",
  ],
  [
    "missing",
    "a member of an intersection",
    "type T = { ring(): void } & { stop(): void }; const w = { stop() {} };",
  ],
  [
    "missing",
    "a member of an abstract class",
    "abstract class T { abstract ring(): void; stop(): void {} } class w { ring() {} }",
  ],
  [
    "extra",
    "an optional member misspelt",
    "interface T { ring(): void; onClose?(): void } class w { ring() {} onClsoe() {} }",
  ],
  ["kind", "a value in place of a method", "interface T { level(): number } class w { level = 3; }"],
  [
    "kind",
    "a method in place of a value",
    "interface T { readonly level: number } class w { level() { return 3; } }",
  ],
  [
    "kind",
    "a getter in place of a method",
    "interface T { level(): number } class w { get level() { return 3; } }",
  ],
  [
    "kind",
    "an object in place of a function",
    "type T = (x: string) => number; const w = { call: (x: string) => x.length };",
  ],
  [
    "kind",
    "a function in place of a class",
    "type T = new (x: string) => { size: number }; const w = (x: string) => ({ size: x.length });",
  ],
  [
    "parameter",
    "a method that takes less",
    "interface T { moor(at: string | number): void } class w { moor(at: string): void { void at; } }",
  ],
  [
    "parameter",
    "a method that takes less than may be left out",
    "interface T { moor(at?: string): number } class w { moor(at: string) { return at.length; } }",
  ],
  [
    "parameter",
    "a method that needs more",
    "interface T { moor(at: string): number } class w { moor(at: string, side: number) { return at.length + side; } }",
  ],
  [
    "parameter parameter",
    "parameters in another order",
    "interface T { moor(ship: string, berth: number): string } class w { moor(berth: number, ship: string) { return ship + berth; } }",
  ],
  [
    "parameter",
    "a literal in place of any string",
    "interface T { moor(side: string): number } class w { moor(side: 'port') { return side.length; } }",
  ],
  [
    "parameter",
    "a callback that receives another type",
    "interface T { watch(send: (x: string) => void): void } class w { watch(send: (x: number) => void) { send(1); } }",
  ],
  [
    "parameter",
    "a callback's own method that takes less",
    "interface L { on(x: string | number): void } interface M { on(x: string): void } interface T { give(): L } class w { give(): M { return { on() {} }; } }",
  ],
  [
    "parameter",
    "a subclass required",
    "class Ship { name = ''; } class Tug extends Ship { power = 1; } interface T { moor(ship: Ship): number } class w { moor(ship: Tug) { return ship.power; } }",
  ],
  [
    "parameter",
    "a narrower generic",
    "interface T { all<X>(xs: readonly X[], pick: (x: X) => boolean): X[] } class w { all<X>(xs: X[], pick: (x: X) => boolean): X[] { return xs.filter(pick); } }",
  ],
  [
    "parameter",
    "a null that is not taken",
    "interface T { moor(at: string | null): number } class w { moor(at: string) { return at.length; } }",
  ],
  [
    "parameter",
    "a rest that takes less",
    "interface T { say(...words: (string | number)[]): number } class w { say(...words: string[]) { return words.length; } }",
  ],
  [
    "parameter",
    "another receiver required",
    "interface T { ring(): number } class w { n = 1; ring(this: w & { more: string }) { return this.more.length; } }",
  ],
  [
    "parameter",
    "a property that takes less",
    "interface T { level: string | number } class w { level: string = ''; }",
  ],
  [
    "parameter",
    "a setter that takes less",
    "interface T { level: number | undefined } class w { #level = 1; get level(): number { return this.#level; } set level(to: number) { this.#level = to; } }",
  ],
  [
    "parameter",
    "a method within a parameter that takes less",
    "interface Sink { put(x: number): void } interface Wide { put(x: number | string): void } interface T { drain(into: Sink): void } class w { drain(into: Wide) { into.put('a'); } }",
  ],
  ["result", "another type", "interface T { level(): number } class w { level() { return '3'; } }"],
  [
    "result",
    "a result that may be absent",
    "interface T { level(): number } class w { level(): number | undefined { return undefined; } }",
  ],
  [
    "result",
    "null for nothing",
    "interface T { find(): string | undefined } class w { find(): string | null { return null; } }",
  ],
  ["result", "one for many", "interface T { all(): string[] } class w { all() { return 'a'; } }"],
  [
    "result",
    "another promise",
    "interface T { level(): Promise<number> } class w { async level() { return 'high'; } }",
  ],
  [
    "result",
    "a field that is missing",
    "interface T { berth(): { name: string; depth: number } } class w { berth() { return { name: 'a' }; } }",
  ],
  [
    "result",
    "not itself",
    "interface T { on(): this } class Other { on(): this { return this; } } class w { readonly name = 'w'; on() { return new Other(); } }",
  ],
  [
    "result",
    "a property of another type",
    "interface T { readonly at: Date } class w { readonly at = 1763000000; }",
  ],
  [
    "async",
    "a promise that is not awaited",
    "interface T { send(): void } class w { async send() { await null; } }",
  ],
  [
    "async",
    "a promise where a value is promised",
    "interface T { level(): number } class w { async level() { return 1; } }",
  ],
  [
    "async",
    "a value where a promise is promised",
    "interface T { level(): Promise<number> } class w { level() { return 1; } }",
  ],
  [
    "async",
    "a promise in place of an iterator",
    "interface T { all(): Iterable<number> } class w { async all() { return [1]; } }",
  ],
  [
    "overload",
    "an overload left out",
    "interface T { get(x: string): string; get(x: number): number } class w { get(x: string): string { return x; } }",
  ],
  [
    "overload",
    "overloads in an order that hides one",
    "interface T { get(x: 'all'): string[]; get(x: string): string } class w { get(x: string): string; get(x: 'all'): string[]; get(x: string): string | string[] { return x === 'all' ? [x] : x; } }",
  ],
  ["optional", "a member that may be absent", "interface T { stop(): void } class w { stop?(): void; }"],
  [
    "missing",
    "a value that may be absent",
    "interface T { readonly name: string | undefined } const w: { readonly name?: string } = {};",
  ],
  [
    "readonly",
    "a getter without its setter",
    "interface T { level: number } class w { get level() { return 1; } }",
  ],
  ["readonly", "a readonly field", "interface T { level: number } class w { readonly level: number = 1; }"],
  ["readonly", "a frozen value", "interface T { level: number } const w = { level: 1 } as const;"],
  [
    "enum",
    "any number for an enumeration",
    "enum Side { Port, Starboard } interface T { side(): Side } class w { side(): number { return 7; } }",
  ],
  [
    "enum",
    "an enumeration required, any number accepted",
    "enum Side { Port, Starboard } interface T { moor(side: number): string } class w { moor(side: Side) { return Side[side] ?? ''; } }",
  ],
  [
    "misspelt",
    "an option misspelt",
    "interface Options { timeout?: number; retries?: number } interface T { options(): Options } class w { options() { return { retries: 1, timeuot: 5 }; } }",
  ],
  [
    "unproven assertion",
    "a parameter of any",
    "interface T { moor(at: string): number } class w { moor(at: any): number { return at.length as number; } }",
  ],
  ["unproven", "a result of any", "interface T { level(): number } class w { level(): any { return 1; } }"],
  [
    "unproven",
    "a promise of any",
    "interface T { level(): Promise<number> } class w { async level(): Promise<any> { return 1; } }",
  ],
  [
    "unproven",
    "a value that holds any",
    "interface T { readonly berths: { name: string }[] } class w { readonly berths: any[] = []; }",
  ],
  [
    "unproven",
    "a result from any",
    "declare const legacy: any; interface T { level(): number } class w { level(): number { return legacy.read(); } }",
  ],
  [
    "unproven",
    "an index of any",
    "interface T { notes(): Record<string, string> } class w { notes(): Record<string, any> { return {}; } }",
  ],
  [
    "unproven",
    "a callback of any",
    "interface T { watch(send: (x: string) => void): void } class w { watch(send: (x: any) => void) { send(1); } }",
  ],
  ["unproven", "any as a whole", "interface T { level(): number } const w: any = {};"],
  [
    "missing assertion",
    "the whole forced",
    "interface T { ring(): void; stop(): void } const w = { ring() {} } as T;",
  ],
  [
    "result assertion",
    "the whole forced twice",
    "interface T { level(): number } const w = { level: () => 'x' } as unknown as T;",
  ],
  [
    "assertion",
    "a result forced",
    "interface T { side(): 'port' | 'starboard' } class w { constructor(private raw: string) {} side() { return this.raw as 'port' | 'starboard'; } }",
  ],
  [
    "assertion",
    "a result parsed and believed",
    "interface Berth { name: string } interface T { berth(x: string): Berth } class w { berth(x: string) { return JSON.parse(x) as Berth; } }",
  ],
  [
    "assertion",
    "an absence denied",
    "interface T { find(x: string): number } class w { #all = new Map<string, number>(); find(x: string) { return this.#all.get(x)!; } }",
  ],
  [
    "assertion",
    "an error silenced",
    "interface T { level(): number } class w {\n  level(): number {\n    // @ts-expect-error the feed says so\n    return 'x';\n  }\n}",
  ],
  [
    "unused",
    "a parameter left out",
    "declare const feed: { read(x: string): number }; interface T { level(at: string, unit: string): number } class w { level(at: string) { return feed.read(at); } }",
  ],
  [
    "unused",
    "a parameter unused",
    "declare const feed: { read(x: string): number }; interface T { level(at: string, unit: string): number } class w { level(at: string, unit: string) { return feed.read(at); } }",
  ],
  [
    "unused",
    "options unused",
    "declare const feed: { read(): Promise<number> }; interface T { level(options: { signal: AbortSignal }): Promise<number> } const w = { level: async (options: { signal: AbortSignal }) => feed.read() };",
  ],
  [
    "inherited",
    "an outside class extended",
    "import { Crane } from 'crane'; interface T { lift(x: number): number } class w extends Crane { lift(x: number) { return this.hoist(x); } }",
  ],
  [
    "inherited",
    "an adaptee of our own extended",
    "class Old { strike(n: number) { return n; } reset() {} } interface T { ring(n: number): number } class w extends Old { ring(n: number) { return this.strike(n); } }",
  ],
  [
    "inherited",
    "a collection extended",
    "interface T { keep(x: string): void } class w extends Set<string> { keep(x: string) { super.add(x); } }",
  ],
  [
    "leak",
    "the adaptee in a public field",
    "import { Crane } from 'crane'; interface T { lift(x: number): number } class w { constructor(readonly crane: Crane) {} lift(x: number) { return this.crane.hoist(x); } }",
  ],
  [
    "leak",
    "an outside result beside the target",
    "import { Crane, type Load } from 'crane'; interface T { lift(x: number): number } class w { #crane = new Crane(); lift(x: number) { return this.#crane.hoist(x); } load(): Load { return this.#crane.load(); } }",
  ],
  [
    "leak",
    "an outside result, inferred",
    "import { Crane } from 'crane'; interface T { load(): { kilograms: number } } class w { #crane = new Crane(); load() { return this.#crane.load(); } }",
  ],
  [
    "unclosed",
    "one made in a field",
    "import { Winch } from 'winch'; interface T { pull(): number } class w { #winch = new Winch(); pull() { return this.#winch.pull(); } }",
  ],
  [
    "unclosed",
    "one made in the constructor",
    "import { Winch } from 'winch'; interface T { pull(): number } class w { private winch: Winch; constructor() { this.winch = new Winch(); } pull() { return this.winch.pull(); } }",
  ],
  [
    "unclosed",
    "one opened in a factory",
    "import { openWinch } from 'winch'; interface T { pull(): number } function w() { const winch = openWinch(); return { pull: () => winch.pull() }; }",
  ],
  [
    "unbound",
    "a member that clients call alone",
    "interface T { ring(): number } class w { #n = 1; ring() { return this.#n; } } export const later = (bell: T) => { const { ring } = bell; return ring(); };",
  ],
  [
    "unbound",
    "a member passed on",
    "interface T { ring(): void } class w { n = 1; ring() { this.n += 1; } } export const later = (bell: T) => setTimeout(bell.ring, 10); declare function setTimeout(x: () => void, ms: number): void;",
  ],
  [
    "unbound",
    "a member that the target declares so",
    "interface T { ring(this: void): number } class w { n = 1; ring() { return this.n; } }",
  ],
  [
    "logic",
    "arithmetic in a facade",
    "declare class Depths { at(x: number): number } interface T { clearance(x: number, draught: number): number } class OfficeFacade { constructor(private depths: Depths) {} clearance(x: number, draught: number) { return this.depths.at(x) - draught; } } export { OfficeFacade as w };",
  ],
  [
    "logic",
    "a loop in a facade",
    "declare class Tugs { free(x: number): boolean } interface T { first(): number } class OfficeFacade { constructor(private tugs: Tugs) {} first() { let n = 0; while (!this.tugs.free(n)) n += 1; return n; } } export { OfficeFacade as w };",
  ],
  [
    "logic",
    "the world reached around the subsystems",
    "declare class Log { note(x: string): void } interface T { send(x: string): Promise<void> } class OfficeFacade { constructor(private log: Log) {} async send(x: string) { this.log.note(x); await fetch('https://quay.invalid/' + x); } } declare function fetch(x: string): Promise<void>; export { OfficeFacade as w };",
  ],
  [
    "compile",
    "an index signature of another type",
    "interface T { [berth: string]: number } const w = { a: 'x' };",
  ],
  [
    "unproven",
    "a function that returns only itself",
    "interface T { ring(): void } function w(): T { return w as never; }",
  ],
  [
    "missing assertion",
    "functions that return only each other",
    "interface T { ring(): void } function w(): T { return other as never; } function other(): T { return w as never; }",
  ],
  [
    "result assertion",
    "the last of many values, of another type",
    `interface T { level(): number } const wells = [${"{ level: () => 1 }, ".repeat(20)}{ level: () => "high" }]; const w = (n: number): T => wells[n] as never;`,
  ],
  [
    "unproven",
    "one of too many values, of another type",
    `interface T { level(): number } const wells: readonly T[] = [${"{ level: () => 1 }, ".repeat(80)}{ level: () => "high" as never }]; const w = (n: number): T => wells[n]!;`,
  ],
  [
    "result",
    "a generic result of another type",
    "interface T { same<X>(x: X): X } class w { same<X>(x: X): string { return String(x); } }",
  ],
  [
    "parameter",
    "a generic with a narrower constraint",
    "interface T { same<X>(x: X): X } class w { same<X extends { id: string }>(x: X): X { return x.id ? x : x; } }",
  ],
];
