import type { Place } from "../place.ts";
import type { Finding, RatedFinding } from "./finding.ts";

/** The result of a check, by wrapper and border. */
export interface CheckResult {
  readonly conforms: boolean;
  readonly wrappers: readonly WrapperResult[];
  readonly borders: readonly BorderResult[];
}

export interface WrapperResult<Found extends Finding = RatedFinding> {
  /** `file#export`, as in the config. */
  readonly target: string;
  readonly wrapper: string;
  readonly place: Place;
  readonly members: readonly MemberResult<Found>[];
  /** Findings that do not belong to one member of the target. */
  readonly findings: readonly Found[];
  readonly conforms: boolean;
}

export interface MemberResult<Found extends Finding = RatedFinding> {
  readonly member: string;
  readonly place: Place;
  readonly findings: readonly Found[];
}

export interface BorderResult<Found extends Finding = RatedFinding> {
  readonly package: string;
  /** The files that may import it. */
  readonly files: readonly string[];
  readonly findings: readonly Found[];
  readonly holds: boolean;
}
