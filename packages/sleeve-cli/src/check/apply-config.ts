import type {
  BorderResult,
  CheckResult,
  Finding,
  RatedFinding,
  RecordedFinding,
  WrapperResult,
} from "../documents/check-document.ts";
import { DEFAULT_SEVERITIES, type Severity } from "../findings.ts";
import type { Settings, Severities, Suppression } from "../project/config.ts";
import { pathMatches } from "../project/path-match.ts";

import { isFailing } from "./finding.ts";

/** Inputs besides the config that decide how findings count. */
export interface RunContext {
  /** Recorded findings, of which as many do not fail. */
  readonly recorded: readonly RecordedFinding[];
  /** The date, as `2026-11-25`, on which suppressions expire. */
  readonly today: string;
}

/**
 * Applies the config's severities and suppressions to a check, and returns the suppressions that match
 * nothing.
 */
export function applyConfig(
  {
    wrappers,
    borders,
    imports,
    generated,
    config,
    changedFiles,
  }: {
    readonly wrappers: readonly WrapperResult<Finding>[];
    readonly borders: readonly BorderResult<Finding>[];
    readonly imports: readonly Finding[];
    readonly generated: readonly Finding[];
    readonly config: readonly Finding[];
    readonly changedFiles: number | null;
  },
  { severities = {}, suppressions = [] }: Settings,
  { recorded, today }: RunContext,
): { readonly result: CheckResult; readonly unused: readonly Suppression[] } {
  const usedSuppressions = new Set<Suppression>();
  const takeRecorded = recordedFindings(recorded);
  const rate = (finding: Finding): readonly RatedFinding[] => {
    const level = severityOf(finding, severities);
    if (level === "off") return [];
    const suppression = suppressions.find((candidate) => isSuppressedBy(candidate, finding));
    if (suppression) usedSuppressions.add(suppression);
    if (suppression?.until !== undefined && suppression.until < today) {
      const remedy = `${finding.remedy} Its suppression expired on ${suppression.until}.`;
      return [{ ...finding, remedy, severity: level, suppressed: null }];
    }
    const isRecorded = !suppression && level === "error" && takeRecorded(finding);
    const reason = suppression?.reason ?? (isRecorded ? RECORDED_REASON : null);
    return [{ ...finding, severity: level, suppressed: reason }];
  };
  const judgedWrappers = wrappers.map((wrapper): WrapperResult => {
    const members = wrapper.members.map((member) => ({
      ...member,
      findings: member.findings.flatMap(rate),
    }));
    const findings = wrapper.findings.flatMap(rate);
    const everyFinding = [...members.flatMap((member) => member.findings), ...findings];
    return { ...wrapper, members, findings, conforms: !everyFinding.some(isFailing) };
  });
  const judgedBorders = borders.map((border): BorderResult => {
    const findings = border.findings.flatMap(rate);
    return { ...border, findings, holds: !findings.some(isFailing) };
  });
  const judgedImports = imports.flatMap(rate);
  const judgedFiles = generated.flatMap(rate);
  const judgedNames = config.flatMap(rate);
  return {
    result: {
      conforms:
        judgedWrappers.every((wrapper) => wrapper.conforms) &&
        judgedBorders.every((border) => border.holds) &&
        ![...judgedImports, ...judgedFiles, ...judgedNames].some(isFailing),
      wrappers: judgedWrappers,
      borders: judgedBorders,
      imports: judgedImports,
      generated: judgedFiles,
      config: judgedNames,
      changedFiles,
    },
    unused: suppressions.filter((suppression) => !usedSuppressions.has(suppression)),
  };
}

/** Returns a function that takes a finding from those that are recorded, each as often as it is recorded. */
function recordedFindings(recorded: RunContext["recorded"]): (finding: Finding) => boolean {
  const remaining = new Map(
    recorded.map(({ finding, in: file, member, count }) => [keyOf(finding, file, member), count]),
  );
  return ({ name, place, member }) => {
    const key = keyOf(name, place.file, member);
    const count = remaining.get(key) ?? 0;
    if (count > 0) remaining.set(key, count - 1);
    return count > 0;
  };
}

const RECORDED_REASON = "recorded as an existing finding";

function keyOf(finding: string, file: string, member: string | null): string {
  return `${finding}\0${file}\0${member}`;
}

/** Returns all findings of a check, in output order. */
export function allFindings({
  wrappers,
  borders,
  imports,
  generated,
  config,
}: CheckResult): readonly RatedFinding[] {
  return [
    ...wrappers.flatMap(({ members, findings }) => [
      ...members.flatMap((member) => member.findings),
      ...findings,
    ]),
    ...borders.flatMap(({ findings }) => findings),
    ...imports,
    ...generated,
    ...config,
  ];
}

/** Returns the severity of a finding: by the longest matching path, else by its name. */
function severityOf({ name, place: { file } }: Finding, levels: Severities): Severity {
  const level = levels[name] ?? DEFAULT_SEVERITIES[name] ?? "error";
  if (typeof level === "string") return level;
  const paths = Object.keys(level).filter((path) => path === "*" || pathMatches(path, file));
  const [nearest] = paths.sort((a, b) => (b === "*" ? 0 : b.length) - (a === "*" ? 0 : a.length));
  return (nearest !== undefined && level[nearest]) || "error";
}

function isSuppressedBy(suppression: Suppression, { name, member, place: { file } }: Finding): boolean {
  return (
    suppression.finding === name &&
    pathMatches(suppression.in, file) &&
    (suppression.member === undefined || suppression.member === member)
  );
}
