import type { Log, Result } from "sarif";
import type { CheckResult } from "../check/check.ts";
import type { JudgedFinding } from "../check/finding.ts";
import { allFindings } from "../check/settle.ts";
import { FINDINGS } from "../findings.ts";

/**
 * A check as a SARIF 2.1.0 log: one run, a rule for each kind of finding, and a result for each finding. What is
 * accepted is there too, suppressed with its reason.
 */
export function checkSarif(result: CheckResult, version: string): Log {
  const names = Object.keys(FINDINGS) as (keyof typeof FINDINGS)[];
  return {
    $schema: "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
    version: "2.1.0",
    runs: [
      {
        tool: {
          driver: {
            name: "sleeve",
            version,
            rules: names.map((name) => ({ id: name, shortDescription: { text: FINDINGS[name] } })),
          },
        },
        columnKind: "utf16CodeUnits",
        results: allFindings(result).map((finding) => sarifResult(finding, names.indexOf(finding.name))),
      },
    ],
  };
}

function sarifResult(finding: JudgedFinding, ruleIndex: number): Result {
  const { name, member, place, expected, found, remedy, level, accepted } = finding;
  return {
    ruleId: name,
    ruleIndex,
    level,
    message: {
      text: `${member === null ? "" : `${member}: `}expected ${expected}; found ${found}. ${remedy}`,
    },
    locations: [
      {
        physicalLocation: {
          artifactLocation: {
            uri: place.file.split("/").map(encodeURIComponent).join("/"),
            uriBaseId: "%SRCROOT%",
          },
          region: { startLine: place.line, startColumn: place.column },
        },
        ...(member !== null && { logicalLocations: [{ name: member, kind: "member" }] }),
      },
    ],
    ...(accepted !== null && { suppressions: [{ kind: "external", justification: accepted }] }),
  };
}
