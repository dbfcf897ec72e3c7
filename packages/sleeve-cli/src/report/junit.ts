import { XMLBuilder } from "fast-xml-parser";
import { printableLines } from "../printable.ts";

/** One test suite of a JUnit report. */
export interface JunitSuite {
  readonly name: string;
  readonly cases: readonly JunitCase[];
}

export interface JunitCase {
  readonly name: string;
  readonly classname: string;
  readonly file?: string;
  readonly line?: number;
  /** Failures, each with its kind and text. */
  readonly failures: readonly { readonly type: string; readonly message: string; readonly text: string }[];
  /** Why it was skipped. */
  readonly skipped?: string;
}

/** Formats suites as JUnit XML, which test runners and build servers share. */
export function junitXml(name: string, suites: readonly JunitSuite[]): string {
  const builder = new XMLBuilder({ ignoreAttributes: false, format: true, suppressEmptyNode: true });
  const all = suites.flatMap(({ cases }) => cases);
  const document = {
    "?xml": { "@_version": "1.0", "@_encoding": "UTF-8" },
    testsuites: {
      "@_name": name,
      ...counts(all),
      testsuite: suites.map((suite) => ({
        "@_name": plain(suite.name),
        ...counts(suite.cases),
        testcase: suite.cases.map(junitCase),
      })),
    },
  };
  return builder.build(document);
}

function counts(cases: readonly JunitCase[]): Record<string, number> {
  return {
    "@_tests": cases.length,
    "@_failures": cases.filter(({ failures }) => failures.length > 0).length,
    "@_errors": 0,
    "@_skipped": cases.filter(({ skipped }) => skipped !== undefined).length,
  };
}

function junitCase({ name, classname, file, line, failures, skipped }: JunitCase): object {
  return {
    "@_name": plain(name),
    "@_classname": plain(classname),
    ...(file !== undefined && { "@_file": plain(file) }),
    ...(line !== undefined && { "@_line": line }),
    ...(failures.length > 0 && {
      failure: failures.map(({ type, message, text }) => ({
        "@_type": type,
        "@_message": plain(message),
        "#text": plain(text),
      })),
    }),
    ...(skipped !== undefined && { skipped: { "@_message": plain(skipped) } }),
  };
}

/** XML 1.0 excludes most control characters, and unpaired surrogates; a terminal acts on the others. */
function plain(text: string): string {
  return printableLines(text).replace(/[\ufffe\uffff]|\p{Surrogate}/gu, "\ufffd");
}
