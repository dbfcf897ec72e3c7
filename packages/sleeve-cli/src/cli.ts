#!/usr/bin/env node
import { Command, CommanderError } from "commander";
import { type Problem, ProblemError } from "./errors.ts";

/** Exit codes: all well, findings, could not run. */
const EXIT = { well: 0, findings: 1, couldNotRun: 2 } as const;

interface CommonOptions {
  readonly json?: boolean;
  readonly tsconfig?: string;
  readonly trace?: boolean;
}

const program = new Command("sleeve")
  .description(
    "See where outside code reaches into a project, and check that its wrappers conform to their targets.",
  )
  .version("0.1.0")
  .showHelpAfterError("(sleeve --help tells the commands and options)")
  .exitOverride();

// Commands are loaded when they run, so that `sleeve --help` does not wait for the compiler.
common(
  program
    .command("survey")
    .description("for each outside package: where it is imported, what is used of it, where its types leak"),
).action(
  run(async (folder, { json, tsconfig }) => {
    const [{ runSurvey }, { jsonText }, { surveyText }, { coloursFor }] = await Promise.all([
      import("./survey/command.ts"),
      import("./report/json.ts"),
      import("./report/survey-text.ts"),
      import("./report/terminal.ts"),
    ]);
    const progress = progressOn(process.stderr);
    const { survey, problems } = runSurvey({ folder, tsconfig, onProgress: progress.tell });
    progress.clear();
    process.stdout.write(
      json ? jsonText({ ...survey, problems }) : surveyText(survey, coloursFor(process.stdout)),
    );
    return { problems, hasFindings: false };
  }),
);

common(
  program
    .command("check")
    .description("whether the wrappers in sleeve.config.ts conform to their targets, and its borders hold"),
).action(
  run(async (folder, { json, tsconfig }) => {
    const [{ runCheck }, { jsonText }, { checkText }, { coloursFor }] = await Promise.all([
      import("./check/command.ts"),
      import("./report/json.ts"),
      import("./report/check-text.ts"),
      import("./report/terminal.ts"),
    ]);
    const { result, problems } = await runCheck({ folder, tsconfig });
    process.stdout.write(
      json
        ? jsonText({ ...result, problems })
        : checkText(result, problems.length === 0, coloursFor(process.stdout)),
    );
    return { problems, hasFindings: !result.conforms };
  }),
);

function common(command: Command): Command {
  return command
    .argument("[folder]", "the folder of the project", ".")
    .option("--json", "print the whole result as JSON")
    .option("--tsconfig <file>", "the compiler's config, where it is not tsconfig.json")
    .option("--trace", "print the stack trace of an error");
}

interface Ending {
  readonly problems: readonly Problem[];
  readonly hasFindings: boolean;
}

/** Runs a command to its end, whatever it meets, and settles the exit code. */
function run(action: (folder: string, options: CommonOptions) => Promise<Ending>) {
  return async (folder: string, options: CommonOptions): Promise<void> => {
    try {
      const { problems, hasFindings } = await action(folder, options);
      for (const problem of problems) tell(problem);
      process.exitCode = problems.length > 0 ? EXIT.couldNotRun : hasFindings ? EXIT.findings : EXIT.well;
    } catch (error) {
      tell(error instanceof ProblemError ? error : unexpected(error));
      if (options.trace && error instanceof Error) process.stderr.write(`${error.stack}\n`);
      process.exitCode = EXIT.couldNotRun;
    }
  };
}

/** What nobody foresaw is a fault of ours, and told as one. */
function unexpected(error: unknown): Problem {
  const reason = (error instanceof Error ? error.message : String(error)).replace(/\.?\s*$/, "");
  return { code: "UNEXPECTED", message: `${reason}. This is a fault of sleeve; --trace tells where it is.` };
}

function tell({ code, message }: Problem): void {
  process.stderr.write(`sleeve: ${message} [${code}]\n`);
}

/** Progress on a terminal, in one line that is gone afterwards; none elsewhere. */
function progressOn(stream: NodeJS.WriteStream) {
  let shown = 0;
  return {
    tell: (done: number, all: number) => {
      const now = Date.now();
      if (!stream.isTTY || now - shown < 100) return;
      shown = now;
      stream.write(`\r${done} of ${all} files\x1b[K`);
    },
    clear: () => {
      if (stream.isTTY) stream.write("\r\x1b[K");
    },
  };
}

// Whoever reads the result may leave before its end, as `head` does; that is no failure.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code === "EPIPE") process.exit();
  throw error;
});

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof CommanderError)) throw error;
  process.exitCode = error.exitCode === 0 ? EXIT.well : EXIT.couldNotRun;
}
