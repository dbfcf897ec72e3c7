import { ProblemError } from "../errors.ts";

/** What a contract found of its implementations, as `checkContract` of the library gives it. */
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
  readonly waived: readonly { readonly finding: FindingDocument; readonly reason: string }[];
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

/** What became of faults that were put into a wrapper, as `injectFaults` of the library gives it. */
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

/** Whether there is nothing to mend in a result. */
export function isWell(document: ResultDocument): boolean {
  return isFaults(document) ? document.missed === 0 : document.conforms;
}

/**
 * Reads a result, or a list of them, from the text of a file.
 *
 * @throws {ProblemError} `BROKEN_RESULT`
 */
export function readResults(file: string, text: string): readonly ResultDocument[] {
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch (error) {
    throw brokenResult(file, `it is no JSON: ${(error as Error).message}`);
  }
  const documents = Array.isArray(read) ? read : [read];
  for (const each of documents as readonly unknown[]) {
    const { contract, implementations, coverage, faults } = (each ?? {}) as Partial<
      ConformanceDocument & FaultsDocument
    >;
    const isConformance = Array.isArray(implementations) && typeof coverage === "object";
    if (typeof contract !== "string" || !(isConformance || Array.isArray(faults)))
      throw brokenResult(file, "it holds neither what checkContract gives nor what injectFaults gives");
  }
  return documents as readonly ResultDocument[];
}

function brokenResult(file: string, reason: string): ProblemError {
  return new ProblemError(
    "BROKEN_RESULT",
    `${file} is no result of a contract: ${reason}. Write it with JSON.stringify, whole, and try again.`,
  );
}
