import { checkContract, contract, decoratorOf, type FindingName } from "sleeve/conform";
import { expect, test } from "vitest";

class Ledger {
  readonly #vessels = new Map<unknown, unknown>();
  book(berth: unknown, vessel: unknown): number {
    this.#vessels.set(berth, vessel);
    return this.#vessels.size;
  }
  vesselAt(berth: unknown): unknown {
    return this.#vessels.get(berth);
  }
  list(): unknown[] {
    return [...this.#vessels.values()];
  }
  async later(berth: unknown): Promise<unknown> {
    return this.#vessels.get(berth);
  }
  open(): this {
    return this;
  }
}

type Wrap = (ledger: Ledger) => Ledger;

/** A wrapper that forwards all members, but for some. */
const but =
  (change: (ledger: Ledger) => Partial<Record<keyof Ledger, (...args: never[]) => unknown>>): Wrap =>
  (ledger) => {
    const wrapper = {
      book: (berth: unknown, vessel: unknown) => ledger.book(berth, vessel),
      vesselAt: (berth: unknown) => ledger.vesselAt(berth),
      list: () => ledger.list(),
      later: (berth: unknown) => ledger.later(berth),
      open: () => {
        const opened = ledger.open();
        return opened === ledger ? wrapper : opened;
      },
      ...change(ledger),
    } as unknown as Ledger;
    return wrapper;
  };

/** Mistakes, each with the finding about a single call that names it. */
const MISTAKES: Readonly<Record<string, readonly [finding: FindingName, wrap: Wrap]>> = {
  "swaps arguments": ["argument", but((l) => ({ book: (berth, vessel) => l.book(vessel, berth) }))],
  "drops an argument": ["argument", but((l) => ({ book: (berth) => l.book(berth, undefined) }))],
  "calls twice": [
    "calls",
    but((l) => ({
      vesselAt: (berth) => {
        l.vesselAt(berth);
        return l.vesselAt(berth);
      },
    })),
  ],
  "never calls": ["calls", but(() => ({ vesselAt: () => undefined }))],
  "defers its call": ["order", but((l) => ({ book: async (berth, vessel) => l.book(await berth, vessel) }))],
  "loses its subject": [
    "receiver",
    but((l) => {
      const read = l.vesselAt;
      return { vesselAt: (berth) => read.call({} as Ledger, berth) };
    }),
  ],
  "copies a result": ["result", but((l) => ({ list: () => [...l.list()] }))],
  "changes a result": ["result", but((l) => ({ book: (berth, vessel) => l.book(berth, vessel) + 1 }))],
  "makes a promise": ["async", but((l) => ({ list: async () => l.list() }))],
  "exposes its subject": ["leak", but((l) => ({ open: () => l.open() }))],
  "returns another object": ["fluent", but((l) => ({ open: () => void l.open() }))],
  "swallows an error": [
    "error",
    but((l) => ({
      later: async (berth) => {
        try {
          return await l.later(berth);
        } catch {
          return undefined;
        }
      },
    })),
  ],
  "replaces an error": [
    "error",
    but((l) => ({
      vesselAt: (berth) => {
        try {
          return l.vesselAt(berth);
        } catch {
          throw new Error("no vessel");
        }
      },
    })),
  ],
};

const AsyncFunction = (async () => {}).constructor as new (
  ...parameters: string[]
) => (...args: unknown[]) => Promise<void>;

/** Runs printed code with a way to wrap. Returns whether it passes. */
async function passes(code: string, wrap: Wrap): Promise<boolean> {
  try {
    await new AsyncFunction("create", "wrap", "expect", code)(() => new Ledger(), wrap, expect);
    return true;
  } catch {
    return false;
  }
}

test.each(Object.entries(MISTAKES))(
  "the code for a wrapper that %s passes without it and fails with it",
  async (_name, [expected, wrap]) => {
    const { implementations } = await checkContract(
      contract<Ledger>("Ledger"),
      { it: decoratorOf<Ledger>({ subject: () => new Ledger(), wrap }) },
      { runs: 20 },
    );
    const checked = implementations.flatMap(({ checks }) => checks);
    const law = checked.find(({ name }) => name.startsWith("passes arguments, results and errors"));
    const finding = law?.findings.find(({ name }) => name === expected);
    expect(law?.findings.map(({ name }) => name)).toContain(expected);
    const code = finding?.code ?? "";
    expect(code).toContain("const wrapper = await wrap(subject);");
    expect([code, await passes(code, (ledger) => ledger)]).toEqual([code, true]);
    expect([code, await passes(code, wrap)]).toEqual([code, false]);
  },
);

test("all mistakes are tried", () => {
  expect(Object.keys(MISTAKES)).toHaveLength(13);
});
