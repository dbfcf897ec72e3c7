import type { FindingName, Level } from "../findings.ts";
import type { Place } from "../place.ts";

/** One finding: where, what was expected, what was found, and what to do. */
export interface Finding {
  readonly name: FindingName;
  readonly member: string | null;
  readonly place: Place;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
}

/** A finding with what the config makes of it. */
export interface JudgedFinding extends Finding {
  readonly level: Exclude<Level, "off">;
  /** Why it is accepted; it is told, and fails nothing. */
  readonly accepted: string | null;
}

/** Whether a finding makes the check fail. */
export function isFailing({ level, accepted }: JudgedFinding): boolean {
  return level === "error" && accepted === null;
}
