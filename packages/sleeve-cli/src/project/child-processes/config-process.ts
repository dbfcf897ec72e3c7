import { reasonOf, startProgram } from "./child-program.ts";
import type { ConfigRun, ConfigTask } from "./run-config.ts";

// A process that runs a config. One that waits forever leaves nothing to do, which ends the process.

const { input, send } = startProgram<ConfigTask>();
send(await resultOf(input));
process.exit(0);

async function resultOf({ path, loader }: ConfigTask): Promise<ConfigRun> {
  try {
    const { createJiti } = (await import(loader)) as typeof import("jiti");
    const jiti = createJiti(loader, { moduleCache: false, fsCache: false });
    const value: unknown = await jiti.import(path, { default: true });
    return isPlain(value) ? { value: value ?? null } : { failure: "it exports more than plain data" };
  } catch (error) {
    return { failure: reasonOf(error) };
  }
}

function isPlain(part: unknown): boolean {
  if (part === null || typeof part !== "object")
    return typeof part !== "function" && typeof part !== "symbol" && typeof part !== "bigint";
  return Object.values(part).every(isPlain);
}
