import { existsSync } from "node:fs";
import { join } from "node:path";
import type { RatedFinding, RecordedFinding } from "../documents/check-document.ts";
import { recordedFindingsSchema } from "../documents/check-document.ts";
import { parsedFile } from "../documents/parsed-file.ts";
import { CliError } from "../errors.ts";
import { compareText } from "../place.ts";
import { isFailing } from "./finding.ts";

/** The file with the recorded findings of a project. */
export const RECORDED_FINDINGS_FILE = "sleeve.findings.json";

/** @throws {CliError} `BROKEN_CONFIG` */
export function recordedFindingsIn(root: string): readonly RecordedFinding[] {
  const path = join(root, RECORDED_FINDINGS_FILE);
  if (!existsSync(path)) return [];
  return parsedFile(recordedFindingsSchema, path, (reason) => {
    const remedy = "Delete it, or recreate it with `sleeve check --record`.";
    return new CliError(
      "BROKEN_CONFIG",
      `${RECORDED_FINDINGS_FILE} is not a record of findings: ${reason}. ${remedy}`,
    );
  }).findings;
}

/** Returns a record of the current failing findings. */
export function recordOf(findings: readonly RatedFinding[]): readonly RecordedFinding[] {
  const counts = new Map<string, RecordedFinding>();
  for (const ratedFinding of findings) {
    if (!isFailing(ratedFinding)) continue;
    const { name: finding, member, place } = ratedFinding;
    const key = `${finding}\0${place.file}\0${member}`;
    counts.set(key, { finding, in: place.file, member, count: (counts.get(key)?.count ?? 0) + 1 });
  }
  return [...counts.values()].sort(
    (a, b) =>
      compareText(a.in, b.in) ||
      compareText(a.finding, b.finding) ||
      compareText(a.member ?? "", b.member ?? ""),
  );
}
