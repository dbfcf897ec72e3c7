import { Command, Option } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { printRecovery, runCommand } from "../command-line/run-command.ts";

export const exportsCommand = new Command("exports")
  .description("Compare the project's public exports with the recorded ones, for its clients")
  .argument(...FOLDER)
  .addOption(jsonOption())
  .addOption(new Option("--record", "record the exports as they are now").conflicts("against"))
  .option(
    "--against <package>",
    "compare with a folder, tarball or version (name@version) instead of the record",
  )
  .addOption(
    new Option(
      "--entry <file>",
      "source file whose exports are public, instead of the entry points in package.json; may be repeated",
    ).argParser((file: string, files: readonly string[] | undefined = []) => [...files, file]),
  )
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const { json, tsconfig, record, against, entry: entries } = options;
      const [{ runExports }, { documentText }, { exportsText }, { coloursFor }] = await Promise.all([
        import("./command.ts"),
        import("../report/json.ts"),
        import("../report/exports-text.ts"),
        import("../report/terminal.ts"),
      ]);
      const { compared, isRecorded, recovery, problems } = await runExports({
        folder,
        tsconfig,
        entries,
        record,
        against,
      });
      printRecovery(recovery);
      process.stdout.write(
        json
          ? documentText({ ...compared, isRecorded }, problems)
          : exportsText(compared, isRecorded, coloursFor(process.stdout)),
      );
      const isExposing = compared.exposed.some(({ isNew }) => isNew);
      return { problems, hasFindings: !isRecorded && (compared.isBreaking || isExposing) };
    }),
  );
