#!/usr/bin/env node
import { Command, CommanderError } from "@commander-js/extra-typings";
import { checkCommand } from "./check/definition.ts";
import { configCodeOption } from "./command-line/options.ts";
import { EXIT } from "./command-line/run-command.ts";
import { draftCommand } from "./draft/definition.ts";
import { driftCommand } from "./drift/definition.ts";
import { exportsCommand } from "./exports/definition.ts";
import { moveCommand } from "./move/definition.ts";
import { NO_CONFIG_CODE } from "./no-config-code.ts";
import { printable } from "./printable.ts";
import { reportCommand } from "./results/definition.ts";
import { surfaceCommand } from "./surface/definition.ts";
import { surveyCommand } from "./survey/definition.ts";
import { VERSION } from "./version.ts";
import { wrapCommand } from "./wrap/definition.ts";

// Each command loads its implementation when it runs, so that `sleeve --help` does not load the compiler.
const commands = [
  surveyCommand,
  draftCommand,
  moveCommand,
  checkCommand,
  driftCommand,
  exportsCommand,
  reportCommand,
  surfaceCommand,
  wrapCommand,
];

const program = new Command("sleeve")
  .description("Isolate outside code behind interfaces of your own, and check that wrappers conform to them.")
  .version(VERSION)
  .addOption(configCodeOption())
  .configureOutput({ outputError: (text, write) => write(usageError(text)) })
  .configureHelp({ showGlobalOptions: true })
  .exitOverride();
for (const command of commands) program.addCommand(command.copyInheritedSettings(program));
program.hook("preAction", () => {
  if (!program.opts().configCode) process.env[NO_CONFIG_CODE] = "1";
});

/** Formats an error in arguments or options as every other error. */
function usageError(text: string): string {
  const sentence = text
    .replace(/^error: /, "")
    .replace(/\s+/g, " ")
    .trim()
    .replace(/\.$/, "");
  const capital = `${sentence.charAt(0).toUpperCase()}${sentence.slice(1)}`;
  return `sleeve: ${printable(capital)}. Run sleeve --help for commands and options. [USAGE]\n`;
}

// The reader of the output may stop early, as `head` does; that is not a failure.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code === "EPIPE") process.exit();
  throw error;
});

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof CommanderError)) throw error;
  process.exitCode = error.exitCode === 0 ? EXIT.ok : EXIT.error;
}
