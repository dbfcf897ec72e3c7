import { allFindings } from "../../check/apply-config.ts";
import { isFailing } from "../../check/finding.ts";
import type { CheckResult, RatedFinding } from "../../documents/check-document.ts";
import { exportParts, placeText } from "../../place.ts";
import { printableDocument } from "../../printable.ts";
import { byPrintableName, codeFrame } from "../code-frame.ts";
import { type Colours, counted, labelled } from "../terminal.ts";

/** The text of each file that findings are in. */
type Texts = ReadonlyMap<string, string>;

export interface CheckTextOptions {
  readonly colours: Colours;
  /** Whether everything could be checked. */
  readonly isComplete: boolean;
  /**
   * Whether members, wrappers and borders without findings, and suppressed findings, are listed. Default: `false`.
   */
  readonly isVerbose?: boolean | undefined;
}

/**
 * Formats a check for the terminal: the wrappers and borders with findings, equal findings once, and one line of
 * totals.
 */
export function checkText(checked: CheckResult, sources: Texts, options: CheckTextOptions): string {
  const result = printableDocument(checked);
  const texts = byPrintableName(sources);
  const { isComplete, colours } = options;
  const sections = [
    ...wrapperSections(result, texts, options),
    ...borderSections(result, texts, options),
    ...listSection("imports without a border", "import", result.imports, texts, options),
    ...listSection("generated files", "file", result.generated, texts, options),
    ...listSection("names in the config", "config", result.config, texts, options),
  ];
  return [
    ...sections.map((lines) => `${lines.join("\n")}\n`),
    `${totals(result, isComplete, colours)}\n`,
  ].join("\n");
}

function wrapperSections({ wrappers }: CheckResult, texts: Texts, { colours, isVerbose }: CheckTextOptions) {
  const { bold, dim, green, red } = colours;
  return wrappers.flatMap(({ target, wrapper, place, members, findings, conforms }): string[][] => {
    const shownFindings = shown([...members.flatMap((member) => member.findings), ...findings], isVerbose);
    if (shownFindings.length === 0 && !isVerbose) return [];
    const verdict = conforms ? green("conforms") : red("does not conform");
    const width = Math.max(...members.map(({ member }) => member.length));
    const passing = isVerbose ? members.filter((member) => member.findings.length === 0) : [];
    return [
      [
        `${bold(nameIn(wrapper))} to ${bold(nameIn(target))}: ${verdict}  ${dim(placeText(place))}`,
        ...passing.map(
          (member) => `  ${green("ok")}  ${member.member.padEnd(width)}  ${dim(placeText(member.place))}`,
        ),
        ...groupedFindings(shownFindings, nameIn(wrapper), texts, colours),
      ],
    ];
  });
}

function borderSections({ borders }: CheckResult, texts: Texts, { colours, isVerbose }: CheckTextOptions) {
  const { bold, dim, green, red } = colours;
  return borders.flatMap(({ package: name, files, findings, debt, holds }): string[][] => {
    const shownFindings = shown(findings, isVerbose);
    if (shownFindings.length === 0 && !isVerbose) return [];
    const verdict = holds ? green("holds") : red("is broken");
    const allowed = dim(`imported by ${files.join(", ") || "no file"} only`);
    const accepted = isVerbose
      ? debt.map(({ name, reason }) => `  ${dim("debt")}  ${name}  ${dim(reason)}`)
      : [];
    return [
      [
        `border of ${bold(name)}: ${verdict}  ${allowed}`,
        ...groupedFindings(shownFindings, name, texts, colours),
        ...accepted,
      ],
    ];
  });
}

/** Findings that belong to no wrapper and no border. */
function listSection(
  title: string,
  subject: string,
  findings: readonly RatedFinding[],
  texts: Texts,
  { colours, isVerbose }: CheckTextOptions,
): string[][] {
  const listed = shown(findings, isVerbose);
  if (listed.length === 0) return [];
  return [[colours.bold(title), ...groupedFindings(listed, subject, texts, colours)]];
}

/** Suppressed findings are counted, and listed on request only. */
function shown(findings: readonly RatedFinding[], isVerbose: boolean | undefined): readonly RatedFinding[] {
  return isVerbose ? findings : findings.filter(({ suppressed }) => suppressed === null);
}

/** Formats findings; those that differ only in their places and in what was found there are formatted as one. */
function groupedFindings(
  findings: readonly RatedFinding[],
  subject: string,
  texts: Texts,
  colours: Colours,
): string[] {
  const groups = new Map<string, RatedFinding[]>();
  for (const finding of findings) {
    const { name, severity, suppressed, expected, remedy } = finding;
    const key = JSON.stringify([name, severity, suppressed, expected, remedy]);
    const group = groups.get(key);
    if (group) group.push(finding);
    else groups.set(key, [finding]);
  }
  return [...groups.values()].flatMap((group) => findingLines(group, subject, texts, colours));
}

function findingLines(
  group: readonly RatedFinding[],
  subject: string,
  texts: Texts,
  colours: Colours,
): string[] {
  const [firstFinding] = group;
  if (!firstFinding) return [];
  const { name, severity, suppressed, expected, remedy } = firstFinding;
  const { red, yellow, dim } = colours;
  if (suppressed !== null) {
    return group.map(
      ({ member, place }) =>
        `  ${dim(name)}  ${member ?? subject}  ${dim(`${placeText(place)}  suppressed: ${suppressed}`)}`,
    );
  }
  const title = severity === "warning" ? yellow(`${name} (warning)`) : red(name);
  const head = ({ member, place }: RatedFinding) => [
    `  ${title}  ${member ?? subject}  ${dim(placeText(place))}`,
    ...codeFrame(texts.get(place.file), place, "      ", colours),
  ];
  const foundLine = (finding: RatedFinding) => labelled("found", finding.found);
  const shared = [labelled("expected", expected), labelled("remedy", remedy)] as const;
  return group.length === 1
    ? [...head(firstFinding), ...shared[0], ...foundLine(firstFinding), ...shared[1]]
    : [...group.flatMap((finding) => [...head(finding), ...foundLine(finding)]), ...shared.flat()];
}

function totals(result: CheckResult, isComplete: boolean, { green, red }: Colours): string {
  const { wrappers, borders, generated, config, changedFiles } = result;
  const parts = [
    ...(wrappers.length > 0 ? [counted(wrappers.length, "wrapper")] : []),
    ...(borders.length > 0 ? [counted(borders.length, "border")] : []),
    ...(generated.length > 0 ? [counted(generated.length, "generated file")] : []),
  ];
  if (parts.length === 0 && config.length > 0) parts.push("the names in the config");
  if (parts.length === 0)
    return isComplete
      ? "Nothing checked: the config has no targets and no borders."
      : "Nothing could be checked.";
  const findings = allFindings(result);
  const failing = findings.filter(isFailing).length;
  const suppressed = findings.filter((finding) => finding.suppressed !== null).length;
  const warnings = findings.length - failing - suppressed;
  const debt = borders.reduce((sum, border) => sum + border.debt.length, 0);
  const counts = [
    failing > 0 ? counted(failing, "finding") : "no findings",
    ...(warnings > 0 ? [counted(warnings, "warning")] : []),
    ...(suppressed > 0 ? [`${suppressed} suppressed`] : []),
    ...(debt > 0 ? [`debt of ${counted(debt, "outside name")}`] : []),
  ];
  const where = changedFiles === null ? "" : ` in ${counted(changedFiles, "changed file")}`;
  const line = `${parts.join(" and ")} checked${where}: ${counts.join(", ")}`;
  if (failing > 0) return red(`${line}.`);
  return isComplete ? green(`${line}.`) : `${line}, but not everything could be checked.`;
}

/** `gaugeTides` of `src/tides/gauge-tides.ts#gaugeTides`. */
function nameIn(place: string): string {
  return exportParts(place)[1] || place;
}
