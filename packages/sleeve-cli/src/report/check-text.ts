import type { CheckResult } from "../check/check.ts";
import type { Finding } from "../check/finding.ts";
import { placeText } from "../place.ts";
import { type Colours, counted } from "./terminal.ts";

/** A check for the terminal: each wrapper with its members, each border, and a line that sums it up. */
export function checkText(result: CheckResult, isComplete: boolean, colours: Colours): string {
  const { wrappers, borders } = result;
  const { bold, dim, green, red } = colours;
  const lines: string[] = [];
  for (const { target, wrapper, place, members, findings, conforms: isGood } of wrappers) {
    const verdict = isGood ? green("conforms") : red("does not conform");
    lines.push(`${bold(nameIn(wrapper))} to ${bold(nameIn(target))}: ${verdict}  ${dim(placeText(place))}`);
    const width = Math.max(...members.map(({ member }) => member.length));
    for (const { member, place: at, findings: own } of members) {
      if (own.length === 0) lines.push(`  ${green("ok")}  ${member.padEnd(width)}  ${dim(placeText(at))}`);
      for (const each of own) lines.push(...findingLines(each, member, colours));
    }
    for (const each of findings) lines.push(...findingLines(each, each.member ?? nameIn(wrapper), colours));
    lines.push("");
  }
  for (const { package: name, files, findings } of borders) {
    const verdict = findings.length === 0 ? green("holds") : red("is broken");
    lines.push(
      `border of ${bold(name)}: ${verdict}  ${dim(`imported by ${files.join(", ") || "no file"} only`)}`,
    );
    for (const each of findings) lines.push(...findingLines(each, name, colours));
  }
  if (borders.length > 0) lines.push("");
  lines.push(summary(result, isComplete, colours), "");
  return lines.join("\n");
}

function summary(
  { wrappers, borders, conforms }: CheckResult,
  isComplete: boolean,
  { green, red }: Colours,
): string {
  const parts = [
    ...(wrappers.length > 0 ? [counted(wrappers.length, "wrapper")] : []),
    ...(borders.length > 0 ? [counted(borders.length, "border")] : []),
  ];
  const checked = parts.length > 0 ? `${parts.join(" and ")} checked` : "Nothing checked";
  const count = [
    ...wrappers.flatMap((each) => [...each.findings, ...each.members.flatMap((member) => member.findings)]),
    ...borders.flatMap(({ findings }) => findings),
  ].length;
  if (!conforms) return red(`${checked}: ${counted(count, "finding")}.`);
  if (!isComplete) return `${checked}: no findings, but not all could be checked.`;
  return parts.length > 0
    ? green(`${checked}: all well.`)
    : "Nothing checked: the config names no targets and no borders.";
}

function findingLines(
  { name, place, expected, found, remedy }: Finding,
  subject: string,
  { red, dim }: Colours,
): string[] {
  return [
    `  ${red(name)}  ${subject}  ${dim(placeText(place))}`,
    `      expected  ${expected}`,
    `      found     ${found}`,
    `      remedy    ${remedy}`,
  ];
}

/** `gaugeTides` of `src/tides/gauge-tides.ts#gaugeTides`. */
function nameIn(place: string): string {
  return place.split("#")[1] ?? place;
}
