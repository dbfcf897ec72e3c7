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

test.each(wrongDecorators)("a decorator that $wrong: $finding", async ({ finding, given }) => {
  const findings = await findingsOf(ledgerContract, given);
  expect(findings.map(({ name }) => name)).toContain(finding);
});

test.each(wrongOthers)("one that $wrong: $finding", async ({ finding, contract, given }) => {
  const findings = await findingsOf(contract, given);
  expect(findings.map(({ name }) => name)).toContain(finding);
});

test.each(rightWrappers)("nothing is found in one that $right", async ({ contract, given }) => {
  expect(await findingsOf(contract, given)).toEqual([]);
});
