import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { CliError } from "../errors.ts";
import type { FindingName } from "../findings.ts";
import { compareText } from "../place.ts";
import { isFailing, type RatedFinding } from "./finding.ts";

/** The file with the recorded findings of a project. */
export const RECORDED_FINDINGS_FILE = "sleeve.findings.json";

/** Recorded findings. As many of each kind, file and member do not fail. */
export interface RecordedFinding {
  readonly finding: FindingName;
  readonly in: string;
  readonly member: string | null;
  readonly count: number;
}

/** @throws {CliError} `BROKEN_CONFIG` */
export function recordedFindingsIn(root: string): readonly RecordedFinding[] {
  const path = join(root, RECORDED_FINDINGS_FILE);
  if (!existsSync(path)) return [];
  try {
    const { findings } = JSON.parse(readFileSync(path, "utf8")) as { findings?: unknown };
    if (Array.isArray(findings)) return findings as RecordedFinding[];
  } catch {
    // Reported below.
  }
  throw new CliError(
    "BROKEN_CONFIG",
    `${RECORDED_FINDINGS_FILE} contains no findings. Delete it, or recreate it with \`sleeve check --record\`.`,
  );
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
