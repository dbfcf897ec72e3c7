import type { CheckResult } from "../check/check.ts";
import { isFailing, type JudgedFinding } from "../check/finding.ts";
import { placeText } from "../place.ts";
import { type JunitCase, type JunitSuite, junitXml } from "./junit.ts";

/** A check as JUnit XML: a suite for each wrapper with a case for each member, and a suite for the borders. */
export function checkJunit({ wrappers, borders }: CheckResult): string {
  const suites: JunitSuite[] = wrappers.map(({ wrapper, target, place, members, findings }) => ({
    name: `${wrapper} to ${target}`,
    cases: [
      ...members.map((each) => junitCase(each.member, wrapper, each.place, each.findings)),
      junitCase("as a whole", wrapper, place, findings),
    ],
  }));
  const border: JunitSuite = {
    name: "borders",
    cases: borders.map(({ package: name, findings }) => junitCase(name, "borders", undefined, findings)),
  };
  return junitXml("sleeve check", borders.length > 0 ? [...suites, border] : suites);
}

function junitCase(
  name: string,
  classname: string,
  place: { readonly file: string; readonly line: number } | undefined,
  findings: readonly JudgedFinding[],
): JunitCase {
  const failing = findings.filter(isFailing);
  const accepted = findings.find((each) => each.accepted !== null)?.accepted;
  return {
    name,
    classname,
    ...(place && { file: place.file, line: place.line }),
    failures: failing.map((each) => ({
      type: each.name,
      message: `expected ${each.expected}; found ${each.found}`,
      text: `${placeText(each.place)}\nexpected ${each.expected}\nfound ${each.found}\nremedy ${each.remedy}`,
    })),
    ...(failing.length === 0 && accepted !== undefined && accepted !== null && { skipped: accepted }),
  };
}
