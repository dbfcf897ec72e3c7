import { dirname } from "node:path";
import { z } from "zod";
import { runProgram } from "./run-program.ts";

/** Processor time of a config, in milliseconds. */
const PROCESSOR_TIME = 10_000;

export interface ConfigTask {
  readonly path: string;
  /** URL of the module that loads TypeScript. */
  readonly loader: string;
}

/** The value of a config, or why there is none. */
export type ConfigRun = { readonly value: unknown } | { readonly failure: string };

const resultSchema: z.ZodType<ConfigRun> = z.union([
  z.strictObject({ value: z.unknown() }),
  z.strictObject({ failure: z.string() }),
]);

/**
 * Runs a config in a process of its own, which is ended after 10 seconds of processor time and whose output is
 * discarded. The value must be plain data.
 */
export function runConfig(path: string): ConfigRun {
  const input: ConfigTask = { path, loader: import.meta.resolve("jiti") };
  const { results, failure } = runProgram({
    program: "./config-process.js",
    input,
    result: resultSchema,
    folder: dirname(path),
    processorTime: PROCESSOR_TIME,
  });
  return results[0] ?? { failure: failure ?? "it ends the process" };
}
