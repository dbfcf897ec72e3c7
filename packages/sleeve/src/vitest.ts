import { describe, expect, test } from "vitest";
import { type CheckOptions, checksOf } from "./conform/check.ts";
import type { Contract } from "./conform/contract.ts";
import { findingText } from "./conform/finding.ts";
import type { Implementations } from "./conform/implementation.ts";

/**
 * Runs a contract over implementations as Vitest tests: a group for each implementation, and in it a test for the
 * surface and for each example, law and refusal.
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
    for (const [name, given] of Object.entries(implementations)) {
      describe(name, () => {
        for (const check of checksOf(contract, options)) {
          test(check.name, async () => {
            const findings = await check.run(given);
            if (findings.length > 0) expect.fail(findings.map(findingText).join("\n"));
          });
        }
      });
    }
  });
}
