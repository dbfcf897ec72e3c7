import type { Log, Result } from "sarif";
import { allFindings } from "../../check/apply-config.ts";
import type { CheckResult, RatedFinding } from "../../documents/check-document.ts";
import { FINDINGS } from "../../findings.ts";
import { DOCUMENTATION } from "../../version.ts";

/**
 * Formats a check as a SARIF 2.1.0 log: one run, a rule per kind of finding, and a result per finding.
 * Suppressed findings are included with their reasons.
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
            informationUri: DOCUMENTATION,
            rules: names.map((name) => ({
              id: name,
              shortDescription: { text: FINDINGS[name] },
              helpUri: `${DOCUMENTATION}/check#${name}`,
            })),
          },
        },
        columnKind: "utf16CodeUnits",
        results: allFindings(result).map((finding) => sarifResult(finding, names.indexOf(finding.name))),
      },
    ],
  };
}

function sarifResult(finding: RatedFinding, ruleIndex: number): Result {
  const { name, member, place, expected, found, remedy, severity, suppressed } = finding;
  return {
    ruleId: name,
    ruleIndex,
    level: severity,
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
    ...(suppressed !== null && { suppressions: [{ kind: "external", justification: suppressed }] }),
  };
}
