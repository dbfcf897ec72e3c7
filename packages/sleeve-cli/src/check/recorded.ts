import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { ProblemError } from "../errors.ts";
import type { FindingName } from "../findings.ts";
import { compareText } from "../place.ts";
import { isFailing, type JudgedFinding } from "./finding.ts";

/** Where a project keeps the findings of a day that it lives with for now. */
export const RECORDED_FINDINGS_FILE = "sleeve.findings.json";

/** Findings that were there when they were recorded; as many of each kind, file and member fail nothing. */
export interface RecordedFinding {
  readonly finding: FindingName;
  readonly in: string;
  readonly member: string | null;
  readonly count: number;
}

/** @throws {ProblemError} `BROKEN_CONFIG` */
export function recordedFindingsIn(root: string): readonly RecordedFinding[] {
  const path = join(root, RECORDED_FINDINGS_FILE);
  if (!existsSync(path)) return [];
  try {
    const { findings } = JSON.parse(readFileSync(path, "utf8")) as { findings?: unknown };
    if (Array.isArray(findings)) return findings as RecordedFinding[];
  } catch {
    // Told below.
  }
  throw new ProblemError(
    "BROKEN_CONFIG",
    `${RECORDED_FINDINGS_FILE} holds no findings. Delete it, or write it anew by \`sleeve check --record\`.`,
  );
}

/** The record of what fails a check today. */
export function recordOf(findings: readonly JudgedFinding[]): readonly RecordedFinding[] {
  const counts = new Map<string, RecordedFinding>();
  for (const each of findings) {
    if (!isFailing(each)) continue;
    const { name: finding, member, place } = each;
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
