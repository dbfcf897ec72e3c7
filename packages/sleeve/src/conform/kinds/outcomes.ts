import type { Finding } from "../finding.ts";
import type { Operation } from "../sequences/operations.ts";
import type { StepOutcome } from "../sequences/sequence-run.ts";
import { equalValues } from "../values/equality.ts";
import type { Probe } from "./probe.ts";

/** Examines the probes of each operation, and returns the first finding of each. */
export async function eachOperation(
  probes: readonly Probe[],
  examine: (operation: Operation, own: readonly Probe[]) => Promise<Finding | undefined>,
): Promise<readonly Finding[]> {
  const findings: Finding[] = [];
  for (const operation of new Set(probes.map((probe) => probe.operation))) {
    const finding = await examine(
      operation,
      probes.filter((probe) => probe.operation === operation),
    );
    if (finding) findings.push(finding);
  }
  return findings;
}

/** Returns what a client sees of an outcome. */
export function seenOutcome({ status, value }: StepOutcome): readonly unknown[] {
  return [status, value];
}

export function isSameOutcome(left: StepOutcome, right: StepOutcome): boolean {
  return equalValues(seenOutcome(left), seenOutcome(right));
}

export function hasSucceeded({ status }: StepOutcome): boolean {
  return status === "returned" || status === "resolved";
}
