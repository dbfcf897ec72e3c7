import { type MemberSpec, method, property } from "./members.ts";

/** A mistake, the members that make it, and the same members without it. */
export interface Fault {
  readonly fault: string;
  /** The finding that names it, and its member: `parameter convert`. */
  readonly finding: string;
  /** Members of the target, and declarations that it needs. */
  readonly target: string;
  readonly helpers?: string;
  readonly wrong: readonly MemberSpec[];
  readonly right: readonly MemberSpec[];
  /** Whether the fault is about `this`, which some forms bind or change. */
  readonly isAboutThis?: true;
}

/** A member of every wrapper, so that no target has only one. */
export const STOP = method("stop", "", "void", "console.log('stopped');");

const LOAD = "interface Load { readonly tons: number; readonly sling?: string }";
const feet = (body: string, parameters = "feet: number", result = "number") =>
  method("convert", parameters, result, body);

export const FAULTS: readonly Fault[] = [
  {
    fault: "a member left out",
    finding: "missing convert",
    target: "convert(feet: number): number;",
    wrong: [],
    right: [feet("return feet * 0.3;")],
  },
  {
    fault: "a member misspelt",
    finding: "missing convert",
    target: "convert(feet: number): number;",
    wrong: [method("covnert", "feet: number", "number", "return feet * 0.3;")],
    right: [feet("return Math.round(feet * 0.3);")],
  },
  {
    fault: "a parameter that accepts less",
    finding: "parameter convert",
    target: "convert(feet: number | string): number;",
    wrong: [feet("return feet * 0.3;")],
    right: [feet("return Number(feet) * 0.3;", "feet: number | string | undefined")],
  },
  {
    fault: "a parameter object that needs more",
    finding: "parameter convert",
    target: "convert(load: Load): number;",
    helpers: LOAD,
    wrong: [feet("return load.tons + load.extra;", "load: Load & { readonly extra: number }")],
    right: [feet("return load.tons;", "load: { readonly tons: number }")],
  },
  {
    fault: "a callback that is called with more",
    finding: "parameter convert",
    target: "convert(done: (feet: number) => void): void;",
    wrong: [feet("done('3');", "done: (feet: string) => void", "void")],
    right: [feet("done(3);", "done: (feet: number) => unknown", "void")],
  },
  {
    fault: "a parameter too many",
    finding: "parameter convert",
    target: "convert(feet: number): number;",
    wrong: [feet("return feet * factor;", "feet: number, factor: number")],
    right: [feet("return feet * factor;", "feet: number, factor = 0.3")],
  },
  {
    fault: "a rest parameter reduced to one",
    finding: "parameter convert",
    target: "convert(...feet: readonly number[]): number;",
    wrong: [feet("return feet * 0.3;")],
    right: [feet("return feet.length;", "...feet: readonly number[]")],
  },
  {
    fault: "an argument that is never used",
    finding: "unused convert",
    target: "convert(feet: number, unit: string): string;",
    wrong: [feet("return String(feet * 0.3);", "feet: number, unit: string", "string")],
    right: [feet("return String(feet);", "feet: number, _unit: string", "string")],
  },
  {
    fault: "an argument that is not taken",
    finding: "unused convert",
    target: "convert(feet: number, unit: string): string;",
    wrong: [feet("return String(feet * 0.3);", "feet: number", "string")],
    right: [feet("return feet + unit;", "feet: number, unit: string", "string")],
  },
  {
    fault: "a result that may be absent",
    finding: "result convert",
    target: "convert(feet: number): number;",
    wrong: [feet("return feet > 0 ? feet : undefined;", "feet: number", "number | undefined")],
    right: [feet("return feet > 0 ? 1 : 2;", "feet: number", "1 | 2")],
  },
  {
    fault: "a result of another type",
    finding: "result convert",
    target: "convert(feet: number): number;",
    wrong: [feet("return String(feet);", "feet: number", "string")],
    right: [feet("return feet;", "feet: unknown & number", "number")],
  },
  {
    fault: "a result without one field",
    finding: "result convert",
    target: "convert(feet: number): Load;",
    helpers: LOAD,
    wrong: [feet("return { weight: feet };", "feet: number", "{ weight: number }")],
    right: [feet("return { tons: feet, more: 1 };", "feet: number", "{ tons: number; more: number }")],
  },
  {
    fault: "an optional field of the result misspelt",
    finding: "misspelt convert",
    target: "convert(feet: number): Load;",
    helpers: LOAD,
    wrong: [feet("return { tons: feet, slnig: '' };", "feet: number", "{ tons: number; slnig: string }")],
    right: [feet("return { tons: feet, sling: '' };", "feet: number", "{ tons: number; sling: string }")],
  },
  {
    fault: "a method of the result that accepts less",
    finding: "parameter convert",
    target: "convert(): { take(load: string | number): void };",
    wrong: [
      feet("return { take: (load: string) => console.log(load) };", "", "{ take(load: string): void }"),
    ],
    right: [
      feet("return { take: (load: unknown) => console.log(load) };", "", "{ take(load: unknown): void }"),
    ],
  },
  {
    fault: "a result of `any`",
    finding: "unproven convert",
    target: "convert(text: string): Load;",
    helpers: LOAD,
    wrong: [feet("return JSON.parse(text);", "text: string", "any")],
    right: [feet("return { tons: text.length };", "text: string", "Load")],
  },
  {
    fault: "a declared result that comes from `any`",
    finding: "unproven convert",
    target: "convert(text: string): Load;",
    helpers: LOAD,
    wrong: [feet("return JSON.parse(text);", "text: string", "Load")],
    right: [
      feet("const read: unknown = JSON.parse(text); return { tons: read ? 1 : 2 };", "text: string", "Load"),
    ],
  },
  {
    fault: "a promise of `any`",
    finding: "unproven convert",
    target: "convert(text: string): Promise<Load>;",
    helpers: LOAD,
    wrong: [feet("return JSON.parse(text);", "text: string", "Promise<any>")].map((member) => ({
      ...member,
      prefix: "async ",
    })),
    right: [feet("return { tons: text.length };", "text: string", "Promise<Load>")].map((member) => ({
      ...member,
      prefix: "async ",
    })),
  },
  {
    fault: "a parameter of `any`",
    finding: "unproven convert",
    target: "convert(load: Load): number;",
    helpers: LOAD,
    wrong: [feet("return load.tons;", "load: any")],
    right: [feet("return load.tons;", "load: Readonly<Load>")],
  },
  {
    fault: "an assertion that reaches the result",
    finding: "assertion convert",
    target: "convert(text: string): Load;",
    helpers: LOAD,
    wrong: [feet("const read: unknown = text; return read as Load;", "text: string", "Load")],
    right: [
      feet(
        "const known: readonly ('a' | 'b')[] = ['a']; return { tons: known.includes(text as 'a') ? 1 : 2 };",
        "text: string",
        "Load",
      ),
    ],
  },
  {
    fault: "an assertion within a resolved promise",
    finding: "assertion convert",
    target: "convert(text: string): Promise<Load>;",
    helpers: LOAD,
    wrong: [
      feet(
        "const read: unknown = text; return Promise.resolve(read as Load);",
        "text: string",
        "Promise<Load>",
      ),
    ],
    right: [feet("return Promise.resolve({ tons: text.length } as const);", "text: string", "Promise<Load>")],
  },
  {
    fault: "a value that may be absent, asserted to be there",
    finding: "assertion convert",
    target: "convert(text: string): number;",
    wrong: [feet("const all = new Map<string, number>(); return all.get(text)!;", "text: string")],
    right: [feet("const all = new Map<string, number>(); return all.get(text) ?? 0;", "text: string")],
  },
  {
    fault: "a synchronous result for a promise",
    finding: "async convert",
    target: "convert(feet: number): Promise<number>;",
    wrong: [feet("return feet * 0.3;")],
    right: [feet("return Promise.resolve(feet * 0.3);", "feet: number", "Promise<number>")],
  },
  {
    fault: "a promise that is dropped",
    finding: "async convert",
    target: "convert(feet: number): void;",
    wrong: [
      {
        ...feet("console.log(await Promise.resolve(feet));", "feet: number", "Promise<void>"),
        prefix: "async ",
      },
    ],
    right: [feet("console.log(feet);", "feet: number", "void")],
  },
  {
    fault: "a property that is read-only",
    finding: "readonly level",
    target: "level: number;",
    wrong: [{ kind: "accessor", name: "level", type: "number", value: "3" }],
    right: [{ kind: "accessor", name: "level", type: "number", value: "3", accepts: "number" }],
  },
  {
    fault: "a setter that accepts less than the property",
    finding: "parameter level",
    target: "get level(): number; set level(given: number | string);",
    wrong: [{ kind: "accessor", name: "level", type: "number", value: "3", accepts: "number" }],
    right: [{ kind: "accessor", name: "level", type: "number", value: "3", accepts: "number | string" }],
  },
  {
    fault: "a property of another type",
    finding: "result level",
    target: "readonly level: number;",
    wrong: [property("level", "'3'", "string")],
    right: [property("level", "3", "3")],
  },
  {
    fault: "a property where a method is expected",
    finding: "kind level",
    target: "level(): number;",
    wrong: [property("level", "3")],
    right: [method("level", "", "number", "return 3;")],
  },
  {
    fault: "a method where a property is expected",
    finding: "kind level",
    target: "readonly level: number;",
    wrong: [method("level", "", "number", "return 3;")],
    right: [{ kind: "accessor", name: "level", type: "number", value: "3" }],
  },
  {
    fault: "a number for an enumeration",
    finding: "enum side",
    target: "side(text: string): Side;",
    helpers: "export enum Side { Port, Starboard }",
    wrong: [method("side", "text: string", "number", "return text.length;")],
    right: [method("side", "text: string", "Side", "return text ? Side.Port : Side.Starboard;")],
  },
  {
    fault: "an overload that is not implemented",
    finding: "overload read",
    target: "read(id: number): number; read(name: string): string;",
    wrong: [method("read", "id: number", "number", "return id;")],
    right: [
      method("read", "id: number | string", "any", "return id;", {
        overloads: ["(id: number): number", "(name: string): string"],
      }),
    ],
  },
  {
    fault: "a generic result that forgets its type",
    finding: "result first",
    target: "first<Item>(items: readonly Item[], fallback: Item): Item;",
    wrong: [
      method(
        "first",
        "items: readonly Item[], fallback: Item",
        "Item | undefined",
        "return items[0] ?? fallback ?? undefined;",
        { generics: "<Item>" },
      ),
    ],
    right: [
      method("first", "items: readonly Item[], fallback: Item", "Item", "return items[0] ?? fallback;", {
        generics: "<Item>",
      }),
    ],
  },
  {
    fault: "a generic parameter with a narrower constraint",
    finding: "parameter first",
    target: "first<Item>(items: readonly Item[]): number;",
    wrong: [
      method("first", "items: readonly Item[]", "number", "return items.length;", {
        generics: "<Item extends string>",
      }),
    ],
    right: [method("first", "items: readonly unknown[]", "number", "return items.length;")],
  },
  {
    fault: "an async iterator of other items",
    finding: "result readings",
    target: "readings(from: number): AsyncIterable<number>;",
    wrong: [
      method("readings", "from: number", "AsyncGenerator<string>", "yield String(from);", {
        prefix: "async *",
      }),
    ],
    right: [
      method("readings", "from: number", "AsyncGenerator<number>", "yield from;", { prefix: "async *" }),
    ],
  },
  {
    fault: "an iterator left out",
    finding: "missing [Symbol.iterator]",
    target: "[Symbol.iterator](): Iterator<number>;",
    wrong: [],
    right: [method("[Symbol.iterator]", "", "Iterator<number>", "yield 1;", { prefix: "*" })],
  },
  {
    fault: "a member that uses `this` where clients take a function",
    finding: "unbound convert",
    target: "readonly convert: (feet: number) => number;",
    wrong: [
      property("factor", "0.3"),
      method("convert", "feet: number", "number", "return feet * this.factor;"),
    ],
    right: [property("factor", "0.3"), property("convert", "(feet: number): number => feet * 0.3")],
    isAboutThis: true,
  },
  {
    fault: "an index signature of `any`",
    finding: "unproven limits",
    target: "readonly limits: { readonly [name: string]: number };",
    wrong: [property("limits", "{ a: 1 }", "{ readonly [name: string]: any }")],
    right: [property("limits", "{ a: 1 }", "{ readonly a: number }")],
  },
];
