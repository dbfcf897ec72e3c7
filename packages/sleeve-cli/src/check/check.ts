import type { ImportForm } from "../parser/module-record.ts";
import type { Place } from "../place.ts";
import type { Finding, JudgedFinding } from "./finding.ts";
import { covers } from "./settle.ts";

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

/** Whether an outside package is imported by none but the files that may. */
export function checkBorder(
  name: string,
  files: readonly string[],
  imports: readonly {
    readonly package: string;
    readonly place: Place;
    readonly site: { readonly forms: readonly ImportForm[] };
  }[],
): BorderResult<Finding> {
  const breaches = imports.filter(
    (each) => each.package === name && !files.some((file) => covers(file, each.place.file)),
  );
  return {
    package: name,
    files,
    holds: breaches.length === 0,
    findings: breaches.map(({ place, site: { forms } }) => ({
      name: "border",
      member: null,
      place,
      expected: `${name} imported by ${files.join(", ") || "no file"} only`,
      found: `imported here (${forms.join(", ")})`,
      remedy: "Use the target in its place, or add the file to the border in the config.",
    })),
  };
}
