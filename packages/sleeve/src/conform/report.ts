import { checksOf } from "./checks/contract-checks.ts";
import { Coverage, type CoverageReport, coverageText } from "./coverage.ts";
import { type Finding, findingText } from "./finding.ts";
import type { CheckOptions, Contract, Implementations } from "./types.ts";
import { badContract } from "./values/arbitraries.ts";

/**
 * The results of a contract for its implementations, as JSON data. `sleeve report` prints them in other
 * formats.
 */
export interface ConformanceReport {
  readonly contract: string;
  readonly seed: number;
  readonly implementations: readonly ImplementationReport[];
  readonly coverage: CoverageReport;
  readonly conforms: boolean;
}

export interface ImplementationReport {
  readonly name: string;
  readonly checks: readonly CheckReport[];
  readonly conforms: boolean;
}

export interface CheckReport {
  readonly name: string;
  readonly findings: readonly Finding[];
  readonly suppressed: readonly { readonly finding: Finding; readonly reason: string }[];
  readonly notes: readonly string[];
}

/**
 * Runs a contract over implementations, one after the other. Each check creates its own implementation.
 *
 * @throws {SleeveError} BAD_CONTRACT if there is no implementation, or one is no factory
 *
 * For Vitest there is `conforms` in `sleeve/vitest`; use this function with other runners, and in programs.
 */
export async function checkContract<Target extends object>(
  contract: Contract<Target>,
  implementations: Implementations<Target>,
  options: CheckOptions = {},
): Promise<ConformanceReport> {
  if (Object.keys(implementations).length === 0)
    throw badContract(
      `No implementation of ${contract.name} was passed. Pass at least one, by name: { "office ledger": () => openLedger() }.`,
    );
  const coverage = new Coverage(contract);
  const reports: ImplementationReport[] = [];
  for (const [name, entry] of Object.entries(implementations)) {
    const checks: CheckReport[] = [];
    for (const check of checksOf(contract, entry, { ...options, coverage }))
      checks.push({ name: check.name, ...(await check.run()) });
    reports.push({ name, checks, conforms: checks.every(({ findings }) => findings.length === 0) });
  }
  return {
    contract: contract.name,
    seed: options.seed ?? 1,
    implementations: reports,
    coverage: coverage.report(),
    conforms: reports.every(({ conforms }) => conforms),
  };
}

/** Formats a report as text: one line for each check, with its findings below. */
export function conformanceText({
  contract,
  implementations,
  coverage,
  conforms,
  seed,
}: ConformanceReport): string {
  const finding = implementations.flatMap(({ checks }) => checks).flatMap(({ findings }) => findings).length;
  const verdict = conforms ? "all conform" : `${finding} ${finding === 1 ? "finding" : "findings"}`;
  const parts = implementations.map(({ name, checks }) => [name, ...checks.map(checkText), ""].join("\n"));
  return `${contract}, seed ${seed}\n\n${parts.join("\n")}\n${coverageText(coverage)}\n${verdict}\n`;
}

function checkText({ name, findings, suppressed, notes }: CheckReport): string {
  const details = [
    ...findings.map(findingText),
    ...suppressed.map(
      ({ finding, reason }) =>
        `suppressed: ${finding.name}: ${finding.place}\n  found    ${finding.found}\n  reason   ${reason}`,
    ),
    ...notes.map((note) => `note: ${note}`),
  ];
  const lines = details.flatMap((text) => text.split("\n")).map((line) => `      ${line}`);
  return [`  ${findings.length === 0 ? "ok  " : "FAIL"} ${name}`, ...lines].join("\n");
}
