import type { RatedFinding } from "../documents/check-document.ts";

/** Whether a finding makes the check fail. */
export function isFailing({ severity, suppressed }: RatedFinding): boolean {
  return severity === "error" && suppressed === null;
}
