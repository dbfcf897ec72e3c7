import { Argument, Command, CommanderError, InvalidArgumentError, Option } from "commander";

function metres(value: string): number {
  const parsed = Number.parseFloat(value);
  if (Number.isNaN(parsed)) throw new InvalidArgumentError("not a number");
  return parsed;
}

const program = new Command("office");
program
  .version("1.0.0")
  .exitOverride()
  .configureOutput({ writeErr: (text) => console.log(text.trim()) })
  .option("-q, --quiet", "prints less", false)
  .addOption(new Option("-s, --station <name>", "gauge").choices(["quay", "bar"]).default("quay"));

program
  .command("enter")
  .description("asks whether a vessel may enter")
  .addArgument(new Argument("<vessel>", "its name"))
  .option("-d, --draught <metres>", "draught", metres)
  .action((vessel: string, options: { draught?: number }, command: Command) => {
    const { station, quiet } = command.optsWithGlobals<{ station: string; quiet: boolean }>();
    console.log(vessel, options.draught, station, quiet);
  });

program.parse(["enter", "Curlew", "--draught", "4.5", "--station", "bar"], { from: "user" });
for (const line of [["enter"], ["enter", "Gannet", "-d", "deep"]]) {
  try {
    await program.parseAsync(line, { from: "user" });
  } catch (error) {
    if (error instanceof CommanderError) console.log(error.code, error.exitCode);
  }
}
console.log(program.commands.map((command) => command.name()).join(), program.helpInformation().split("\n")[0]);
