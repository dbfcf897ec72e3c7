import yargs from "yargs";
import { hideBin } from "yargs/helpers";

async function run(args: readonly string[]): Promise<void> {
  const argv = await yargs([...args])
    .scriptName("office")
    .option("draught", { type: "number", demandOption: true, describe: "metres", alias: "d" })
    .option("station", { choices: ["quay", "bar"] as const, default: "quay" as const })
    .positional("vessel", { type: "string" })
    .exitProcess(false)
    .fail((message) => {
      throw new Error(message ?? "failed");
    })
    .parse();
  console.log(argv.draught + 1, argv.station, argv._.join());
}

await run(["Curlew", "--draught", "4"]);
await run(hideBin(["node", "office", "Gannet", "-d", "9", "--station", "bar"]));
try {
  await run(["Heron"]);
} catch (error) {
  console.log((error as Error).message);
}
