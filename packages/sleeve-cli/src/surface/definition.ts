import { Command } from "@commander-js/extra-typings";
import { FOLDER, traceOption, tsconfigOption } from "../command-line/options.ts";
import { runCommand } from "../command-line/run-command.ts";

export const surfaceCommand = new Command("surface")
  .description("Print the surface of an interface, type or class as JSON, for a contract")
  .argument("<export>", "the export to read, as file#export")
  .argument(...FOLDER)
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((name, folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const [{ runSurface }, { surfaceText }, { printableJson }] = await Promise.all([
        import("./command.ts"),
        import("../types/surface-document.ts"),
        import("../printable.ts"),
      ]);
      const { surface, problems } = runSurface({ name, folder, tsconfig: options.tsconfig });
      process.stdout.write(printableJson(surfaceText(surface)));
      return { problems, hasFindings: false };
    }),
  );
