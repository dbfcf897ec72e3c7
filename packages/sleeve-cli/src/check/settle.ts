import type { Level } from "../findings.ts";
import type { Accepted, Levels, Settings } from "../project/config.ts";
import { covers } from "../project/covers.ts";
import type { BorderResult, CheckResult, WrapperResult } from "./check.ts";
import { type Finding, isFailing, type JudgedFinding } from "./finding.ts";
import type { RecordedFinding } from "./recorded.ts";

/** What findings are settled by, beside the config. */
export interface Circumstances {
  /** Findings that were recorded, of which as many fail nothing. */
  readonly recorded: readonly RecordedFinding[];
  /** The day, as `2026-11-25`, by which acceptances end. */
  readonly today: string;
}

/** A check with what the config makes of its findings, and what it accepts that is no longer there. */
export function settle(
  wrappers: readonly WrapperResult<Finding>[],
  borders: readonly BorderResult<Finding>[],
  { levels = {}, accepted = [] }: Settings,
  { recorded, today }: Circumstances,
): { readonly result: CheckResult; readonly unused: readonly Accepted[] } {
  const used = new Set<Accepted>();
  const left = new Map(recorded.map((each) => [keyOf(each.finding, each.in, each.member), each.count]));
  const takeRecorded = ({ name, place, member }: Finding): boolean => {
    const key = keyOf(name, place.file, member);
    const count = left.get(key) ?? 0;
    if (count > 0) left.set(key, count - 1);
    return count > 0;
  };
  const judge = (finding: Finding): readonly JudgedFinding[] => {
    const level = levelOf(finding, levels);
    if (level === "off") return [];
    const known = accepted.find((each) => accepts(each, finding));
    if (known) used.add(known);
    const isOver = known?.until !== undefined && known.until < today;
    if (known && isOver)
      return [
        {
          ...finding,
          remedy: `${finding.remedy} It was accepted until ${known.until}.`,
          level,
          accepted: null,
        },
      ];
    const isRecorded = !known && level === "error" && takeRecorded(finding);
    return [{ ...finding, level, accepted: known?.reason ?? (isRecorded ? WAS_THERE : null) }];
  };
  const judgedWrappers = wrappers.map((each): WrapperResult => {
    const members = each.members.map((member) => ({ ...member, findings: member.findings.flatMap(judge) }));
    const findings = each.findings.flatMap(judge);
    const all = [...members.flatMap((member) => member.findings), ...findings];
    return { ...each, members, findings, conforms: !all.some(isFailing) };
  });
  const judgedBorders = borders.map((each): BorderResult => {
    const findings = each.findings.flatMap(judge);
    return { ...each, findings, holds: !findings.some(isFailing) };
  });
  return {
    result: {
      conforms: judgedWrappers.every((each) => each.conforms) && judgedBorders.every((each) => each.holds),
      wrappers: judgedWrappers,
      borders: judgedBorders,
    },
    unused: accepted.filter((each) => !used.has(each)),
  };
}

const WAS_THERE = "it was there when findings were recorded";

function keyOf(finding: string, file: string, member: string | null): string {
  return `${finding}\0${file}\0${member}`;
}

/** All findings of a check, in the order in which it tells them. */
export function allFindings({ wrappers, borders }: CheckResult): readonly JudgedFinding[] {
  return [
    ...wrappers.flatMap(({ members, findings }) => [
      ...members.flatMap((each) => each.findings),
      ...findings,
    ]),
    ...borders.flatMap(({ findings }) => findings),
  ];
}

/** The level that the config gives a finding: by the longest of the paths that lead to it, else by its name. */
function levelOf({ name, place: { file } }: Finding, levels: Levels): Level {
  const given = levels[name] ?? "error";
  if (typeof given === "string") return given;
  const paths = Object.keys(given).filter((path) => path === "*" || covers(path, file));
  const [nearest] = paths.sort((a, b) => (b === "*" ? 0 : b.length) - (a === "*" ? 0 : a.length));
  return (nearest !== undefined && given[nearest]) || "error";
}

function accepts(each: Accepted, { name, member, place: { file } }: Finding): boolean {
  return (
    each.finding === name && covers(each.in, file) && (each.member === undefined || each.member === member)
  );
}
