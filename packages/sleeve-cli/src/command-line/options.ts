import { Option } from "@commander-js/extra-typings";

/** Arguments and options that several commands share. */
export const FOLDER = ["[folder]", "folder of the project", "."] as const;

export const jsonOption = () => new Option("--json", "print the complete result as JSON");

export const tsconfigOption = () =>
  new Option("--tsconfig <file>", "compiler config to use instead of tsconfig.json");

export const configCodeOption = () =>
  new Option("--no-config-code", "run nothing of the project: no config with code, no compiler of its own");

export const traceOption = () => new Option("--trace", "print the stack trace of an error");
