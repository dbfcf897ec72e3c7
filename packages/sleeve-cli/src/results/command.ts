import { readFileSync } from "node:fs";
import { ProblemError } from "../errors.ts";
import { type ResultDocument, readResults } from "./document.ts";

/**
 * Reads the results of contracts from files.
 *
 * @throws {ProblemError} `UNREADABLE`, `BROKEN_RESULT`
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
    throw new ProblemError("UNREADABLE", `${file} cannot be read: ${reason}. Give the path of a result.`);
  }
}
