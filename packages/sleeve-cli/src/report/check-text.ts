import type { CheckResult } from "../check/check.ts";
import type { Finding } from "../check/finding.ts";
import { placeText } from "../place.ts";
import { type Colours, counted } from "./terminal.ts";

/** A check for the terminal: each wrapper with its members, each border, and a line that sums it up. */
export function checkText({ wrappers, borders, conforms }: CheckResult, colours: Colours): string {
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
  const count = [
    ...wrappers.flatMap((each) => [...each.findings, ...each.members.flatMap((member) => member.findings)]),
    ...borders.flatMap(({ findings }) => findings),
  ].length;
  const checked = `${counted(wrappers.length, "wrapper")} and ${counted(borders.length, "border")} checked`;
  lines.push(
    conforms ? green(`${checked}: all well.`) : red(`${checked}: ${counted(count, "finding")}.`),
    "",
  );
  return lines.join("\n");
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
