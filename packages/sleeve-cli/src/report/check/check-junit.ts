import { isFailing } from "../../check/finding.ts";
import type { CheckResult, RatedFinding } from "../../documents/check-document.ts";
import { placeText } from "../../place.ts";
import { type JunitCase, type JunitSuite, junitXml } from "../junit.ts";

/** Formats a check as JUnit XML: a suite per wrapper with a case per member, and a suite for the borders. */
export function checkJunit({ wrappers, borders, imports, generated, config }: CheckResult): string {
  const suites: JunitSuite[] = wrappers.map(({ wrapper, target, place, members, findings }) => ({
    name: `${wrapper} to ${target}`,
    cases: [
      ...members.map((member) => junitCase(member.member, wrapper, member.place, member.findings)),
      junitCase("as a whole", wrapper, place, findings),
    ],
  }));
  const border: JunitSuite = {
    name: "borders",
    cases: [
      ...borders.map(({ package: name, findings }) => junitCase(name, "borders", undefined, findings)),
      ...(imports.length > 0 ? [junitCase("computed imports", "borders", undefined, imports)] : []),
      ...(generated.length > 0 ? [junitCase("generated files", "borders", undefined, generated)] : []),
      ...(config.length > 0 ? [junitCase("names in the config", "borders", undefined, config)] : []),
    ],
  };
  return junitXml("sleeve check", borders.length > 0 ? [...suites, border] : suites);
}

function junitCase(
  name: string,
  classname: string,
  place: { readonly file: string; readonly line: number } | undefined,
  findings: readonly RatedFinding[],
): JunitCase {
  const failing = findings.filter(isFailing);
  const accepted = findings.find((finding) => finding.suppressed !== null)?.suppressed;
  return {
    name,
    classname,
    ...(place && { file: place.file, line: place.line }),
    failures: failing.map((ratedFinding) => ({
      type: ratedFinding.name,
      message: `expected ${ratedFinding.expected}; found ${ratedFinding.found}`,
      text: `${placeText(ratedFinding.place)}\nexpected ${ratedFinding.expected}\nfound ${ratedFinding.found}\nremedy ${ratedFinding.remedy}`,
    })),
    ...(failing.length === 0 && accepted !== undefined && accepted !== null && { skipped: accepted }),
  };
}
