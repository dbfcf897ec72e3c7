import type { Place } from "../place.ts";
import type { Finding, JudgedFinding } from "./finding.ts";

/** What a check found, wrapper by wrapper and border by border. */
export interface CheckResult {
  readonly conforms: boolean;
  readonly wrappers: readonly WrapperResult[];
  readonly borders: readonly BorderResult[];
}

export interface WrapperResult<Found extends Finding = JudgedFinding> {
  /** `file#export`, as the config names them. */
  readonly target: string;
  readonly wrapper: string;
  readonly place: Place;
  readonly members: readonly MemberResult<Found>[];
  /** Findings that are about no member of the target. */
  readonly findings: readonly Found[];
  readonly conforms: boolean;
}

export interface MemberResult<Found extends Finding = JudgedFinding> {
  readonly member: string;
  readonly place: Place;
  readonly findings: readonly Found[];
}

export interface BorderResult<Found extends Finding = JudgedFinding> {
  readonly package: string;
  /** The files that may import it. */
  readonly files: readonly string[];
  readonly findings: readonly Found[];
  readonly holds: boolean;
}
