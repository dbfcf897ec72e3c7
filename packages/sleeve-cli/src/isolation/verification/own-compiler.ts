import { existsSync } from "node:fs";
import { createRequire } from "node:module";
import { z } from "zod";
import type { Program } from "../../compiler/program.ts";
import { runProgram } from "../../project/child-processes/run-program.ts";
import { manifestAt } from "../../project/packages/packages.ts";

/** What the process that runs a project's own compiler reads and writes. */
export interface OwnCompilerTask {
  /** Path of the compiler's module. */
  readonly compiler: string;
  /** Each config, and the new files that it would list. */
  readonly configs: readonly { readonly tsconfig: string; readonly added: readonly string[] }[];
  /** Texts of the changed files, by path. */
  readonly changed: readonly (readonly [path: string, text: string])[];
}

export interface OwnCompilerResult {
  /** Errors that only the changed files cause. */
  readonly errors: readonly string[];
}

const resultSchema: z.ZodType<OwnCompilerResult> = z.strictObject({ errors: z.array(z.string()) });

/** From this version on, a project's compiler is the native one, which has checked the change already. */
const NATIVE = 7;
/** Processor time for compiling a project twice, in milliseconds. */
const PROCESSOR_TIME = 300_000;

/**
 * Compiles a project with the TypeScript it has installed, before and after some files change, and returns the
 * new errors, with the compiler's version. Returns `undefined` if it has none, or the native one, and no errors if
 * the compiler does not run. This runs code of the project: its compiler.
 */
export function ownCompilerErrors(
  program: Program,
  changed: ReadonlyMap<string, string>,
): { readonly version: string; readonly errors: readonly string[] | undefined } | undefined {
  const [config] = program.configs;
  const installed = config === undefined ? undefined : compilerOf(config);
  if (!installed) return undefined;
  const created = [...changed.keys()].filter((path) => !existsSync(path));
  const configs = program.configs.map((tsconfig) => ({
    tsconfig,
    added: created.filter((path) => program.wouldList(tsconfig, [path])),
  }));
  const task: OwnCompilerTask = { compiler: installed.path, configs, changed: [...changed] };
  const { results, failure } = runProgram({
    program: "./own-compiler-process.js",
    input: task,
    result: resultSchema,
    processorTime: PROCESSOR_TIME,
  });
  return { version: installed.version, errors: failure === undefined ? results[0]?.errors : undefined };
}

function compilerOf(config: string): { readonly path: string; readonly version: string } | undefined {
  try {
    const { resolve } = createRequire(config);
    const version = String(manifestAt(resolve("typescript/package.json"))?.["version"]);
    const isOld = Number.parseInt(version, 10) < NATIVE;
    return isOld ? { path: resolve("typescript"), version } : undefined;
  } catch {
    return undefined;
  }
}
