import { type CheckOptions, checksOf } from "./check.ts";
import type { Contract } from "./contract.ts";
import type { Finding } from "./finding.ts";
import type { Implementations } from "./implementation.ts";

/** What a contract found of its implementations, as data. */
export interface ConformanceReport {
  readonly contract: string;
  readonly implementations: readonly ImplementationReport[];
  readonly conforms: boolean;
}

export interface ImplementationReport {
  readonly name: string;
  readonly checks: readonly { readonly name: string; readonly findings: readonly Finding[] }[];
  readonly conforms: boolean;
}

/**
 * Runs a contract over implementations, one after the other, each check on one made for it alone.
 *
 * For Vitest there is `conforms` in `sleeve/vitest`; this serves any other runner, and programs.
 */
export async function checkContract<Target extends object>(
  contract: Contract<Target>,
  implementations: Implementations<Target>,
  options: CheckOptions = {},
): Promise<ConformanceReport> {
  const reports: ImplementationReport[] = [];
  for (const [name, given] of Object.entries(implementations)) {
    const checks = [];
    for (const check of checksOf(contract, options)) {
      checks.push({ name: check.name, findings: await check.run(given) });
    }
    reports.push({ name, checks, conforms: checks.every(({ findings }) => findings.length === 0) });
  }
  return {
    contract: contract.name,
    implementations: reports,
    conforms: reports.every(({ conforms }) => conforms),
  };
}
