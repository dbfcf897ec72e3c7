import { type FindingDocument, isFaults, type ResultDocument } from "../results/document.ts";
import { type JunitSuite, junitXml } from "./junit.ts";

/** Results as JUnit XML: a suite for each implementation with a case for each check, and one for each run of faults. */
export function resultsJunit(documents: readonly ResultDocument[]): string {
  const suites = documents.flatMap((document): readonly JunitSuite[] => {
    const { contract } = document;
    if (isFaults(document)) {
      const name = `${contract}: faults in ${document.implementation}`;
      const cases = document.faults.map(({ member, fault, isNoticed, example }) => ({
        name: `${member}, in which ${fault}, is noticed`,
        classname: name,
        failures: isNoticed
          ? []
          : [
              {
                type: "missed",
                message: "no check noticed it",
                text: `an example that would notice it\n${example}`,
              },
            ],
      }));
      return [{ name, cases }];
    }
    return document.implementations.map(({ name, checks }) => ({
      name: `${contract}: ${name}`,
      cases: checks.map((each) => {
        const [waived] = each.waived;
        return {
          name: each.name,
          classname: `${contract}: ${name}`,
          failures: each.findings.map(failureOf),
          ...(waived &&
            each.findings.length === 0 && { skipped: `waived ${waived.finding.name}: ${waived.reason}` }),
        };
      }),
    }));
  });
  return junitXml("sleeve report", suites);
}

function failureOf({ name, place, expected, found, remedy, code }: FindingDocument) {
  return {
    type: name,
    message: `${place}: expected ${expected}; found ${found}`,
    text: `${place}\nexpected ${expected}\nfound ${found}\nremedy ${remedy}${code === undefined ? "" : `\n\n${code}`}`,
  };
}
