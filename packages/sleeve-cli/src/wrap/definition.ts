import { Command, Option } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { printRecovery, runCommand } from "../command-line/run-command.ts";
import { WRAP_KINDS } from "../documents/wrap-kinds.ts";

export const wrapCommand = new Command("wrap")
  .description(
    "Generate a wrapper, a fake or a surface of a type as source, or generated files again (dry run unless --write)",
  )
  .argument(
    "[type]",
    "the type to wrap, as file#export or package#export; without #, all types of the module; default: those of all generated files",
  )
  .argument(...FOLDER)
  .addOption(new Option("--as <kind>", "what to generate").choices(WRAP_KINDS).default("forwarder" as const))
  .addOption(
    new Option(
      "--layer <layer[:members]>",
      "layer of a decorator or proxy, outermost first (repeatable): logging, timing, access, guard, cached, retrying, limited",
    ).argParser((value: string, list: readonly string[] = []) => [...list, value]),
  )
  .addOption(
    new Option(
      "--over <adaptee>",
      "the type, value or module that an adapter or facade uses, named as <type> is (repeatable, for a facade or bridge)",
    ).argParser((value: string, list: readonly string[] = []) => [...list, value]),
  )
  .addOption(
    new Option(
      "--operation <name:steps>",
      "members that an operation of a facade calls, in any order (repeatable); default: those that the types determine",
    ).argParser((value: string, list: readonly string[] = []) => [...list, value]),
  )
  .option("--explain", "print the candidates of each member of an adapter, with their scores")
  .option("--cleared-by <members>", "members that clear what the layer cached keeps, separated by commas")
  .option("--standalone", "import nothing from the library")
  .option("--to <file>", "the generated file, or its folder, relative to the project")
  .option("--name <name>", "name of the generated class or constant")
  .option("--write", "write the file")
  .option("--check", "write nothing, and end with 1 if the file is missing or stale")
  .addOption(jsonOption())
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((type, folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const [{ runWrap }, { wrapText }, { documentText }, { coloursFor }] = await Promise.all([
        import("./command.ts"),
        import("../report/wrap-text.ts"),
        import("../report/json.ts"),
        import("../report/terminal.ts"),
      ]);
      const { as: kind, to, name, tsconfig, check, layer: layers, standalone } = options;
      const write = options.write === true && check !== true;
      const { result, isWritten, recovery, problems } = await runWrap({
        type,
        kind,
        folder,
        tsconfig,
        to,
        name,
        layers,
        over: options.over,
        operations: options.operation,
        clearedBy: options.clearedBy?.split(","),
        standalone,
        write,
      });
      printRecovery(recovery);
      process.stdout.write(
        options.json
          ? documentText({ ...result, isWritten }, problems)
          : wrapText(result, isWritten, coloursFor(process.stdout), options.explain === true),
      );
      return {
        problems,
        hasFindings: check === true && result.wrappers.some(({ state }) => state !== "the same"),
      };
    }),
  );
