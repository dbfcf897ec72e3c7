import { afterAll, describe, expect, test } from "vitest";
import { checksOf } from "./conform/checks/contract-checks.ts";
import { Coverage, coverageText } from "./conform/coverage.ts";
import { findingText } from "./conform/finding.ts";
import type { CheckOptions, Contract, Implementations } from "./conform/types.ts";

import { host } from "./shared/host.ts";

/**
 * Runs a contract over implementations as Vitest tests.
 *
 * Each implementation gets a `describe` block with one test for the surface, one for each example, law and
 * refusal, and one for each law of its kind of wrapper. The coverage of the target is printed at the end.
 *
 * @example
 * import { contract } from "sleeve/conform";
 * import { conforms } from "sleeve/vitest";
 *
 * interface Bell { ring(): string }
 * const bell = contract<Bell>("Bell", {
 *   surface: { ring: "method" },
 *   examples: { "rings twice": (brass) => brass.ring() === "ding dong" },
 * });
 * conforms(bell, { "brass bell": () => ({ ring: () => "ding dong" }) });
 */
export function conforms<Target extends object>(
  contract: Contract<Target>,
  implementations: Implementations<Target>,
  options: CheckOptions = {},
): void {
  describe(contract.name, () => {
    const coverage = new Coverage(contract);
    for (const [name, given] of Object.entries(implementations)) {
      describe(name, () => {
        for (const check of checksOf(contract, given, { ...options, coverage })) {
          test(check.name, async ({ annotate }) => {
            const { findings, suppressed, notes } = await check.run();
            for (const note of notes) await annotate(note, "note");
            for (const { finding, reason } of suppressed)
              await annotate(`suppressed ${finding.name} at ${finding.place}: ${reason}`, "suppressed");
            if (findings.length > 0) expect.fail(findings.map(findingText).join("\n"));
          });
        }
      });
    }
    afterAll(() => {
      const report = coverage.report();
      if (!report.isComplete) host.console?.info(`${contract.name}: ${coverageText(report)}`);
    });
  });
}
