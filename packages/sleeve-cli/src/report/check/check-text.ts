import { allFindings } from "../../check/apply-config.ts";
import type { CheckResult } from "../../check/check.ts";
import { isFailing, type RatedFinding } from "../../check/finding.ts";
import { placeText } from "../../place.ts";
import { codeFrame } from "../code-frame.ts";
import { type Colours, counted } from "../terminal.ts";

/** The text of each file that findings are in. */
type Texts = ReadonlyMap<string, string>;

/** A check for the terminal: each wrapper with its members, each border, and a line that sums it up. */
export function checkText(result: CheckResult, texts: Texts, isComplete: boolean, colours: Colours): string {
  const { wrappers, borders } = result;
  const { bold, dim, green, red } = colours;
  const lines: string[] = [];
  for (const { target, wrapper, place, members, findings, conforms: isGood } of wrappers) {
    const verdict = isGood ? green("conforms") : red("does not conform");
    lines.push(`${bold(nameIn(wrapper))} to ${bold(nameIn(target))}: ${verdict}  ${dim(placeText(place))}`);
    const width = Math.max(...members.map(({ member }) => member.length));
    for (const { member, place: at, findings: own } of members) {
      if (own.length === 0) lines.push(`  ${green("ok")}  ${member.padEnd(width)}  ${dim(placeText(at))}`);
      for (const ratedFinding of own) lines.push(...findingLines(ratedFinding, member, texts, colours));
    }
    for (const finding of findings)
      lines.push(...findingLines(finding, finding.member ?? nameIn(wrapper), texts, colours));
    lines.push("");
  }
  for (const { package: name, files, findings, holds } of borders) {
    const verdict = holds ? green("holds") : red("is broken");
    lines.push(
      `border of ${bold(name)}: ${verdict}  ${dim(`imported by ${files.join(", ") || "no file"} only`)}`,
    );
    for (const finding of findings) lines.push(...findingLines(finding, name, texts, colours));
  }
  if (borders.length > 0) lines.push("");
  lines.push(summary(result, isComplete, colours), "");
  return lines.join("\n");
}

function summary(result: CheckResult, isComplete: boolean, { green, red }: Colours): string {
  const { wrappers, borders } = result;
  const parts = [
    ...(wrappers.length > 0 ? [counted(wrappers.length, "wrapper")] : []),
    ...(borders.length > 0 ? [counted(borders.length, "border")] : []),
  ];
  const checked = parts.length > 0 ? `${parts.join(" and ")} checked` : "Nothing checked";
  const found = allFindings(result);
  const failing = found.filter(isFailing).length;
  const accepted = found.filter(({ suppressed: reason }) => reason !== null).length;
  const warnings = found.length - failing - accepted;
  const rest = [
    ...(warnings > 0 ? [counted(warnings, "warning")] : []),
    ...(accepted > 0 ? [`${accepted} accepted`] : []),
  ];
  const more = rest.length > 0 ? ` (${rest.join(", ")})` : "";
  if (failing > 0) return red(`${checked}: ${counted(failing, "finding")}${more}.`);
  if (!isComplete) return `${checked}: no findings${more}, but not all could be checked.`;
  return parts.length > 0
    ? green(`${checked}: all well${more}.`)
    : "Nothing checked: the config names no targets and no borders.";
}

function findingLines(finding: RatedFinding, subject: string, texts: Texts, colours: Colours): string[] {
  const { name, place, expected, found, remedy, severity, suppressed } = finding;
  const { red, yellow, dim } = colours;
  if (suppressed !== null) {
    return [`  ${dim(name)}  ${subject}  ${dim(placeText(place))}`, `      accepted  ${suppressed}`];
  }
  const isWarning = severity === "warning";
  return [
    `  ${isWarning ? yellow(name) : red(name)}  ${subject}  ${dim(placeText(place))}${isWarning ? yellow("  warning") : ""}`,
    ...codeFrame(texts.get(place.file), place, "      ", colours),
    `      expected  ${expected}`,
    `      found     ${found}`,
    `      remedy    ${remedy}`,
  ];
}

/** `gaugeTides` of `src/tides/gauge-tides.ts#gaugeTides`. */
function nameIn(place: string): string {
  return place.split("#")[1] ?? place;
}
