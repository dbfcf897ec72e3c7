import { CliError } from "../errors.ts";

/** The result of `checkContract` in the library. */
export interface ConformanceDocument {
  readonly contract: string;
  readonly seed: number;
  readonly implementations: readonly {
    readonly name: string;
    readonly conforms: boolean;
    readonly checks: readonly CheckDocument[];
  }[];
  readonly coverage: CoverageDocument;
  readonly conforms: boolean;
}

export interface CheckDocument {
  readonly name: string;
  readonly findings: readonly FindingDocument[];
  readonly suppressed: readonly { readonly finding: FindingDocument; readonly reason: string }[];
  readonly notes: readonly string[];
}

export interface FindingDocument {
  readonly name: string;
  readonly place: string;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
  readonly code?: string;
}

export interface CoverageDocument {
  readonly members: readonly {
    readonly member: string;
    readonly uses: number;
    readonly failures: number;
    readonly overloadsNotCalled: readonly string[];
  }[];
  readonly errorsNotSeen: readonly string[];
  readonly refusalsNotTried: readonly string[];
  readonly isComplete: boolean;
}

/** The result of `injectFaults` in the library. */
export interface FaultsDocument {
  readonly contract: string;
  readonly implementation: string;
  readonly seed: number;
  readonly faults: readonly FaultDocument[];
  readonly noticed: number;
  readonly missed: number;
  readonly unobservable: number;
  readonly failing: readonly string[];
}

export interface FaultDocument {
  readonly fault: string;
  readonly member: string;
  readonly isNoticed: boolean;
  readonly by?: string;
  readonly finding?: string;
  readonly example: string;
}

export type ResultDocument = ConformanceDocument | FaultsDocument;

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
  const documents = Array.isArray(read) ? read : [read];
  for (const item of documents as readonly unknown[]) {
    const { contract, implementations, coverage, faults } = (item ?? {}) as Partial<
      ConformanceDocument & FaultsDocument
    >;
    const isConformance = Array.isArray(implementations) && typeof coverage === "object";
    if (typeof contract !== "string" || !(isConformance || Array.isArray(faults)))
      throw brokenResult(file, "it is neither a result of checkContract nor of injectFaults");
  }
  return documents as readonly ResultDocument[];
}

function brokenResult(file: string, reason: string): CliError {
  return new CliError(
    "BROKEN_RESULT",
    `${file} is not a contract result: ${reason}. Write the complete result with JSON.stringify, and run again.`,
  );
}
