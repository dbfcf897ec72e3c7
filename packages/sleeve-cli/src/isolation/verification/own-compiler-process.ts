import { createRequire } from "node:module";
import { dirname } from "node:path";
import { startProgram } from "../../project/child-processes/child-program.ts";
import { surplusOf } from "../../surplus.ts";
import type { OwnCompilerResult, OwnCompilerTask } from "./own-compiler.ts";

// A process that runs a project's own TypeScript, of any version from 3 to 6.

/** The parts of the compiler's interface that are used. */
interface Compiler {
  readonly sys: { readonly readFile: (path: string) => string | undefined };
  readConfigFile(path: string, read: (path: string) => string | undefined): { readonly config?: unknown };
  parseJsonConfigFileContent(
    config: unknown,
    host: unknown,
    folder: string,
    existing: undefined,
    path: string,
  ): { readonly fileNames: string[]; readonly options: Options; readonly projectReferences?: unknown };
  createCompilerHost(options: Options): Host;
  createProgram(task: {
    readonly rootNames: readonly string[];
    readonly options: Options;
    readonly host: Host;
    readonly projectReferences?: unknown;
  }): unknown;
  getPreEmitDiagnostics(program: unknown): readonly CompilerDiagnostic[];
  flattenDiagnosticMessageText(text: unknown, newLine: string): string;
}

type Options = Readonly<Record<string, unknown>>;

interface Host {
  readFile(path: string): string | undefined;
  fileExists(path: string): boolean;
  directoryExists?(path: string): boolean;
}

interface CompilerDiagnostic {
  readonly category: number;
  readonly code: number;
  readonly messageText: unknown;
  readonly file?: { readonly fileName: string };
}

const ERROR = 1;

const { input: task, send } = startProgram<OwnCompilerTask>();
const compiler = createRequire(import.meta.url)(task.compiler) as Compiler;

const none = new Map<string, string>();
const errors = task.configs.flatMap((config) =>
  surplusOf(
    errorsOf(config.tsconfig, new Map(task.changed), config.added),
    errorsOf(config.tsconfig, none, []),
    (error) => error,
  ),
);
send({ errors } satisfies OwnCompilerResult);
process.exit(0);

/** Returns the errors of a project with some files changed; without positions, because edits move them. */
function errorsOf(
  config: string,
  changed: ReadonlyMap<string, string>,
  added: readonly string[],
): readonly string[] {
  const read = compiler.readConfigFile(config, (path) => changed.get(path) ?? compiler.sys.readFile(path));
  const { fileNames, options, projectReferences } = compiler.parseJsonConfigFileContent(
    read.config ?? {},
    compiler.sys,
    dirname(config),
    undefined,
    config,
  );
  const host = compiler.createCompilerHost({ ...options, noEmit: true });
  const { readFile, fileExists, directoryExists } = host;
  host.readFile = (path) => changed.get(path) ?? readFile.call(host, path);
  host.fileExists = (path) => changed.has(path) || fileExists.call(host, path);
  // Folders of new files do not exist yet.
  const folders = new Set([...changed.keys()].map((path) => dirname(path)));
  host.directoryExists = (path) => folders.has(path) || directoryExists?.call(host, path) !== false;
  const rootNames = [...fileNames, ...added.filter((path) => !fileNames.includes(path))];
  const program = compiler.createProgram({ rootNames, options, host, projectReferences });
  return compiler
    .getPreEmitDiagnostics(program)
    .filter(({ category }) => category === ERROR)
    .map(
      ({ file, code, messageText }) =>
        `${file?.fileName ?? ""}: TS${code}: ${compiler.flattenDiagnosticMessageText(messageText, " ")}`,
    );
}
