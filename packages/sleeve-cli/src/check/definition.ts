import { Command, Option } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { type CommandResult, printProblem, runCommand } from "../command-line/run-command.ts";
import { isNote } from "../errors.ts";
import { printable } from "../printable.ts";
import { VERSION } from "../version.ts";

const FORMATS = ["json", "sarif", "junit", "page"] as const;

export const checkCommand = new Command("check")
  .description("Check wrappers against their targets, and imports against the borders")
  .argument(...FOLDER)
  .addOption(jsonOption().conflicts(FORMATS.filter((format) => format !== "json")))
  .addOption(new Option("--sarif", "print the findings as SARIF 2.1.0").conflicts(["junit", "page"]))
  .addOption(new Option("--junit", "print the result as JUnit XML").conflicts("page"))
  .addOption(new Option("--page", "print the result as one HTML page"))
  .option("--verbose", "list members that conform, too")
  .addOption(new Option("--watch", "check again whenever a file is saved").conflicts([...FORMATS]))
  .addOption(
    new Option("--changed", "check only what has changed since the last commit").conflicts([
      "watch",
      "record",
    ]),
  )
  .addOption(
    new Option("--record", "record the current findings, so that only new ones fail").conflicts("watch"),
  )
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const { tsconfig, changed, record, verbose: isVerbose } = options;
      if (options.watch) return watchUntilStopped(folder, tsconfig, isVerbose);
      const [{ runCheck }, { formatCheck }, { coloursFor }, { withProgress }] = await Promise.all([
        import("./command.ts"),
        import("../report/check/format-check.ts"),
        import("../report/terminal.ts"),
        import("../report/progress.ts"),
      ]);
      const checked = await withProgress(() =>
        runCheck({ folder, tsconfig, changed, record, today: today() }),
      );
      const format = FORMATS.find((name) => options[name]) ?? "text";
      const colours = coloursFor(process.stdout);
      process.stdout.write(formatCheck(checked, format, { colours, version: VERSION, isVerbose }));
      return { problems: checked.problems, hasFindings: !checked.result.conforms };
    }),
  );

/** Checks until it is interrupted, which is its normal end. */
async function watchUntilStopped(
  folder: string,
  tsconfig: string | undefined,
  isVerbose: boolean | undefined,
): Promise<CommandResult> {
  const [{ watchCheck }, { checkText }, { coloursFor, counted }] = await Promise.all([
    import("./watch.ts"),
    import("../report/check/check-text.ts"),
    import("../report/terminal.ts"),
  ]);
  const colours = coloursFor(process.stdout);
  const stopping = new AbortController();
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stopping.abort());
  await watchCheck(
    { folder, tsconfig, today: today() },
    {
      onChecked: ({ result, problems, texts }, changed, milliseconds) => {
        const [firstFile] = changed;
        const others = changed.length > 1 ? ` and ${counted(changed.length - 1, "other file")}` : "";
        const took = `${(milliseconds / 1000).toFixed(2)} s`;
        if (firstFile !== undefined)
          process.stdout.write(colours.dim(`${printable(firstFile)}${others} saved, ${took}\n\n`));
        process.stdout.write(
          checkText(result, texts, { colours, isComplete: problems.every(isNote), isVerbose }),
        );
        for (const problem of problems) printProblem(problem);
        process.stdout.write(colours.dim("Watching for changes. Press Ctrl+C to stop.\n"));
      },
      onProblem: printProblem,
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
