import { readFileSync } from "node:fs";
import { ProblemError } from "../errors.ts";
import type { SourceText } from "../project/project-sources.ts";
import type { FileWrite } from "../project/transaction.ts";
import { applyEdits, type TextEdit } from "./text-edits.ts";

/**
 * A file with edits made, all its other bytes as they were, a byte-order mark included.
 *
 * @throws {ProblemError} `NOT_WRITABLE` where it is not in UTF-8, so that it could not be written back
 */
export function editedFile({ path, file, text }: SourceText, edits: readonly TextEdit[]): FileWrite {
  const before = readFileSync(path);
  const whole = before.toString("utf8");
  const refuse = (what: string): never => {
    throw new ProblemError("NOT_WRITABLE", `${file} ${what}. Nothing was written.`);
  };
  if (!Buffer.from(whole, "utf8").equals(before))
    refuse("is not in UTF-8, and would lose what is not; convert it and run again");
  const mark = whole.startsWith("\uFEFF") ? "\uFEFF" : "";
  if (whole.slice(mark.length) !== text) refuse("has been changed while this ran; run again");
  return { path, before, after: Buffer.from(`${mark}${applyEdits(text, edits)}`, "utf8") };
}
