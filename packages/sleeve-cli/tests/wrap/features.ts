/** Members by what is special about their types, and the form that each must have. */
export const FEATURES: readonly (readonly [
  feature: string,
  member: string,
  form: "method" | "accessor" | "function" | "none",
])[] = [
  ["no parameter", "close(): void", "method"],
  ["optional parameters", "at(hour: number, gauge?: string): number", "method"],
  ["rest parameters", "sum(first: number, ...rest: readonly number[]): number", "method"],
  ["a tuple of rest parameters", "pair(...both: [left: number, right?: string]): void", "method"],
  ["a parameter that is a keyword elsewhere", "move(package: string, arguments: number): string", "method"],
  [
    "a parameter that is taken apart",
    "draw({ x, y }: { x: number; y: number }, [z]: [number]): number",
    "method",
  ],
  ["a promise", "later(hour: number): Promise<number | undefined>", "method"],
  ["a generator", "each(): Generator<number, string, boolean>", "method"],
  ["an asynchronous generator", "eachLater(): AsyncGenerator<Vessel>", "method"],
  [
    "overloads",
    'on(event: "tide", then: (tide: number) => void): this; on(event: "error", then: (error: Error) => void): this',
    "method",
  ],
  ["type parameters", "first<Item>(items: readonly Item[]): Item | undefined", "method"],
  ["constraints and defaults", "of<Key extends keyof Vessel = 'name'>(key: Key): Vessel[Key]", "method"],
  ["a const type parameter", "list<const Items extends readonly unknown[]>(items: Items): Items", "method"],
  ["the type of `this`", "with(name: string): this", "method"],
  ["a type predicate", "isVessel(value: unknown): value is Vessel", "method"],
  ["a predicate about a keyword", "isText(package: unknown): package is string", "method"],
  ["an assertion", "assertVessel(value: unknown): asserts value is Vessel", "method"],
  ["a conditional type", "pick<Kind>(kind: Kind): Kind extends string ? Vessel : number", "method"],
  ["a mapped type", "flags(vessel: Vessel): { readonly [Key in keyof Vessel]?: boolean }", "method"],
  ["a template type", `code(berth: number): \`PE-\${number}\``, "method"],
  ["a recursive type", "tree(): Tree", "method"],
  ["a type that nothing exports", "hidden(value: Hidden): Hidden", "method"],
  ["a receiver", "bound(this: Vessel, tons: number): number", "accessor"],
  ["a well-known symbol", "[Symbol.iterator](): Iterator<number>", "method"],
  ["a key that is no identifier", '"content-type"(): string', "method"],
  ["a name of the language", "constructor_(): void; delete(): boolean", "method"],
  ["a property", "depth: number", "accessor"],
  ["a read-only property", "readonly name: string", "accessor"],
  ["an optional property", "label?: string", "accessor"],
  ["a property that holds a function", "now: () => number", "accessor"],
  ["an accessor pair with two types", "get width(): number; set width(value: number | string)", "accessor"],
  ["a symbol as a property", "readonly [Symbol.toStringTag]: string", "accessor"],
  ["an optional method", "stop?(reason: string): void", "function"],
  ["a unique symbol that nothing exports", "[mark](): void", "none"],
  ["a unique symbol", "[signal](vessel: Vessel): number", "method"],
  ["a unique symbol of a property", "readonly [sound]: number", "accessor"],
];

/** The types that the members use. */
export const TYPES = `export interface Vessel { name: string; draught: number }
export interface Tree { readonly value: number; readonly children: readonly Tree[] }
interface Hidden { readonly berth: number }
declare const mark: unique symbol;
export declare const signal: unique symbol;
export declare const sound: unique symbol;
`;
