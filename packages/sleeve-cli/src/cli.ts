#!/usr/bin/env node
import { Command, CommanderError, Option } from "commander";
import { CliError, type Problem } from "./errors.ts";
import { progressOn } from "./report/progress.ts";
import { VERSION } from "./version.ts";

/** Exit codes: no findings, findings, error. */
const EXIT = { ok: 0, findings: 1, couldNotRun: 2 } as const;

interface Options {
  readonly json?: boolean;
  readonly sarif?: boolean;
  readonly junit?: boolean;
  readonly page?: boolean;
  readonly watch?: boolean;
  readonly tsconfig?: string;
  readonly trace?: boolean;
  readonly mermaid?: boolean;
  readonly imports?: boolean;
  readonly builtIns?: boolean;
  readonly package?: string;
  readonly file?: string;
  readonly member?: string;
  readonly into?: string;
  readonly sameNames?: boolean;
  readonly write?: boolean;
  readonly uncommitted?: boolean;
  readonly record?: boolean;
  readonly changed?: boolean;
  readonly against?: string;
}

const program = new Command("sleeve")
  .description("Isolate outside code behind interfaces of your own, and check that wrappers conform to them.")
  .version(VERSION)
  .showHelpAfterError("(run sleeve --help for commands and options)")
  .exitOverride();

// Commands are loaded when they run, so that `sleeve --help` does not load the compiler.
common(
  program
    .command("survey")
    .description(
      "List outside packages: where they are imported, which members are used, where their types leak",
    ),
)
  .addOption(new Option("--mermaid", "print files and packages as a Mermaid flowchart").conflicts("json"))
  .option("--imports", "survey imports only, without the compiler; fast in large projects")
  .option("--built-ins", "include built-in modules and globals of the runtime")
  .option("--package <name>", "show one package in detail")
  .option("--file <file>", "show only uses in one file; path relative to the project")
  .option("--member <name>", "show the places and signatures of one member")
  .action(
    run(async (folder: string, options) => {
      const { json, mermaid, tsconfig, imports, builtIns, package: name, file, member } = options;
      const [{ runSurvey }, { jsonText }, { surveyText }, { surveyMermaid }, { coloursFor }] =
        await Promise.all([
          import("./survey/command.ts"),
          import("./report/json.ts"),
          import("./report/survey-text.ts"),
          import("./report/survey-mermaid.ts"),
          import("./report/terminal.ts"),
        ]);
      const progress = progressOn(process.stderr);
      const focus = { package: name, file, member };
      const signatures = json === true || member !== undefined;
      const { survey, problems } = await runSurvey({
        folder,
        tsconfig,
        imports,
        builtIns,
        signatures,
        focus,
        onProgress: progress.tell,
      });
      progress.clear();
      const isDetailed = [name, file, member].some((item) => item !== undefined);
      process.stdout.write(
        json
          ? jsonText({ ...survey, problems })
          : mermaid
            ? surveyMermaid(survey)
            : surveyText(survey, isDetailed, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: false };
    }),
  );

common(
  program
    .command("draft")
    .description(
      "Draft a target for an outside module from its uses, with adapter, surface and contract (dry run unless --write)",
    )
    .argument("<module>", "a package, a built-in module, or the path of a legacy module"),
)
  .option("--into <folder>", "folder for the new files, relative to the project")
  .option("--same-names", "keep the outside names, so that only imports of callers change")
  .option("--write", "write the files; existing files are never overwritten")
  .action(
    run(async (module: string, { json, tsconfig, into, sameNames, write }, folder = ".") => {
      const [{ runDraft }, { jsonText }, { draftText }, { coloursFor }] = await Promise.all([
        import("./draft/command.ts"),
        import("./report/json.ts"),
        import("./report/draft-text.ts"),
        import("./report/terminal.ts"),
      ]);
      const drafted = await runDraft({ module, folder, tsconfig, into, sameNames, write });
      const { draft, isWritten, recovery, problems } = drafted;
      if (recovery) printRecovery(recovery);
      process.stdout.write(
        json
          ? jsonText({ ...draft, isWritten, problems })
          : draftText(draft, isWritten, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: false };
    }),
  );

common(
  program
    .command("move")
    .description("Rewrite imports of an outside module to use its adapter (dry run unless --write)")
    .argument("<module>", "a package, a built-in module, or the path of a legacy module"),
)
  .option("--write", "write the changes")
  .option("--uncommitted", "write even if the files have uncommitted changes")
  .action(
    run(async (module: string, { json, tsconfig, write, uncommitted }, folder = ".") => {
      const [{ runMove }, { jsonText }, { moveText }, { coloursFor }] = await Promise.all([
        import("./move/command.ts"),
        import("./report/json.ts"),
        import("./report/move-text.ts"),
        import("./report/terminal.ts"),
      ]);
      const { move, isWritten, recovery, problems } = await runMove({
        module,
        folder,
        tsconfig,
        write,
        uncommitted,
      });
      if (recovery) printRecovery(recovery);
      process.stdout.write(
        json
          ? jsonText({ ...move, isWritten, problems })
          : moveText(move, isWritten, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: false };
    }),
  );

common(
  program
    .command("check")
    .description("Check wrappers against their targets, and imports against the borders"),
)
  .addOption(formatOption("--sarif", "print the findings as SARIF 2.1.0"))
  .addOption(formatOption("--junit", "print the result as JUnit XML"))
  .addOption(formatOption("--page", "print the result as one HTML page"))
  .addOption(
    new Option("--watch", "check again whenever a file is saved").conflicts([
      "json",
      "sarif",
      "junit",
      "page",
    ]),
  )
  .addOption(
    new Option("--changed", "check only what has changed since the last commit").conflicts([
      "watch",
      "record",
    ]),
  )
  .addOption(
    new Option("--record", "record the current findings, so that only new ones fail").conflicts("watch"),
  )
  .action(
    run(async (folder: string, options) => {
      const { tsconfig, changed, record } = options;
      if (options.watch) return watchUntilStopped(folder, tsconfig);
      const [{ runCheck }, { formatCheck }, { coloursFor }] = await Promise.all([
        import("./check/command.ts"),
        import("./report/check/format-check.ts"),
        import("./report/terminal.ts"),
      ]);
      const checked = await runCheck({ folder, tsconfig, changed, record, today: today() });
      const chosen = (["json", "sarif", "junit", "page"] as const).find((item) => options[item]) ?? "text";
      const colours = coloursFor(process.stdout);
      process.stdout.write(formatCheck(checked, chosen, { colours, version: VERSION }));
      return { problems: checked.problems, hasFindings: !checked.result.conforms };
    }),
  );

common(
  program
    .command("drift")
    .description("Compare outside modules with their recorded surfaces, and list what breaks"),
)
  .addOption(
    new Option("--record", "record the surfaces that are used and installed now").conflicts("against"),
  )
  .option("--against <package>", "compare with a package folder or tarball instead of the installed version")
  .action(
    run(async (folder: string, { json, tsconfig, record, against }) => {
      const [{ runDrift }, { jsonText }, { driftText }, { coloursFor }] = await Promise.all([
        import("./drift/command.ts"),
        import("./report/json.ts"),
        import("./report/drift-text.ts"),
        import("./report/terminal.ts"),
      ]);
      const { drifts, recorded, recovery, problems } = await runDrift({ folder, tsconfig, record, against });
      if (recovery) printRecovery(recovery);
      process.stdout.write(
        json
          ? jsonText(recorded ? { recorded, problems } : { drifts, problems })
          : driftText({ drifts, recorded }, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: drifts.some(({ isBreaking }) => isBreaking) };
    }),
  );

traced(
  program
    .command("report")
    .description("Print contract results from files written by checkContract or injectFaults")
    .argument("<files...>", "JSON files"),
)
  .addOption(new Option("--junit", "print the results as JUnit XML").conflicts("page"))
  .addOption(new Option("--page", "print the results as one HTML page").conflicts("junit"))
  .action(
    run(async (files: readonly string[], { junit, page }) => {
      const [
        { runReport },
        { hasNoFindings },
        { resultsText },
        { resultsJunit },
        { resultsPage },
        { coloursFor },
      ] = await Promise.all([
        import("./results/command.ts"),
        import("./results/results-document.ts"),
        import("./report/results/results-text.ts"),
        import("./report/results/results-junit.ts"),
        import("./report/results/results-page.ts"),
        import("./report/terminal.ts"),
      ]);
      const results = runReport(files);
      const text = junit
        ? resultsJunit(results)
        : page
          ? resultsPage(results)
          : resultsText(results, coloursFor(process.stdout));
      process.stdout.write(text);
      return { problems: [], hasFindings: !results.every(hasNoFindings) };
    }),
  );

traced(
  program
    .command("surface")
    .description("Print the surface of an interface, type or class as JSON, for a contract")
    .argument("<export>", "the export to read, as file#export")
    .argument("[folder]", "folder of the project", ".")
    .option("--tsconfig <file>", "compiler config to use instead of tsconfig.json"),
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

/** Checks until it is interrupted, which is its normal end. */
async function watchUntilStopped(folder: string, tsconfig: string | undefined): Promise<CommandResult> {
  const [{ watchCheck }, { checkText }, { coloursFor, counted }] = await Promise.all([
    import("./check/watch.ts"),
    import("./report/check/check-text.ts"),
    import("./report/terminal.ts"),
  ]);
  const colours = coloursFor(process.stdout);
  const stopping = new AbortController();
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stopping.abort());
  await watchCheck(
    { folder, tsconfig, today: today() },
    {
      onChecked: ({ result, problems, texts }, changed, milliseconds) => {
        const [first] = changed;
        const rest = changed.length > 1 ? ` and ${counted(changed.length - 1, "other file")}` : "";
        const took = `${(milliseconds / 1000).toFixed(2)} s`;
        if (first !== undefined) process.stdout.write(colours.dim(`${first}${rest} saved, ${took}\n\n`));
        process.stdout.write(checkText(result, texts, problems.length === 0, colours));
        for (const problem of problems) printError(problem);
        process.stdout.write(colours.dim("Watching for changes. Press Ctrl+C to stop.\n"));
      },
      onProblem: printError,
      clock: performance,
    },
    stopping.signal,
  );
  return { problems: [], hasFindings: false };
}

/** Returns the local date. */
function today(): string {
  const now = new Date();
  const two = (part: number) => String(part).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}

function formatOption(flag: string, description: string): Option {
  const others = ["json", "sarif", "junit", "page"].filter((name) => `--${name}` !== flag);
  return new Option(flag, description).conflicts(others);
}

function common(command: Command): Command {
  return traced(
    command
      .argument("[folder]", "folder of the project", ".")
      .option("--json", "print the complete result as JSON")
      .option("--tsconfig <file>", "compiler config to use instead of tsconfig.json"),
  );
}

function traced(command: Command): Command {
  return command.option("--trace", "print the stack trace of an error");
}

interface CommandResult {
  readonly problems: readonly Problem[];
  readonly hasFindings: boolean;
}

/** Runs a command, prints its errors, and sets the exit code. */
function run<Named>(action: (named: Named, options: Options, folder?: string) => Promise<CommandResult>) {
  return async (named: Named, ...rest: readonly unknown[]): Promise<void> => {
    // Commander passes one or two arguments, then the options, then the command itself.
    const options = rest.at(-2) as Options;
    const [folder] = rest.length > 2 ? (rest as [string]) : [];
    try {
      const { problems, hasFindings } = await action(named, options, folder);
      for (const problem of problems) printError(problem);
      process.exitCode = problems.length > 0 ? EXIT.couldNotRun : hasFindings ? EXIT.findings : EXIT.ok;
    } catch (error) {
      printError(error instanceof CliError ? error : unexpected(error));
      if (options.trace && error instanceof Error) process.stderr.write(`${error.stack}\n`);
      process.exitCode = EXIT.couldNotRun;
    }
  };
}

/** An unexpected error is a bug in Sleeve, and reported as one. */
function unexpected(error: unknown): Problem {
  const reason = (error instanceof Error ? error.message : String(error)).replace(/\.?\s*$/, "");
  return {
    code: "UNEXPECTED",
    message: `${reason}. This is a bug in sleeve; run with --trace to see where.`,
  };
}

/** The outcome of an interrupted earlier run is printed before the current result. */
function printRecovery({
  project,
  files,
}: {
  readonly project: "after" | "before";
  readonly files: readonly string[];
}): void {
  const what =
    project === "after"
      ? `had started to write${files.length > 0 ? ` ${files.length} files` : ""}, and is now complete`
      : "had written nothing, and the project is unchanged";
  process.stderr.write(`sleeve: An earlier run was interrupted; it ${what}.\n`);
}

function printError({ code, message }: Problem): void {
  process.stderr.write(`sleeve: ${message} [${code}]\n`);
}

// The reader of the output may stop early, as `head` does; that is not a failure.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code === "EPIPE") process.exit();
  throw error;
});

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof CommanderError)) throw error;
  process.exitCode = error.exitCode === 0 ? EXIT.ok : EXIT.couldNotRun;
}
