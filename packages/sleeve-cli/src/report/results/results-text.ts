import type {
  CheckDocument,
  ConformanceDocument,
  CoverageDocument,
  FaultsDocument,
  FindingDocument,
  ResultDocument,
} from "../../documents/contract-document.ts";
import { printableDocument } from "../../printable.ts";

import { isFaults } from "../../results/results-document.ts";
import { type Colours, columns, counted } from "../terminal.ts";

/** Formats results for the terminal, one after the other. */
export function resultsText(documents: readonly ResultDocument[], colours: Colours): string {
  return printableDocument(documents)
    .map((document) =>
      isFaults(document) ? faultsText(document, colours) : conformanceText(document, colours),
    )
    .join("\n");
}

function conformanceText(document: ConformanceDocument, colours: Colours): string {
  const { contract, implementations, coverage, seed } = document;
  const { bold, dim, green, red } = colours;
  const lines = [`${bold(contract)}  ${dim(`seed ${seed}`)}`, ""];
  for (const { name, checks, conforms } of implementations) {
    lines.push(`${bold(name)}: ${conforms ? green("conforms") : red("does not conform")}`);
    for (const check of checks) lines.push(...checkLines(check, colours));
    lines.push("");
  }
  lines.push(...coverageLines(coverage), "");
  const findingCount = findingsOf(document).length;
  const checked = `${counted(implementations.length, "implementation")} checked`;
  lines.push(
    findingCount > 0
      ? red(`${checked}: ${counted(findingCount, "finding")}.`)
      : green(`${checked}: no findings.`),
    "",
  );
  return lines.join("\n");
}

/** Returns all findings of a contract run. */
export function findingsOf({ implementations }: ConformanceDocument): readonly FindingDocument[] {
  return implementations.flatMap(({ checks }) => checks).flatMap(({ findings }) => findings);
}

function checkLines(
  { name, findings, suppressed, notes }: CheckDocument,
  colours: Colours,
): readonly string[] {
  const { green, red, yellow, dim } = colours;
  return [
    `  ${findings.length > 0 ? red("failed") : green("ok")}  ${name}`,
    ...findings.flatMap((finding) => findingLines(finding, colours)),
    ...suppressed.map(
      ({ finding, reason }) => `      ${yellow("suppressed")} ${finding.name}  ${finding.place}: ${reason}`,
    ),
    ...notes.map((note) => `      ${dim(note)}`),
  ];
}

function findingLines(
  { name, place, expected, found, remedy, code }: FindingDocument,
  { red, cyan }: Colours,
): readonly string[] {
  const shown =
    code === undefined
      ? []
      : ["      reproduce with", ...code.split("\n").map((line) => `        ${cyan(line)}`)];
  return [
    `      ${red(name)}  ${place}`,
    `      expected  ${expected}`,
    `      found     ${found}`,
    `      remedy    ${remedy}`,
    ...shown,
  ];
}

/** Returns lines about the parts of the target that were not exercised. */
export function coverageLines({
  members,
  errorsNotSeen,
  refusalsNotTried,
  isComplete,
}: CoverageDocument): readonly string[] {
  const usedCount = members.filter(({ uses }) => uses > 0).length;
  const head = `${usedCount} of ${counted(members.length, "member")} exercised${isComplete ? ", and every overload, error and refusal" : ""}`;
  return [
    head,
    ...members.filter(({ uses }) => uses === 0).map(({ member }) => `  never used: ${member}`),
    ...members.flatMap(({ overloadsNotCalled }) =>
      overloadsNotCalled.map((name) => `  never called: ${name}`),
    ),
    ...errorsNotSeen.map((outcome) => `  never failed with: ${outcome}`),
    ...refusalsNotTried.map((probe) => `  never tried: the refusal of ${probe}`),
  ];
}

/** Returns the result for each kind of fault, in the order of injection. */
export function faultRows({ faults }: FaultsDocument) {
  return [...new Set(faults.map(({ fault }) => fault))].map((fault) => {
    const ofFault = faults.filter((candidate) => candidate.fault === fault);
    const missed = ofFault.filter(({ isDetected }) => !isDetected).map(({ member }) => member);
    return { fault, detected: ofFault.length - missed.length, missed };
  });
}

/** Returns the checks that detected faults, with counts, the highest first. */
export function detectedBy({ faults }: FaultsDocument) {
  const checks = faults.flatMap(({ by }) => (by === undefined ? [] : [by]));
  return [...new Set(checks)]
    .map((check) => ({ check, faults: checks.filter((name) => name === check).length }))
    .sort((one, other) => other.faults - one.faults);
}

/** Groups missed faults that one example would detect. */
export function missedGroups({ faults }: FaultsDocument) {
  const missed = faults.filter(({ isDetected }) => !isDetected);
  return [...new Set(missed.map(({ example }) => example))].map((example) => ({
    example,
    faults: missed.filter((fault) => fault.example === example),
  }));
}

function faultsText(document: FaultsDocument, colours: Colours): string {
  const { contract, implementation, detected, missed, unobservable, failing, seed } = document;
  const { bold, dim, red, green, cyan } = colours;
  const rows = faultRows(document).map((row) => [
    row.fault,
    row.detected,
    row.missed.length,
    row.missed.join(", "),
  ]);
  const [head = "", ...rowLines] = columns([["fault", "detected", "missed", ""], ...rows], "  ");
  const table = [dim(head), ...rowLines.map((line, index) => (rows[index]?.[2] === 0 ? line : red(line)))];
  const lines = [
    `${bold(contract)}: faults injected into ${bold(implementation)}, one at a time  ${dim(`seed ${seed}`)}`,
    "",
    ...table,
  ];
  const by = detectedBy(document).map(({ check, faults }) => [check, faults]);
  if (by.length > 0)
    lines.push(
      "",
      ...columns([["detected by", "faults"], ...by], "  ").map((line, index) =>
        index === 0 ? dim(line) : line,
      ),
    );
  if (failing.length > 0)
    lines.push("", `Checks that fail without a fault, and were not used: ${failing.join("; ")}`);
  for (const { example, faults } of missedGroups(document)) {
    lines.push("", ...faults.map(({ member, fault }) => `${red("missed")}  ${member}: ${fault}`));
    lines.push("  an example that detects it", ...example.split("\n").map((line) => `    ${cyan(line)}`));
  }
  const total = detected + missed;
  const share =
    total === 0
      ? "No fault could be observed"
      : `${detected} of ${counted(total, "fault")} detected (${Math.floor((100 * detected) / total)} %)`;
  const unobservableText = unobservable > 0 ? `; ${unobservable} more not observable by a client` : "";
  lines.push("", `${missed > 0 ? red(share) : green(share)}${unobservableText}.`, "");
  return lines.join("\n");
}
