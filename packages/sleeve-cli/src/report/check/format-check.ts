import type { Checked } from "../../check/command.ts";
import { isNote } from "../../errors.ts";
import { documentText, jsonText } from "../json.ts";
import type { Colours } from "../terminal.ts";
import { checkJunit } from "./check-junit.ts";
import { checkPage } from "./check-page.ts";
import { checkSarif } from "./check-sarif.ts";
import { checkText } from "./check-text.ts";

/** The output formats of a check. */
export type CheckFormat = "text" | "json" | "sarif" | "junit" | "page";

/** Formats a check. */
export function formatCheck(
  { result, problems, texts }: Checked,
  format: CheckFormat,
  {
    colours,
    version,
    isVerbose,
  }: {
    readonly colours: Colours;
    readonly version: string;
    readonly isVerbose?: boolean | undefined;
  },
): string {
  switch (format) {
    case "text":
      return checkText(result, texts, { colours, isComplete: problems.every(isNote), isVerbose });
    case "json":
      return documentText(result, problems);
    case "sarif":
      return jsonText(checkSarif(result, version));
    case "junit":
      return checkJunit(result);
    case "page":
      return checkPage(result, texts);
  }
}
