import type { FaultsDocument, ResultDocument } from "../documents/contract-document.ts";
import { conformanceSchema, faultsSchema } from "../documents/contract-document.ts";
import { issueText } from "../documents/document.ts";
import { CliError } from "../errors.ts";

export function isFaults(document: ResultDocument): document is FaultsDocument {
  return "faults" in document;
}

/** Whether a result contains no findings. */
export function hasNoFindings(document: ResultDocument): boolean {
  return isFaults(document) ? document.missed === 0 : document.conforms;
}

/**
 * Parses a result, or a list of results, from the text of a file.
 *
 * @throws {CliError} `BROKEN_RESULT`
 */
export function readResults(file: string, text: string): readonly ResultDocument[] {
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch (error) {
    throw brokenResult(file, `it is not JSON: ${(error as Error).message}`);
  }
  const documents: readonly unknown[] = Array.isArray(read) ? read : [read];
  return documents.map((document) => {
    const hasFaults = typeof document === "object" && document !== null && "faults" in document;
    const { data, error } = hasFaults
      ? faultsSchema.safeParse(document)
      : conformanceSchema.safeParse(document);
    if (data) return data as ResultDocument;
    throw brokenResult(
      file,
      `it is not a result of ${hasFaults ? "injectFaults" : "checkContract"}: ${issueText(error)}`,
    );
  });
}

function brokenResult(file: string, reason: string): CliError {
  return new CliError(
    "BROKEN_RESULT",
    `${file} is not a contract result: ${reason}. Write the complete result with JSON.stringify, and run again.`,
  );
}
