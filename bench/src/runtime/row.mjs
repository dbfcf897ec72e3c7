import { execFileSync } from "node:child_process";
import { paired, pairedInTime } from "../paired.mjs";

const FILES = ["forwarding", "layers", "stacks", "open", "wrappers", "creation"];

/** Measures each row in a process of its own, as programs have, so that none uses up call sites for another. */
export async function rowsInProcesses({ quick }) {
  const measured = [];
  for (const file of FILES) {
    const { rows } = await import(`./rows/${file}.mjs`);
    for (const [name, { against }] of Object.entries(rows)) {
      const args = [import.meta.filename, file, name, ...(quick ? ["--quick"] : [])];
      const options = { encoding: "utf8", stdio: ["ignore", "pipe", "inherit"] };
      measured.push({
        name,
        against,
        ...JSON.parse(execFileSync(process.execPath, ["--expose-gc", ...args], options)),
      });
    }
  }
  return measured;
}

async function measureRow(file, name, isQuick) {
  const { rows } = await import(`./rows/${file}.mjs`);
  const { make, measure, isAsync = false } = rows[name];
  if (measure) return console.log(JSON.stringify(measure()));
  const [measured, baseline] = await make();
  const turns = isQuick ? { pairs: 15, warmups: 8 } : { pairs: 41, warmups: 12 };
  const result = isAsync ? await pairedInTime(measured, baseline, turns) : paired(measured, baseline, turns);
  return console.log(JSON.stringify(result));
}

if (process.argv[1] === import.meta.filename)
  await measureRow(process.argv[2], process.argv[3], process.argv[4] === "--quick");
