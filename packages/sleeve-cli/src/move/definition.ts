import { Command } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { isolationProblems, printRecovery, runCommand } from "../command-line/run-command.ts";

export const moveCommand = new Command("move")
  .description("Rewrite imports of an outside module to use its adapter (dry run unless --write)")
  .argument("<module>", "a package, a built-in module, or the path of a legacy module")
  .argument(...FOLDER)
  .addOption(jsonOption())
  .option("--write", "write the changes")
  .option("--uncommitted", "write even if the files have uncommitted changes")
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((module, folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const { json, tsconfig, write, uncommitted } = options;
      const [{ runMove }, { documentText }, { moveText }, { coloursFor }, { withProgress }] =
        await Promise.all([
          import("./command.ts"),
          import("../report/json.ts"),
          import("../report/move-text.ts"),
          import("../report/terminal.ts"),
          import("../report/progress.ts"),
        ]);
      const moved = await withProgress(() => runMove({ module, folder, tsconfig, write, uncommitted }));
      const { move, isWritten, recovery } = moved;
      const problems = isolationProblems(moved.problems);
      printRecovery(recovery);
      process.stdout.write(
        json
          ? documentText({ ...move, isWritten }, problems)
          : moveText(move, isWritten, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: false };
    }),
  );
