import { Command, Option } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { printRecovery, runCommand } from "../command-line/run-command.ts";

export const driftCommand = new Command("drift")
  .description("Compare outside modules with their recorded surfaces, and list what breaks")
  .argument(...FOLDER)
  .addOption(jsonOption())
  .addOption(
    new Option("--record", "record the surfaces that are used and installed now").conflicts("against"),
  )
  .option(
    "--against <package>",
    "compare with a folder, tarball or version (name@version) of a package instead of the installed version",
  )
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const { json, tsconfig, record, against } = options;
      const [{ runDrift }, { documentText }, { driftText }, { coloursFor }] = await Promise.all([
        import("./command.ts"),
        import("../report/json.ts"),
        import("../report/drift-text.ts"),
        import("../report/terminal.ts"),
      ]);
      const compared = await runDrift({ folder, tsconfig, record, against });
      const { drifts, recorded, recovery, problems } = compared;
      printRecovery(recovery);
      process.stdout.write(
        json
          ? documentText({ drifts, recorded: recorded ?? null }, problems)
          : driftText({ drifts, recorded }, coloursFor(process.stdout)),
      );
      return { problems, hasFindings: drifts.some(({ isBreaking }) => isBreaking) };
    }),
  );
