import { checkContract, contract } from "sleeve/conform";
import { describe, expect, test } from "vitest";

type Member = (...args: never[]) => unknown;

/** A member, the same with other answers to arguments that it does not handle, and the same with a mistake. */
interface Form {
  readonly reference: Member;
  readonly lenient: Member;
  readonly wrong: Member;
}

const isText = (value: unknown): value is string => typeof value === "string";
const isNumber = (value: unknown): value is number => typeof value === "number";

/** One form for each way in which code uses an argument. */
const FORMS: Readonly<Record<string, Form>> = {
  "calculates with a number": {
    reference: (feet: number) => feet * 0.3048,
    lenient: (feet: number) => (isNumber(feet) ? feet * 0.3048 : 0),
    wrong: (feet: number) => (feet > 5 ? feet : feet * 0.3048),
  },
  "compares a number": {
    reference: (berth: number) => berth > 6,
    lenient: (berth: number) => isNumber(berth) && berth > 6,
    wrong: (berth: number) => berth >= 6,
  },
  "calls a method of a text": {
    reference: (name: string) => name.toUpperCase(),
    lenient: (name: string) => (isText(name) ? name.toUpperCase() : ""),
    wrong: (name: string) => name.toUpperCase().trimEnd(),
  },
  "writes into a text": {
    reference: (name: string) => `MV ${name}`,
    lenient: (name: string) => (isText(name) ? `MV ${name}` : "MV"),
    wrong: (name: string) => `MV ${name.toLowerCase()}`,
  },
  "sorts a list": {
    reference: (list: number[]) => list.toSorted().map((item) => item),
    lenient: (list: number[]) => (Array.isArray(list) ? list.toSorted() : []),
    wrong: (list: number[]) => list.toSorted().slice(0, 2),
  },
  "reads a field": {
    reference: (vessel: { draught: number }) => vessel.draught + 1,
    lenient: (vessel?: { draught: number } | null) => (isNumber(vessel?.draught) ? vessel.draught + 1 : 0),
    wrong: (vessel: { draught: number }) => vessel.draught + 1.5,
  },
  "reads a field of a field": {
    reference: (vessel: { hull: { name: string } }) => vessel.hull.name.trim().length,
    lenient: (vessel?: { hull?: { name?: string } } | null) =>
      isText(vessel?.hull?.name) ? vessel.hull.name.trim().length : 0,
    wrong: (vessel: { hull: { name: string } }) => vessel.hull.name.length % 6,
  },
  "calls a callback": {
    reference: (done: (level: number) => unknown) => done(3),
    lenient: (done: (level: number) => unknown) => (typeof done === "function" ? done(3) : undefined),
    wrong: (done: (level: number) => unknown) => done(4),
  },
  "reads a time": {
    reference: (time: Date) => time.getUTCHours(),
    lenient: (time: Date) => (time instanceof Date ? time.getUTCHours() : 0),
    wrong: (time: Date) => time.getUTCHours() % 12,
  },
};

/** Ways to use the parameter beside others. */
const POSITIONS: Readonly<Record<string, (member: Member) => Member>> = {
  first: (member) => (value: never, _other: unknown) => member(value),
  second: (member) => (_other: unknown, value: never) => member(value),
  promised: (member) => async (value: never) => member(value),
};

function memberOf(member: Member): { readonly call: Member } {
  return { call: member };
}

describe("arguments without types are learned from the reference", () => {
  const cases = Object.entries(FORMS).flatMap(([name, form]) =>
    Object.entries(POSITIONS).map(([position, at]) => [name, position, form, at] as const),
  );
  expect(cases).toHaveLength(27);

  test.each(cases)("%s, %s", async (_name, _position, form, at) => {
    const target = contract<{ readonly call: Member }>("Target", {
      reference: () => memberOf(at(form.reference)),
    });
    const { implementations } = await checkContract(target, {
      lenient: () => memberOf(at(form.lenient)),
      wrong: () => memberOf(at(form.wrong)),
    });
    const [lenient, wrong] = implementations;
    expect(lenient?.checks.flatMap(({ findings }) => findings)).toEqual([]);
    const found = wrong?.checks.flatMap(({ findings }) => findings) ?? [];
    expect(found.map(({ name, place }) => [name, place])).toEqual([["result", "call"]]);
  });

  test("and a difference for arguments that it does not handle is a note", async () => {
    const { reference, lenient } = FORMS["reads a field"] as Form;
    const target = contract("Target", { reference: () => memberOf(reference) });
    const { implementations } = await checkContract(target, { lenient: () => memberOf(lenient) });
    expect(implementations[0]?.checks.flatMap(({ notes }) => notes)).toEqual([
      expect.stringMatching(/^Undefined behaviour: call\(.*\) differs \(.*; here the result 0\)/),
    ]);
  });

  test("and from the literals in source text, and the contract's examples", async () => {
    interface Desk {
      fee(kind: string): number;
      open(key: unknown): boolean;
    }
    const keys = new Set<unknown>(["PE-77"]);
    const desk = (): Desk => ({
      fee: (kind) => (kind === "ferry" ? 20 : 10),
      open: (key) => keys.has(key),
    });
    const target = contract<Desk>("Desk", {
      reference: desk,
      examples: { "opens with its key": (subject) => subject.open("PE-77") },
    });
    const { implementations } = await checkContract(target, {
      right: desk,
      "another fee": () => ({ ...desk(), fee: () => 10 }),
      "always closed": () => ({ ...desk(), open: () => false }),
    });
    const found = implementations.map(({ checks }) =>
      checks.flatMap(({ findings }) => findings.flatMap(({ code }) => code ?? [])),
    );
    expect(found).toEqual([
      [],
      [`expect(subject.fee("ferry")).toBe(20);`],
      [`expect(subject.open("PE-77")).toBe(true);`],
    ]);
  });

  test("but a member that handles several kinds is compared with all of them", async () => {
    const find = (key: number | string) => (typeof key === "number" ? key + 1 : key.toUpperCase());
    const target = contract("Target", { reference: () => ({ find }) });
    const { implementations } = await checkContract(target, {
      wrong: () => ({ find: (key: number | string) => (typeof key === "number" ? key : find(key)) }),
    });
    const found = implementations[0]?.checks.flatMap(({ findings }) => findings) ?? [];
    expect(found.map(({ name }) => name)).toEqual(["result"]);
  });
});
