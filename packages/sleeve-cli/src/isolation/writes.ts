import { readFileSync } from "node:fs";
import { CliError } from "../errors.ts";
import type { SourceText } from "../project/source-text.ts";

import type { FileWrite } from "../project/writing/transaction.ts";
import { applyEdits, type TextEdit } from "./text-edits.ts";

/**
 * Returns a file with edits applied and all other bytes unchanged, including a byte-order mark.
 *
 * @throws {CliError} `NOT_WRITABLE` if it is not UTF-8
 */
export function editedFile(source: SourceText, edits: readonly TextEdit[]): FileWrite {
  const { file } = source;
  const { path, text } = source.component ?? source;
  const before = readFileSync(path);
  const whole = before.toString("utf8");
  const refuse = (what: string): never => {
    throw new CliError("NOT_WRITABLE", `${file} ${what}. Nothing was written.`);
  };
  if (!Buffer.from(whole, "utf8").equals(before)) refuse("is not valid UTF-8; convert it and run again");
  const mark = whole.startsWith("\uFEFF") ? "\uFEFF" : "";
  if (whole.slice(mark.length) !== text) refuse("was changed while this command ran; run again");
  return { path, before, after: Buffer.from(`${mark}${applyEdits(text, edits)}`, "utf8") };
}
