import type { ImportForm } from "../parser/module-record.ts";
import type { Place } from "../place.ts";
import type { Finding } from "./finding.ts";

/** What a check found, wrapper by wrapper and border by border. */
export interface CheckResult {
  readonly conforms: boolean;
  readonly wrappers: readonly WrapperResult[];
  readonly borders: readonly BorderResult[];
}

export interface WrapperResult {
  /** `file#export`, as the config names them. */
  readonly target: string;
  readonly wrapper: string;
  readonly place: Place;
  readonly members: readonly MemberResult[];
  /** Findings that are about no member of the target. */
  readonly findings: readonly Finding[];
  readonly conforms: boolean;
}

export interface MemberResult {
  readonly member: string;
  readonly place: Place;
  readonly findings: readonly Finding[];
}

export interface BorderResult {
  readonly package: string;
  /** The files that may import it. */
  readonly files: readonly string[];
  readonly findings: readonly Finding[];
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
): BorderResult {
  const breaches = imports.filter(
    (each) => each.package === name && !files.some((file) => covers(file, each.place.file)),
  );
  return {
    package: name,
    files,
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

/** Whether an entry of a border is a file, or a folder that it lies in. */
export function covers(entry: string, file: string): boolean {
  return entry.endsWith("/") ? file.startsWith(entry) : file === entry;
}

/** Puts the parts together. */
export function checkResult(
  wrappers: readonly WrapperResult[],
  borders: readonly BorderResult[],
): CheckResult {
  const conforms =
    wrappers.every((each) => each.conforms) && borders.every(({ findings }) => findings.length === 0);
  return { conforms, wrappers, borders };
}
