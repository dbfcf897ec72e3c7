import { spawnSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import fc from "fast-check";
import { checkContract, conformanceText, contract, decoratorOf, facadeOf } from "sleeve/conform";
import { describe, expect, test } from "vitest";
import { project, sampled, sleeve } from "../harness.ts";

const TSC = join(import.meta.dirname, "../../../../node_modules/typescript/bin/tsc");

interface Generated {
  readonly text: string;
  readonly proposals: readonly { readonly member: string; readonly uses?: string; readonly why: string }[];
}

const OPTIONS = {
  strict: true, noUnusedLocals: true, noUnusedParameters: false, module: "nodenext", target: "es2023", types: [], noEmit: true,
  allowImportingTsExtensions: true,
}; // biome-ignore format: a list

function office(files: Readonly<Record<string, string>>): string {
  return project({
    ...files,
    "package.json": '{ "name": "office", "type": "module" }',
    "tsconfig.json": JSON.stringify({ compilerOptions: OPTIONS, include: ["src"] }),
  });
}

function facade(
  root: string,
  target: string,
  over: readonly string[],
  operations: readonly string[] = [],
): Generated {
  const { stdout, stderr } = sleeve(
    root, "wrap", target, "--as", "facade", ...over.flatMap((type) => ["--over", type]),
    ...operations.flatMap((operation) => ["--operation", operation]), "--write", "--json",
  ); // biome-ignore format: a command
  expect(stderr).toBe("");
  return (JSON.parse(stdout) as { readonly wrappers: readonly [Generated] }).wrappers[0];
}

function compile(root: string): string {
  return spawnSync(process.execPath, [TSC, "-p", root], { encoding: "utf8" }).stdout;
}

/** One step of a random operation: what it is called with, what it returns, and what undoes it. */
interface Step {
  readonly noun: string;
  readonly verb: string;
  readonly inverse: string;
  readonly subsystem: number;
  /** Steps whose results are arguments, and whether only their `id` is. */
  readonly needs: readonly { readonly step: number; readonly isId: boolean }[];
  readonly takesInput: boolean;
  readonly isAsync: boolean;
  readonly isFunction: boolean;
  readonly takesObject: boolean;
  readonly returnsNothing: boolean;
  readonly undo: "none" | "whole" | "id" | "argument";
}

interface Case {
  readonly steps: readonly Step[];
  /** The order in which the command names the steps. */
  readonly order: readonly number[];
  readonly returns: "nothing" | "last" | "object";
}

const NOUNS = ["Berth", "Tug", "Pilot", "Crane", "Permit", "Lock"];
const VERBS = [
  ["book", "cancel"], ["reserve", "release"], ["open", "close"], ["send", "recall"], ["register", "unregister"], ["add", "remove"],
] as const; // biome-ignore format: a table

const steps: fc.Arbitrary<readonly Step[]> = fc.integer({ min: 2, max: 6 }).chain((count) =>
  fc.tuple(
    ...NOUNS.slice(0, count).map((noun, at) =>
      fc.record({
        noun: fc.constant(noun),
        pair: fc.constantFrom(...VERBS),
        subsystem: fc.integer({ min: 0, max: 2 }),
        needs: fc.subarray([...Array(at).keys()], { maxLength: Math.min(at, 2) }),
        isId: fc.boolean(),
        takesInput: fc.boolean(),
        isAsync: fc.boolean(),
        isFunction: fc.boolean(),
        takesObject: fc.boolean(),
        returnsNothing: fc.boolean(),
        undo: fc.constantFrom("none", "whole", "id", "argument"),
      }),
    ),
  ).map((all) =>
    all.map(({ pair: [verb, inverse], needs, isId, ...step }, at): Step => {
      // Only what nothing needs returns nothing, and only what is called with something is undone by it.
      const isNeeded = all.some((other) => other.needs.includes(at)) || at === 0;
      const returnsNothing = step.returnsNothing && !isNeeded;
      const undo = returnsNothing || (step.undo === "argument" && !step.takesInput) ? "none" : (step.undo as Step["undo"]);
      return { ...step, verb, inverse, returnsNothing, undo, needs: needs.map((need) => ({ step: need, isId })) };
    }),
  ),
); // biome-ignore format: a chain

const CASES: readonly Case[] = fc.sample(
  steps.chain((all) =>
    fc.record({
      steps: fc.constant(all),
      order: fc.shuffledSubarray([...all.keys()], { minLength: all.length, maxLength: all.length }),
      returns: fc.constantFrom("nothing" as const, "last" as const, "object" as const),
    }),
  ),
  { numRuns: 60, seed: 17 },
);

const lower = (name: string) => name.toLowerCase();

/** What an operation of the case returns: the results of these steps. */
function returnedSteps({ steps: all, returns }: Case): readonly Step[] {
  const made = all.filter(({ returnsNothing }) => !returnsNothing);
  return returns === "nothing" ? [] : returns === "last" ? made.slice(-1) : made;
}

/** Writes the types, which all have the same fields, so that only their names distinguish them. */
function sourceOf(generated: Case, isPromise: boolean): string {
  const { steps: all } = generated;
  const member = (step: Step) => {
    const needs = step.needs.map(({ step: need, isId }) => {
      const { noun } = all[need] as Step;
      return isId ? `${lower(noun)}Id: string` : `given${noun}: ${noun}`;
    });
    const list = [...(step.takesInput ? ["arrival: Arrival"] : []), ...needs];
    const parameters =
      step.takesObject && list.length > 0 ? `options: { ${list.join("; ")} }` : list.join(", ");
    const plain = step.returnsNothing ? "void" : step.noun;
    const result = step.isAsync ? `Promise<${plain}>` : plain;
    const undoing = { none: "", whole: `it: ${step.noun}`, id: "id: string", argument: "arrival: Arrival" }[
      step.undo
    ];
    const undone = step.isAsync ? "Promise<void>" : "void";
    return [
      step.isFunction
        ? `  readonly ${step.verb}${step.noun}: (${parameters}) => ${result};`
        : `  ${step.verb}${step.noun}(${parameters}): ${result};`,
      ...(step.undo === "none" ? [] : [`  ${step.inverse}${step.noun}(${undoing}): ${undone};`]),
    ];
  };
  const returned = returnedSteps(generated);
  const fields = returned.map(({ noun }) => `${lower(noun)}: ${noun}`).join("; ");
  const plain =
    returned.length === 0
      ? "void"
      : generated.returns === "last"
        ? (returned[0]?.noun ?? "")
        : `{ ${fields} }`;
  return [
    "export interface Arrival { readonly id: string }",
    ...all.map(({ noun }) => `export interface ${noun} { readonly id: string }`),
    ...[0, 1, 2].map((index) => `export interface Part${index} {\n${all.filter(({ subsystem }) => subsystem === index).flatMap(member).join("\n")}\n  readonly size: number;\n}`),
    `export interface Office { run(arrival: Arrival): ${isPromise ? `Promise<${plain}>` : plain} }`,
  ].join("\n"); // biome-ignore format: a program
}

interface Call {
  readonly name: string;
  readonly args: readonly unknown[];
}

/** Creates subsystems that record their calls; one step fails. */
function subsystemsOf({ steps: all }: Case, failing: number, calls: Call[]) {
  const results = all.map(({ noun }) => ({ id: `${noun} 1` }));
  const parts: Record<string, Record<string, unknown>> = { part0: {}, part1: {}, part2: {} };
  for (const [at, step] of all.entries()) {
    const part = parts[`part${step.subsystem}`] ?? {};
    const answer = (name: string, value: unknown, fails: boolean) => (...args: unknown[]) => {
      calls.push({ name, args });
      const act = () => {
        if (fails) throw new Error(`${name} failed`);
        return value;
      };
      return step.isAsync ? (async () => act())() : act();
    }; // biome-ignore format: a function
    part[`${step.verb}${step.noun}`] = answer(
      `${step.verb}${step.noun}`,
      step.returnsNothing ? undefined : results[at],
      at === failing,
    );
    part[`${step.inverse}${step.noun}`] = answer(`${step.inverse}${step.noun}`, undefined, false);
  }
  return { parts, results };
}

describe("a facade of a random operation", () => {
  test.each(sampled(CASES.map((one, index) => ({ ...one, index }))))("$index: orders its steps, passes results on, and undoes them", async (generated) => {
    const { steps: all, order, returns } = generated;
    const isPromise = all.some(({ isAsync }) => isAsync);
    const root = office({ "src/office.ts": sourceOf(generated, isPromise) });
    const names = order.map((at) => `${all[at]?.verb}${all[at]?.noun}`);
    const { proposals } = facade(root, "src/office.ts#Office", [...new Set(all.map(({ subsystem }) => subsystem))].map((index) => `src/office.ts#Part${index}`), [`run:${names.join(",")}`]);
    expect(proposals).toMatchObject([{ member: "run", uses: expect.stringContaining("part") }]);
    expect(compile(root)).toBe("");
    const { OfficeFacade } = (await import(pathToFileURL(join(root, "src/office-facade.ts")).href)) as {
      readonly OfficeFacade: new (parts: unknown) => { run(arrival: unknown): unknown };
    };
    const arrival = { id: "arrival 1" };
    for (const failing of [-1, ...all.keys()]) {
      const calls: Call[] = [];
      const { parts, results } = subsystemsOf(generated, failing, calls);
      let outcome: unknown;
      try {
        outcome = await new OfficeFacade(parts).run(arrival);
      } catch (error) {
        outcome = error;
      }
      const failed = all[failing];
      const stepOf = new Map(all.map((step, at) => [`${step.verb}${step.noun}`, at]));
      const made = calls.filter(({ name }) => stepOf.has(name));
      const undone = calls.filter(({ name }) => !stepOf.has(name));
      // Each step once, after those that it needs, with their results.
      expect(new Set(made.map(({ name }) => name)).size).toBe(made.length);
      if (!failed) expect(made).toHaveLength(all.length);
      for (const [position, { name, args }] of made.entries()) {
        const step = all[stepOf.get(name) ?? -1] as Step;
        const values = step.needs.map(({ step: need, isId }) => [all[need] as Step, isId ? results[need]?.id : results[need], isId] as const);
        for (const [need] of values) expect(made.slice(0, position).map((call) => call.name)).toContain(`${need.verb}${need.noun}`);
        const list = [...(step.takesInput ? [["arrival", arrival] as const] : []), ...values.map(([{ noun }, value, isId]) => [isId ? `${lower(noun)}Id` : `given${noun}`, value] as const)];
        expect(args).toEqual(step.takesObject && list.length > 0 ? [Object.fromEntries(list)] : list.map(([, value]) => value));
      }
      if (!failed) {
        const returned = returnedSteps(generated).map(({ noun }) => [lower(noun), results[NOUNS.indexOf(noun)]] as const);
        expect(outcome).toEqual(returns === "object" ? Object.fromEntries(returned) : returned[0]?.[1]);
        expect(undone).toEqual([]);
        continue;
      }
      expect((outcome as Error).message).toBe(`${failed.verb}${failed.noun} failed`);
      const completed = made.slice(0, -1).map(({ name }) => all[stepOf.get(name) ?? -1] as Step).reverse();
      expect(undone).toEqual(
        completed.flatMap(({ noun, inverse, undo }) => {
          const result = results[NOUNS.indexOf(noun)];
          const argument = { whole: result, id: result?.id, argument: arrival, none: undefined }[undo];
          return undo === "none" ? [] : [{ name: `${inverse}${noun}`, args: [argument] }];
        }),
      );
    }
  }); // biome-ignore format: a law
});

describe("a facade whose steps are not named", () => {
  const cases = CASES.filter(({ returns }) => returns !== "nothing");
  test.each(sampled(cases.map((one, index) => ({ ...one, index }))))("$index: has the steps that its result needs", (generated) => {
    const { steps: all } = generated;
    const needed = (step: Step): readonly Step[] => [step, ...step.needs.flatMap(({ step: need }) => needed(all[need] as Step))];
    const expected = new Set(returnedSteps(generated).flatMap(needed));
    const root = office({ "src/office.ts": sourceOf(generated, true) });
    const parts = [...new Set([...expected].map(({ subsystem }) => subsystem))];
    const { proposals: [run] } = facade(root, "src/office.ts#Office", parts.map((index) => `src/office.ts#Part${index}`));
    expect(run?.uses?.split(", ").sort()).toEqual(
      [...expected].map(({ subsystem, verb, noun }) => `part${subsystem}.${verb}${noun}`).sort(),
    );
    expect(compile(root)).toBe("");
  }); // biome-ignore format: a law
});

const SHOP = `
export interface Customer { readonly id: string; readonly email: string }
export interface Line { readonly sku: string }
export interface Basket { readonly id: string; readonly lines: readonly Line[]; readonly total: number }
export interface Reservation { readonly id: string }
export interface Payment { readonly id: string; readonly amount: number }
export class Stock {
  #kept = 1;
  async reserve(lines: readonly Line[]): Promise<Reservation> { return { id: String(lines.length + this.#kept) }; }
  async releaseReservation(reservationId: string): Promise<void> { void reservationId; }
  find(sku: string): Line { return { sku }; }
}
export interface Payments {
  readonly currency: string;
  charge: (customerId: string, amount: number) => Promise<Payment>;
  refund(paymentId: string): void;
  find(id: string): Payment;
  find(id: string, amount: number): Payment;
}
export interface Shipping { ship(customer: Customer, reservation: Reservation): Promise<void> }
export interface Shop {
  readonly currency: string;
  buy(customer: Customer, basket: Basket): Promise<Reservation>;
  check(customer: Customer): Promise<void>;
  ship(customer: Customer, basket: Basket): Promise<void>;
  list(): readonly Line[];
}
export interface Finder { find(id: string): Payment; find(id: string, amount: number): Payment }
`;
const PARTS = ["Stock", "Payments", "Shipping"].map((name) => `src/shop.ts#${name}`);

test("what is not clear is left to the developer, who finds the values in question in a comment", () => {
  const root = office({ "src/shop.ts": SHOP });
  const { proposals, text } = facade(root, "src/shop.ts#Shop", PARTS, ["buy:charge,reserve"]);
  expect(proposals).toEqual([
    { member: "currency", uses: "payments", score: 1, why: "same name", candidates: [] },
    { member: "buy", score: 0, why: "there is no value for `amount` of payments.charge, but others of its type: basket.total", candidates: [] },
    { member: "check", score: 0, why: "it returns nothing, and no subsystem has a member of its name", candidates: [] },
    { member: "ship", uses: "stock.reserve, shipping.ship", score: 1, why: "releaseReservation undoes reserve", candidates: [] },
    { member: "list", score: 0, why: "no subsystem returns its result", candidates: [] },
  ]); // biome-ignore format: a list
  expect(text).toContain("this.#payments.charge(customer.id, incomplete)");
  expect(text).toContain("undo.push(() => this.#payments.refund(payment.id));");
  const errors = compile(root).match(/^\S+ error TS\d+: .*$/gm) ?? [];
  expect(errors.map((error) => error.replace(/^.* error /, ""))).toEqual([
    `TS2322: Type '"Replace it below, and remove this line."' is not assignable to type 'never'.`,
    ...Array(2).fill(
      `TS2322: Type '"Complete this member, and remove this line."' is not assignable to type 'never'.`,
    ),
  ]);
});

test("several members that return a value are named", () => {
  const find = "find(sku: string): Line { return { sku }; }";
  const root = office({
    "src/shop.ts": SHOP.replace(find, "find(sku: string): Reservation { return { id: sku }; }"),
  });
  const { proposals } = facade(root, "src/shop.ts#Shop", PARTS);
  expect(proposals[1]?.why).toBe("its result may be the result of stock.reserve or the result of stock.find");
  expect(proposals[3]?.why).toBe(
    "`reservation` of shipping.ship may be the result of stock.reserve or the result of stock.find",
  );
});

test("values of other types with the same fields are not mistaken for each other", () => {
  const root = office({ "src/shop.ts": SHOP.replace("ship(customer: Customer, basket: Basket)", "ship(customer: Customer)") });
  const { proposals } = facade(root, "src/shop.ts#Shop", PARTS, ["ship:ship"]);
  expect(proposals[3]).toMatchObject({ member: "ship", why: "there is no value for `reservation` of shipping.ship, but others of its type: customer" });
}); // biome-ignore format: short

test("an operation with several signatures is forwarded to the member of its name", () => {
  const root = office({ "src/shop.ts": SHOP });
  const { text } = facade(root, "src/shop.ts#Finder", ["src/shop.ts#Payments"]);
  expect(text).toContain("return Reflect.apply(this.#payments.find, this.#payments, args);");
  expect(compile(root)).toBe("");
});

test.each([
  [[], [], "A facade needs subsystems."],
  [PARTS, ["buy"], "--operation buy has no steps."],
  [PARTS, ["buy:charg"], "--operation buy: no subsystem has a method charg. Did you mean charge?"],
  [PARTS, ["buy:find"], "--operation buy: several subsystems have find. Write stock.find or payments.find."],
  [PARTS, ["buy:charge,charge"], "--operation buy names charge twice."],
  [PARTS, ["buy:charge", "buy:reserve"], "--operation names buy twice."],
  [PARTS, ["chek:charge"], "--operation chek: src/shop.ts#Shop has no such member. Did you mean check?"],
  [["src/shop.ts#Payment"], ["buy:id"], "--operation buy: no subsystem has a method id."],
])("subsystems %j with operations %j end with one sentence", (over, operations, message) => {
  const root = office({ "src/shop.ts": SHOP });
  const { code, stderr } = sleeve(
    root, "wrap", "src/shop.ts#Shop", "--as", "facade", ...over.flatMap((type) => ["--over", type]),
    ...operations.flatMap((operation) => ["--operation", operation]),
  );
  expect(code).toBe(2);
  expect(stderr).toContain(`sleeve: ${message}`);
  expect(stderr).toMatch(/\[BAD_OPTION\]\n$/);
}); // biome-ignore format: a command

test("a subsystem that no operation uses is reported", () => {
  const root = office({ "src/shop.ts": SHOP });
  const { code, stderr } = sleeve(root, "wrap", "src/shop.ts#Finder", "--as", "facade", "--over", PARTS[1] ?? "", "--over", PARTS[2] ?? "");
  expect(stderr).toBe("sleeve: --over src/shop.ts#Shipping: no operation uses it. Leave it out, or name a step of it with --operation. [BAD_OPTION]\n");
  expect(code).toBe(2);
}); // biome-ignore format: short

test("a module and an object are subsystems under their names", async () => {
  const root = office({
    "src/tide-sums.ts": "export function heightAt(hour: number): number { return hour / 2; }\n",
    "src/bell.ts": "export const bell = { rings: 0, ring(...times: number[]): void { this.rings += 1 + times.length; } };\n",
    "src/watch.ts": "export interface Watch { heightAt(hour: number): number; ring(): void; rings: number }\n",
  }); // biome-ignore format: a list
  const { proposals } = facade(root, "src/watch.ts#Watch", ["src/tide-sums.ts#*", "src/bell.ts#bell"]);
  expect(proposals.map(({ uses }) => uses)).toEqual(["tideSums.heightAt", "bell.ring", "bell"]);
  expect(compile(root)).toBe("");
  const load = <Exports>(path: string) =>
    import(pathToFileURL(join(root, "src", path)).href) as Promise<Exports>;
  type Watch = { heightAt(hour: number): number; ring(): void; rings: number };
  const [tideSums, { bell }, { WatchFacade }] = await Promise.all([
    load<object>("tide-sums.ts"),
    load<{ readonly bell: { readonly rings: number } }>("bell.ts"),
    load<{ readonly WatchFacade: new (parts: object) => Watch }>("watch-facade.ts"),
  ]);
  const watch = new WatchFacade({ tideSums, bell });
  watch.ring();
  watch.rings += 4;
  expect([watch.heightAt(6), watch.rings, bell.rings]).toEqual([3, 5, 5]);
});

test("a facade that was completed is left alone by a check and by generating again", () => {
  const root = office({ "src/shop.ts": SHOP, "sleeve.config.ts": "export default { targets: {} };\n" });
  facade(root, "src/shop.ts#Shop", PARTS, ["buy:charge,reserve"]);
  const path = join(root, "src/shop-facade.ts");
  const completed = readFileSync(path, "utf8").replace(/const incomplete: never = .*;/g, "const incomplete = 3 as never;");
  writeFileSync(path, completed);
  expect(sleeve(root, "wrap", "--check").stdout).toBe("There are no generated files.\n");
  expect(sleeve(root, "wrap", "--write").code).toBe(0);
  expect(readFileSync(path, "utf8")).toBe(completed);
}); // biome-ignore format: short

test("a date is no argument only because it is one", () => {
  const root = office({
    "src/desk.ts": `export interface Visit { readonly arrival: Date }
export interface Ledger { close(deadline: Date): void; open(arrival: Date): void }
export interface Desk { close(visit: Visit): void; open(visit: Visit): void }\n`,
  }); // biome-ignore format: a program
  const { proposals } = facade(root, "src/desk.ts#Desk", ["src/desk.ts#Ledger"]);
  expect(proposals).toMatchObject([
    { member: "close", why: "there is no value for `deadline` of ledger.close, but others of its type: visit.arrival" },
    { member: "open", uses: "ledger.open" },
  ]); // biome-ignore format: a list
});

const HARBOUR = `
export interface Booking { readonly reference: string; readonly berth: number }
export class Berths {
  readonly #booked: string[] = [];
  book(vessel: string): Booking { this.#booked.push(vessel); return { reference: "r " + vessel, berth: this.#booked.length }; }
  cancel(reference: string): void { this.#booked.splice(this.#booked.indexOf(reference.slice(2)), 1); }
}
export class Tugs {
  readonly #sent: string[] = [];
  async send(vessel: string, berth: number): Promise<string[]> { this.#sent.push(vessel); return [vessel + berth]; }
  async recall(vessel: string): Promise<void> { this.#sent.splice(this.#sent.indexOf(vessel), 1); }
}
export class Notices { async announce(notice: { vessel: string; berth: number }): Promise<void> { void notice; } }
export interface Office { admit(vessel: string): Promise<{ berth: number; tugs: string[] }> }
`;

test("a generated facade passes the contract of facades, and a generated decorator of it the one of decorators", async () => {
  const root = office({ "src/harbour.ts": HARBOUR });
  facade(root, "src/harbour.ts#Office", ["Berths", "Tugs", "Notices"].map((name) => `src/harbour.ts#${name}`), ["admit:announce,send,book"]);
  const decorated = sleeve(root, "wrap", "src/harbour.ts#Office", "--as", "decorator", "--layer", "timing", "--standalone", "--write");
  expect(decorated.code).toBe(0);
  const load = (file: string) => import(pathToFileURL(join(root, "src", file)).href) as Promise<Record<string, new (...args: unknown[]) => object>>;
  const [{ Berths, Tugs, Notices }, { OfficeFacade }, { OfficeDecorator }] = await Promise.all(["harbour.ts", "office-facade.ts", "office-decorator.ts"].map(load)) as [Any, Any, Any];
  const subsystems = () => ({ berths: new Berths(), tugs: new Tugs(), notices: new Notices() });
  const report = await checkContract(contract<Office>("Office"), {
    facade: facadeOf({ subsystems, wrap: (parts: object) => new OfficeFacade(parts) as Office, operations: { admit: { undo: { "berths.book": "berths.cancel", "tugs.send": "tugs.recall" } } } } as never),
    decorator: decoratorOf({ subject: () => new OfficeFacade(subsystems()) as Office, wrap: (subject: Office) => new OfficeDecorator(subject, { timing: { onSample() {} } }) as Office }),
  });
  expect(conformanceText(report)).toContain("all conform");
}); // biome-ignore format: a law

interface Office {
  admit(vessel: string): Promise<{ readonly berth: number; readonly tugs: readonly string[] }>;
}

// biome-ignore lint/suspicious/noExplicitAny: the classes are generated, and compiled in their project
type Any = any;
