import type { FindingName, Severity } from "../findings.ts";
import type { Place } from "../place.ts";

/** One finding: the place, what was expected, what was found, and a remedy. */
export interface Finding {
  readonly name: FindingName;
  readonly member: string | null;
  readonly place: Place;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
}

/** A finding with its severity and suppression from the config. */
export interface RatedFinding extends Finding {
  readonly severity: Exclude<Severity, "off">;
  /** Reason of the suppression; a suppressed finding is reported and does not fail. */
  readonly suppressed: string | null;
}

/** Whether a finding makes the check fail. */
export function isFailing({ severity, suppressed }: RatedFinding): boolean {
  return severity === "error" && suppressed === null;
}
