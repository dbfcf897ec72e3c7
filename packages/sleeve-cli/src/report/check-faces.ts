import type { Checked } from "../check/command.ts";
import { checkJunit } from "./check-junit.ts";
import { checkPage } from "./check-page.ts";
import { checkSarif } from "./check-sarif.ts";
import { checkText } from "./check-text.ts";
import { jsonText } from "./json.ts";
import type { Colours } from "./terminal.ts";

/** The forms in which a check is printed. */
export type CheckFace = "text" | "json" | "sarif" | "junit" | "page";

/** A check in one of its forms. */
export function checkFace(
  { result, problems, texts }: Checked,
  face: CheckFace,
  { colours, version }: { readonly colours: Colours; readonly version: string },
): string {
  switch (face) {
    case "text":
      return checkText(result, texts, problems.length === 0, colours);
    case "json":
      return jsonText({ ...result, problems });
    case "sarif":
      return jsonText(checkSarif(result, version));
    case "junit":
      return checkJunit(result);
    case "page":
      return checkPage(result, texts);
  }
}
