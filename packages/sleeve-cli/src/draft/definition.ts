import { Command } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { isolationProblems, printRecovery, runCommand } from "../command-line/run-command.ts";

export const draftCommand = new Command("draft")
  .description(
    "Draft a target for an outside module from its uses, with adapter and contract (dry run unless --write)",
  )
  .argument("<module>", "a package, a built-in module, or the path of a legacy module")
  .argument(...FOLDER)
  .addOption(jsonOption())
  .option("--into <folder>", "folder for the new files, relative to the project")
  .option("--same-names", "keep the outside names, so that only imports of callers change")
  .option(
    "--run-scenarios",
    "run the contract's scenarios, and thereby the module, in a process of its own, and record their results",
  )
  .option("--write", "write the files; existing files are never overwritten")
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((module, folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const { json, tsconfig, into, sameNames, runScenarios, write } = options;
      const [{ runDraft }, { documentText }, { draftText }, { coloursFor }, { withProgress }] =
        await Promise.all([
          import("./command.ts"),
          import("../report/json.ts"),
          import("../report/draft-text.ts"),
          import("../report/terminal.ts"),
          import("../report/progress.ts"),
        ]);
      const drafted = await withProgress(() =>
        runDraft({
          module,
          folder,
          tsconfig,
          into,
          sameNames,
          write,
          runsScenarios: runScenarios,
        }),
      );
      const { draft, isWritten, recovery } = drafted;
      const problems = isolationProblems(drafted.problems);
      printRecovery(recovery);
      process.stdout.write(
        json
          ? documentText({ ...draft, isWritten }, problems)
          : draftText(draft, isWritten, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: false };
    }),
  );
