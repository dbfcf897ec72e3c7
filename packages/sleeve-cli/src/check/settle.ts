import type { Level } from "../findings.ts";
import type { Accepted, Levels, Settings } from "../project/config.ts";
import type { BorderResult, CheckResult, WrapperResult } from "./check.ts";
import { type Finding, isFailing, type JudgedFinding } from "./finding.ts";

/** A check with what the config makes of its findings, and what it accepts that is no longer there. */
export function settle(
  wrappers: readonly WrapperResult<Finding>[],
  borders: readonly BorderResult<Finding>[],
  { levels = {}, accepted = [] }: Settings,
): { readonly result: CheckResult; readonly unused: readonly Accepted[] } {
  const used = new Set<Accepted>();
  const judge = (finding: Finding): readonly JudgedFinding[] => {
    const level = levelOf(finding, levels);
    if (level === "off") return [];
    const known = accepted.find((each) => accepts(each, finding));
    if (known) used.add(known);
    return [{ ...finding, level, accepted: known?.reason ?? null }];
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

/** Whether an entry of the config is a file, or a folder that it lies in. */
export function covers(entry: string, file: string): boolean {
  return entry.endsWith("/") ? file.startsWith(entry) : file === entry;
}
