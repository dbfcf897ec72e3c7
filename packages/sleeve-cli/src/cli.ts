#!/usr/bin/env node
import { Command, CommanderError, Option } from "commander";
import { type Problem, ProblemError } from "./errors.ts";

/** Exit codes: all well, findings, could not run. */
const EXIT = { well: 0, findings: 1, couldNotRun: 2 } as const;

const VERSION = "0.1.0";

interface Options {
  readonly json?: boolean;
  readonly sarif?: boolean;
  readonly junit?: boolean;
  readonly page?: boolean;
  readonly watch?: boolean;
  readonly tsconfig?: string;
  readonly trace?: boolean;
}

const program = new Command("sleeve")
  .description(
    "See where outside code reaches into a project, and check that its wrappers conform to their targets.",
  )
  .version(VERSION)
  .showHelpAfterError("(sleeve --help tells the commands and options)")
  .exitOverride();

// Commands are loaded when they run, so that `sleeve --help` does not wait for the compiler.
common(
  program
    .command("survey")
    .description("for each outside package: where it is imported, what is used of it, where its types leak"),
).action(
  run(async (folder: string, { json, tsconfig }) => {
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
)
  .addOption(face("--sarif", "print the findings as SARIF 2.1.0"))
  .addOption(face("--junit", "print the result as JUnit XML"))
  .addOption(face("--page", "print the result as one HTML page"))
  .addOption(
    new Option("--watch", "check again each time that a file is saved").conflicts([
      "json",
      "sarif",
      "junit",
      "page",
    ]),
  )
  .action(
    run(async (folder: string, options) => {
      const { tsconfig } = options;
      if (options.watch) return watchUntilStopped(folder, tsconfig);
      const [{ runCheck }, { checkFace }, { coloursFor }] = await Promise.all([
        import("./check/command.ts"),
        import("./report/check-faces.ts"),
        import("./report/terminal.ts"),
      ]);
      const checked = await runCheck({ folder, tsconfig });
      const chosen = (["json", "sarif", "junit", "page"] as const).find((each) => options[each]) ?? "text";
      const colours = coloursFor(process.stdout);
      process.stdout.write(checkFace(checked, chosen, { colours, version: VERSION }));
      return { problems: checked.problems, hasFindings: !checked.result.conforms };
    }),
  );

traced(
  program
    .command("report")
    .description("what contracts found, from files that checkContract or injectFaults of the library gave")
    .argument("<files...>", "JSON files"),
)
  .addOption(new Option("--junit", "print the results as JUnit XML").conflicts("page"))
  .addOption(new Option("--page", "print the results as one HTML page").conflicts("junit"))
  .action(
    run(async (files: readonly string[], { junit, page }) => {
      const [{ runReport }, { isWell }, { resultsText }, { resultsJunit }, { resultsPage }, { coloursFor }] =
        await Promise.all([
          import("./results/command.ts"),
          import("./results/document.ts"),
          import("./report/results-text.ts"),
          import("./report/results-junit.ts"),
          import("./report/results-page.ts"),
          import("./report/terminal.ts"),
        ]);
      const results = runReport(files);
      const text = junit
        ? resultsJunit(results)
        : page
          ? resultsPage(results)
          : resultsText(results, coloursFor(process.stdout));
      process.stdout.write(text);
      return { problems: [], hasFindings: !results.every(isWell) };
    }),
  );

traced(
  program
    .command("surface")
    .description(
      "the surface of an interface, a type or a class with its signatures, as JSON, for a contract",
    )
    .argument("<export>", "what to read, as file#export")
    .argument("[folder]", "the folder of the project", ".")
    .option("--tsconfig <file>", "the compiler's config, where it is not tsconfig.json"),
).action(
  run(async (name: string, { tsconfig }, folder = ".") => {
    const [{ runSurface }, { jsonText }] = await Promise.all([
      import("./surface/command.ts"),
      import("./report/json.ts"),
    ]);
    process.stdout.write(jsonText(runSurface({ name, folder, tsconfig })));
    return { problems: [], hasFindings: false };
  }),
);

/** Checks until it is interrupted, which is how it is meant to end. */
async function watchUntilStopped(folder: string, tsconfig: string | undefined): Promise<Ending> {
  const [{ watchCheck }, { checkText }, { coloursFor, counted }] = await Promise.all([
    import("./check/watch.ts"),
    import("./report/check-text.ts"),
    import("./report/terminal.ts"),
  ]);
  const colours = coloursFor(process.stdout);
  const stopping = new AbortController();
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stopping.abort());
  await watchCheck(
    { folder, tsconfig },
    {
      onChecked: ({ result, problems, texts }, changed, milliseconds) => {
        const [first] = changed;
        const rest = changed.length > 1 ? ` and ${counted(changed.length - 1, "other file")}` : "";
        const took = `${(milliseconds / 1000).toFixed(2)} s`;
        if (first !== undefined) process.stdout.write(colours.dim(`${first}${rest} saved, ${took}\n\n`));
        process.stdout.write(checkText(result, texts, problems.length === 0, colours));
        for (const problem of problems) tell(problem);
        process.stdout.write(colours.dim("Watching; Ctrl+C ends it.\n"));
      },
      onProblem: tell,
      clock: performance,
    },
    stopping.signal,
  );
  return { problems: [], hasFindings: false };
}

function face(flag: string, description: string): Option {
  const others = ["json", "sarif", "junit", "page"].filter((each) => `--${each}` !== flag);
  return new Option(flag, description).conflicts(others);
}

function common(command: Command): Command {
  return traced(
    command
      .argument("[folder]", "the folder of the project", ".")
      .option("--json", "print the whole result as JSON")
      .option("--tsconfig <file>", "the compiler's config, where it is not tsconfig.json"),
  );
}

function traced(command: Command): Command {
  return command.option("--trace", "print the stack trace of an error");
}

interface Ending {
  readonly problems: readonly Problem[];
  readonly hasFindings: boolean;
}

/** Runs a command to its end, whatever it meets, and settles the exit code. */
function run<Named>(action: (named: Named, options: Options, folder?: string) => Promise<Ending>) {
  return async (named: Named, ...rest: readonly unknown[]): Promise<void> => {
    // Options come after the arguments, of which there are one or two, and before the command itself.
    const options = rest.at(-2) as Options;
    const [folder] = rest.length > 2 ? (rest as [string]) : [];
    try {
      const { problems, hasFindings } = await action(named, options, folder);
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
