import fc from "fast-check";
import { checkContract, contract, guardOf } from "sleeve/conform";
import { expect, test } from "vitest";

interface Berths {
  book(berth: number, draught: number): number;
  bookAll(berths: readonly number[]): number;
}

class Ledger implements Berths {
  #booked = 0;
  book(): number {
    this.#booked += 1;
    return this.#booked;
  }
  bookAll(berths: readonly number[]): number {
    this.#booked += berths.length;
    return this.#booked;
  }
}

const berth = fc.integer({ min: 1, max: 24 });
const berths = contract<Berths>("Berths", {
  arguments: {
    book: [berth, fc.double({ min: 0, max: 9, noNaN: true })],
    bookAll: [fc.array(berth, { minLength: 1, maxLength: 4 })],
  },
});
const refuses = {
  "berth 0": (guarded: Berths) => guarded.book(0, 2),
  "berth 25": (guarded: Berths) => guarded.book(25, 2),
  "berth 0 in a list": (guarded: Berths) => guarded.bookAll([0]),
};

const isBerth = (number: number) => number >= 1 && number <= 24;
function requireAll(holds: boolean): void {
  if (!holds) throw new RangeError("no such berth");
}

type Change = (ledger: Berths) => Partial<Berths>;

function guarded(ledger: Berths, change: Change): Berths {
  return {
    book: (number, draught) => {
      requireAll(isBerth(number));
      return ledger.book(number, draught);
    },
    bookAll: (numbers) => {
      requireAll(numbers.every(isBerth));
      return ledger.bookAll(numbers);
    },
    ...change(ledger),
  };
}

const RIGHT: Readonly<Record<string, Change>> = {
  "checks that a value is in its range": () => ({}),
  // NaN is neither below nor above.
  "checks that a value is not outside": (ledger) => ({
    book(number, draught) {
      requireAll(!(number < 1 || number > 24));
      return ledger.book(number, draught);
    },
  }),
  "checks another argument too": (ledger) => ({
    book(number, draught) {
      requireAll(isBerth(number) && !(draught > 10));
      return ledger.book(number, draught);
    },
  }),
};

const WRONG: Readonly<Record<string, Change>> = {
  "checks a value only beside valid ones": (ledger) => ({
    book(number, draught) {
      if (number < 1 && draught >= 0) throw new RangeError("no such berth");
      requireAll(!(number > 24));
      return ledger.book(number, draught);
    },
  }),
  "checks a sum": (ledger) => ({
    book(number, draught) {
      if (number + draught * 0 < 1) throw new RangeError("no such berth");
      requireAll(!(number > 24));
      return ledger.book(number, draught);
    },
  }),
  "checks the first item": (ledger) => ({
    bookAll(numbers) {
      requireAll(isBerth(numbers[0] ?? 0));
      return ledger.bookAll(numbers);
    },
  }),
  "checks the last item": (ledger) => ({
    bookAll(numbers) {
      requireAll(isBerth(numbers.at(-1) ?? 0));
      return ledger.bookAll(numbers);
    },
  }),
  "checks the largest item": (ledger) => ({
    bookAll(numbers) {
      requireAll(isBerth(Math.max(...numbers)));
      return ledger.bookAll(numbers);
    },
  }),
  "checks the first calls": (ledger) => {
    let calls = 0;
    return {
      book(number, draught) {
        calls += 1;
        requireAll(calls > 3 || isBerth(number));
        return ledger.book(number, draught);
      },
    };
  },
  "checks until a call passes": (ledger) => {
    let hasPassed = false;
    return {
      book(number, draught) {
        requireAll(hasPassed || isBerth(number));
        hasPassed = true;
        return ledger.book(number, draught);
      },
    };
  },
};

async function findingsOf(change: Change): Promise<readonly string[]> {
  const { implementations } = await checkContract(
    berths,
    {
      guard: guardOf<Berths>({
        subject: () => new Ledger(),
        wrap: (ledger) => guarded(ledger, change),
        refuses,
      }),
    },
    { runs: 20 },
  );
  const found = implementations.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings));
  return [...new Set(found.map(({ name }) => name))];
}

test.each(Object.entries(RIGHT))("a guard that %s conforms", async (_name, change) => {
  expect(await findingsOf(change)).toEqual([]);
});

test.each(Object.entries(WRONG))("a guard that %s does not", async (_name, change) => {
  expect(await findingsOf(change)).toEqual(["unguarded"]);
});

test("all forms are tried", () => {
  expect([Object.keys(RIGHT).length, Object.keys(WRONG).length]).toEqual([3, 7]);
});
