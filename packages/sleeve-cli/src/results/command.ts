import { readFileSync } from "node:fs";
import type { ResultDocument } from "../documents/contract-document.ts";
import { CliError } from "../errors.ts";
import { readResults } from "./results-document.ts";

/**
 * Reads contract results from files.
 *
 * @throws {CliError} `UNREADABLE`, `BROKEN_RESULT`
 */
export function runReport(files: readonly string[]): readonly ResultDocument[] {
  return files.flatMap((file) => readResults(file, textOf(file)));
}

function textOf(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const reason = code === "ENOENT" ? "there is no such file" : (code ?? String(error));
    throw new CliError("UNREADABLE", `${file} cannot be read: ${reason}. Pass the path of a result.`);
  }
}
