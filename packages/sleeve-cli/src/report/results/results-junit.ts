import type { FindingDocument, ResultDocument } from "../../documents/contract-document.ts";
import { isFaults } from "../../results/results-document.ts";
import { type JunitSuite, junitXml } from "../junit.ts";

/**
 * Formats results as JUnit XML: a suite per implementation with a case per check, and a suite per fault run.
 */
export function resultsJunit(documents: readonly ResultDocument[]): string {
  const suites = documents.flatMap((document): readonly JunitSuite[] => {
    const { contract } = document;
    if (isFaults(document)) {
      const name = `${contract}: faults in ${document.implementation}`;
      const cases = document.faults.map(({ member, fault, isDetected, example }) => ({
        name: `${member}: ${fault}: is detected`,
        classname: name,
        failures: isDetected
          ? []
          : [
              {
                type: "missed",
                message: "no check detected it",
                text: `an example that detects it\n${example}`,
              },
            ],
      }));
      return [{ name, cases }];
    }
    return document.implementations.map(({ name, checks }) => ({
      name: `${contract}: ${name}`,
      cases: checks.map((check) => {
        const [suppression] = check.suppressed;
        return {
          name: check.name,
          classname: `${contract}: ${name}`,
          failures: check.findings.map(failureOf),
          ...(suppression &&
            check.findings.length === 0 && {
              skipped: `suppressed ${suppression.finding.name}: ${suppression.reason}`,
            }),
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
