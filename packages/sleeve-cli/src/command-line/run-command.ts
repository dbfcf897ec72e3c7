import { resolve } from "node:path";
import { CliError, isNote, type Problem } from "../errors.ts";
import { printable, printableLines } from "../printable.ts";

/** Exit codes: no findings, findings, error. */
export const EXIT = { ok: 0, findings: 1, error: 2 } as const;

/** What decides the exit code of a command. */
export interface CommandResult {
  readonly problems: readonly Problem[];
  readonly hasFindings: boolean;
}

/**
 * Runs a command, prints its problems or its error, and sets the exit code.
 *
 * @param options `folder` is that of the project, whose unfinished writing is reported beside an error
 */
export async function runCommand(
  { trace, folder }: { readonly trace?: true | undefined; readonly folder?: string },
  action: () => Promise<CommandResult>,
): Promise<void> {
  try {
    const { problems, hasFindings } = await action();
    for (const problem of problems) printProblem(problem);
    const verdict = hasFindings ? EXIT.findings : EXIT.ok;
    process.exitCode = problems.every(isNote) ? verdict : EXIT.error;
  } catch (error) {
    printProblem(error instanceof CliError ? error : unexpected(error));
    if (folder !== undefined) await printInterruption(folder, error);
    if (trace && error instanceof Error) process.stderr.write(`${printableLines(error.stack ?? "")}\n`);
    process.exitCode = EXIT.error;
  }
}

/** Returns the problems of isolating a module, to which it does not matter whether other packages are installed. */
export function isolationProblems(problems: readonly Problem[]): readonly Problem[] {
  return problems.map((problem) =>
    problem.code === "NOT_INSTALLED" ? { ...problem, isNote: true } : problem,
  );
}

/** An error may have kept the command from opening the project, which would have reported it. */
async function printInterruption(folder: string, error: unknown): Promise<void> {
  if (error instanceof CliError && error.code === "INTERRUPTED") return;
  const { interruptionIn } = await import("../project/writing/transaction.ts");
  for (const problem of interruptionIn(resolve(folder))) printProblem(problem);
}

export function printProblem({ code, message }: Problem): void {
  process.stderr.write(`sleeve: ${printable(message)} [${code}]\n`);
}

/** Prints what happened to an interrupted earlier run, if there was one. */
export function printRecovery(
  recovery: { readonly project: "after" | "before"; readonly files: readonly string[] } | undefined,
): void {
  if (!recovery) return;
  const { project, files } = recovery;
  const what =
    project === "after"
      ? `had started to write${files.length > 0 ? ` ${files.length} files` : ""}, and is now complete`
      : "had written nothing, and the project is unchanged";
  process.stderr.write(`sleeve: An earlier run was interrupted; it ${what}.\n`);
}

/** An unexpected error is a bug in Sleeve, and reported as one. */
function unexpected(error: unknown): Problem {
  if (error instanceof RangeError && /call stack/i.test(error.message))
    return {
      code: "UNREADABLE",
      message:
        "Code of the project is nested too deeply to be analysed. Divide its deepest expressions, or exclude the file in the compiler's config, and run again.",
    };
  const reason = (error instanceof Error ? error.message : String(error)).replace(/\.?\s*$/, "");
  return {
    code: "UNEXPECTED",
    message: `${reason}. This is a bug in sleeve; run with --trace to see where.`,
  };
}
