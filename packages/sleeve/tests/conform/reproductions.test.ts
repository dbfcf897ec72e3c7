import { type Contract, checkContract, type ImplementationInput, type Wrapper } from "sleeve/conform";
import { expect, test } from "vitest";
import { ledgerContract } from "../corpus/ledger.ts";
import { wrongDecorators } from "./corpus/wrong-decorators.ts";
import { wrongOthers } from "./corpus/wrong-others.ts";

const AsyncFunction = (async () => {}).constructor as new (
  ...texts: readonly string[]
) => (...values: readonly unknown[]) => Promise<void>;

/** Checks whose code compares a wrapper with its subject. */
const COMPARING =
  /^(?:answers as its subject does|returns nothing that its subject would not have|answers as its subject does where)/;

/** Runs printed code. Returns why it fails, or `undefined` if it passes. */
async function failureOf(code: string, subject: unknown): Promise<string | undefined> {
  try {
    await new AsyncFunction("subject", "expect", code)(subject, expect);
    return undefined;
  } catch (error) {
    return (error as Error).message;
  }
}

interface Entry {
  readonly name: string;
  readonly contract: Contract<object>;
  readonly given: ImplementationInput<object>;
}

const ENTRIES: readonly Entry[] = [
  ...wrongDecorators.map(({ wrong, given }) => ({ name: wrong, contract: ledgerContract, given })),
  ...wrongOthers.map(({ wrong, contract, given }) => ({ name: wrong, contract, given })),
] as unknown as readonly Entry[];

/** A fault that code with one wrapper cannot show, because it needs a second one. */
const NOT_SHOWN: readonly string[] = ["has one store for all its subjects"];

test("every printed reproduction passes on the subject, and fails on the wrapper", {
  timeout: 120_000,
}, async () => {
  const wrong: string[] = [];
  let shown = 0;
  for (const { name, contract, given } of ENTRIES) {
    const { create, sample: subject } = given as Partial<Wrapper<object>>;
    if (!create || !subject) continue;
    const report = await checkContract(contract, { given }, { runs: 40, length: 8, timeout: 150 });
    for (const check of report.implementations.flatMap(({ checks }) => checks)) {
      if (!COMPARING.test(check.name)) continue;
      for (const { name: finding, code } of check.findings) {
        // Code that does not end cannot be run to its end.
        if (code === undefined || finding === "unsettled" || NOT_SHOWN.includes(name)) continue;
        shown += 1;
        const right = await failureOf(code, await subject.create());
        if (right !== undefined) wrong.push(`${name}: fails on the subject: ${right}\n${code}`);
        if ((await failureOf(code, await create())) === undefined)
          wrong.push(`${name}: ${finding}: passes on the wrapper\n${code}`);
      }
    }
  }
  expect(wrong).toEqual([]);
  expect(shown).toBeGreaterThan(20);
});
