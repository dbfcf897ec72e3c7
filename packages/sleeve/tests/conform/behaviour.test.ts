import { type Contract, checkContract, type Finding, type ImplementationInput } from "sleeve/conform";
import { expect, test } from "vitest";
import { ledgerContract } from "../corpus/ledger.ts";
import { rightWrappers } from "./corpus/right.ts";
import { wrongDecorators } from "./corpus/wrong-decorators.ts";
import { wrongOthers } from "./corpus/wrong-others.ts";

async function findingsOf<Target extends object>(
  contract: Contract<Target>,
  given: ImplementationInput<Target>,
): Promise<readonly Finding[]> {
  const report = await checkContract(contract, { given }, { runs: 40, length: 8, timeout: 150 });
  return report.implementations.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings));
}

/** The names of findings, each once. */
function namesOf(findings: readonly Finding[]): readonly string[] {
  return [...new Set(findings.map(({ name }) => name))].sort();
}

test("the corpora have all their entries", () => {
  expect([wrongDecorators.length, wrongOthers.length, rightWrappers.length]).toEqual([44, 41, 28]);
});

test.each(wrongDecorators)("a decorator that $wrong: $findings", async ({ findings: expected, given }) => {
  const findings = await findingsOf(ledgerContract, given);
  expect(namesOf(findings)).toEqual([...expected].sort());
});

test.each(wrongOthers)("one that $wrong: $findings", async ({ findings: expected, contract, given }) => {
  const findings = await findingsOf(contract, given);
  expect(namesOf(findings)).toEqual([...expected].sort());
});

test.each(rightWrappers)("no finding for one that $right", async ({ contract, given }) => {
  expect(await findingsOf(contract, given)).toEqual([]);
});
