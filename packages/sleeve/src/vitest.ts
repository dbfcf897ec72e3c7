import { afterAll, describe, expect, test } from "vitest";
import { checksOf } from "./conform/check.ts";
import type { CheckOptions } from "./conform/context.ts";
import type { Contract } from "./conform/contract.ts";
import { Coverage, coverageText } from "./conform/coverage.ts";
import { findingText } from "./conform/finding.ts";
import type { Implementations } from "./conform/implementation.ts";
import { host } from "./host.ts";

/**
 * Runs a contract over implementations as Vitest tests: a group for each implementation, and in it a test for the surface,
 * for each example, law and refusal, and for each law of the implementation's kind. What of the target was never exercised
 * is told at the end.
 *
 * @example
 * import { contract } from "sleeve/conform";
 * import { conforms } from "sleeve/vitest";
 *
 * interface Bell { ring(): string }
 * const bell = contract<Bell>("Bell", {
 *   surface: { ring: "method" },
 *   examples: { "rings twice": (each) => each.ring() === "ding dong" },
 * });
 * conforms(bell, { "the brass one": () => ({ ring: () => "ding dong" }) });
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
            const { findings, waived, notes } = await check.run();
            for (const note of notes) await annotate(note, "note");
            for (const { finding, reason } of waived)
              await annotate(`waived ${finding.name} at ${finding.place}: ${reason}`, "waived");
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
