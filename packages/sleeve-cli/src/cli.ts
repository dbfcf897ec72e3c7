#!/usr/bin/env node
import { Command, CommanderError, Option } from "commander";
import { type Problem, ProblemError } from "./errors.ts";
import { progressOn } from "./report/progress.ts";
import { VERSION } from "./version.ts";

/** Exit codes: all well, findings, could not run. */
const EXIT = { well: 0, findings: 1, couldNotRun: 2 } as const;

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
  .description(
    "See where outside code reaches into a project, put it behind targets of its own, and check that wrappers conform.",
  )
  .version(VERSION)
  .showHelpAfterError("(sleeve --help tells the commands and options)")
  .exitOverride();

// Commands are loaded when they run, so that `sleeve --help` does not wait for the compiler.
common(
  program
    .command("survey")
    .description("for each outside package: where it is imported, what is used of it, where its types leak"),
)
  .addOption(new Option("--mermaid", "print files and packages as a Mermaid flowchart").conflicts("json"))
  .option(
    "--imports",
    "tell imports only, for which the compiler need not be asked: quick in a large project",
  )
  .option("--built-ins", "count the runtime's own modules, and its globals, as outside too")
  .option("--package <name>", "tell all of one package")
  .option("--file <file>", "tell what reaches into one file, by its path from the project's folder")
  .option("--member <name>", "tell where a member is used, and with which signatures")
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
      const isDetailed = [name, file, member].some((each) => each !== undefined);
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
      "a target made of what the project uses of an outside module, with its adapter, surface and contract",
    )
    .argument("<module>", "a package, a built-in of the runtime, or the path of a legacy module"),
)
  .option("--into <folder>", "where the files are to go, from the project's folder")
  .option("--same-names", "callers keep the outside names, and only their imports are going to change")
  .option("--write", "write the files; those that are there already are left as they are")
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
      if (recovery) tellRecovery(recovery);
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
    .description(
      "the callers of an outside module over to the adapter that the config names: what would change",
    )
    .argument("<module>", "a package, a built-in of the runtime, or the path of a legacy module"),
)
  .option("--write", "write what would change")
  .option("--uncommitted", "write even where there are changes that are not committed")
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
      if (recovery) tellRecovery(recovery);
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
  .addOption(
    new Option("--changed", "only what is not as it was last committed").conflicts(["watch", "record"]),
  )
  .addOption(
    new Option("--record", "record today's findings, so that from now on only new ones fail").conflicts(
      "watch",
    ),
  )
  .action(
    run(async (folder: string, options) => {
      const { tsconfig, changed, record } = options;
      if (options.watch) return watchUntilStopped(folder, tsconfig);
      const [{ runCheck }, { checkFace }, { coloursFor }] = await Promise.all([
        import("./check/command.ts"),
        import("./report/check-faces.ts"),
        import("./report/terminal.ts"),
      ]);
      const checked = await runCheck({ folder, tsconfig, changed, record, today: today() });
      const chosen = (["json", "sarif", "junit", "page"] as const).find((each) => options[each]) ?? "text";
      const colours = coloursFor(process.stdout);
      process.stdout.write(checkFace(checked, chosen, { colours, version: VERSION }));
      return { problems: checked.problems, hasFindings: !checked.result.conforms };
    }),
  );

common(
  program
    .command("drift")
    .description(
      "how outside modules differ from the surfaces that were recorded of them, and what that breaks",
    ),
)
  .addOption(
    new Option("--record", "record the surfaces as they are used and installed now").conflicts("against"),
  )
  .option(
    "--against <package>",
    "compare with the folder or the tarball of a package, instead of what is installed",
  )
  .action(
    run(async (folder: string, { json, tsconfig, record, against }) => {
      const [{ runDrift }, { jsonText }, { driftText }, { coloursFor }] = await Promise.all([
        import("./drift/command.ts"),
        import("./report/json.ts"),
        import("./report/drift-text.ts"),
        import("./report/terminal.ts"),
      ]);
      const { drifts, recorded, recovery, problems } = await runDrift({ folder, tsconfig, record, against });
      if (recovery) tellRecovery(recovery);
      process.stdout.write(
        json
          ? jsonText(recorded ? { recorded, problems } : { drifts, problems })
          : driftText({ drifts, recorded }, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: drifts.some(({ breaks }) => breaks) };
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
    { folder, tsconfig, today: today() },
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

/** The day, as it is here. */
function today(): string {
  const now = new Date();
  const two = (part: number) => String(part).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
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

/** An earlier run was interrupted; what became of it goes before what this one did. */
function tellRecovery({
  project,
  files,
}: {
  readonly project: "after" | "before";
  readonly files: readonly string[];
}): void {
  const what =
    project === "after"
      ? `had begun to write${files.length > 0 ? ` ${files.length} files` : ""}, and all is written now`
      : "had written nothing, and the project is as it was";
  process.stderr.write(`sleeve: An earlier run was interrupted; it ${what}.\n`);
}

function tell({ code, message }: Problem): void {
  process.stderr.write(`sleeve: ${message} [${code}]\n`);
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
