/**
 * Error codes and their meaning. A code is stable; a message names the subject, the place and the next step.
 */
export type ErrorCode =
  /** The given folder does not exist. */
  | "NO_SUCH_FOLDER"
  /** A folder contains no source files, no `tsconfig.json` and no `package.json`. */
  | "NO_PROJECT"
  /** The compiler cannot read a `tsconfig.json`. */
  | "BROKEN_TSCONFIG"
  /** Settings of a `tsconfig.json` that the compiler no longer takes are translated in memory. */
  | "OLD_SETTINGS"
  /** A path contains characters that cannot be written in source. */
  | "BAD_PATH"
  /** An option has a value that cannot be used. */
  | "BAD_OPTION"
  /** The command needs a `sleeve.config.ts`, and there is none. */
  | "NO_CONFIG"
  /** `sleeve.config.ts` cannot be loaded. */
  | "BROKEN_CONFIG"
  /** `sleeve.config.ts` contains code, which must not be run. */
  | "CONFIG_CODE"
  /** A setting in `sleeve.config.ts` is invalid. */
  | "BAD_CONFIG"
  /** The config names a file that is not part of the project. */
  | "NO_SUCH_FILE"
  /** The config names an export that does not exist. */
  | "NO_SUCH_EXPORT"
  /** The config suppresses a finding that no longer exists. */
  | "NOT_FOUND"
  /** A file is not a contract result. */
  | "BROKEN_RESULT"
  /** A `package.json` is not a JSON object. */
  | "BROKEN_MANIFEST"
  /** A file does not parse. */
  | "SYNTAX_ERROR"
  /** A package is imported and not installed. */
  | "NOT_INSTALLED"
  /** A package has no types, and they are inferred from how the project uses it. */
  | "TYPES_FROM_USE"
  /** A drafted contract is compiled into the output of a build. */
  | "CONTRACT_COMPILED"
  /** Expressions in templates of components cannot be analysed. */
  | "TEMPLATES_SKIPPED"
  /** A package names declarations that do not exist. */
  | "TYPES_MISSING"
  /** The arguments or options of a command are wrong. */
  | "USAGE"
  /** Single-file components are not read, because their compiler is missing or must not be run. */
  | "COMPONENTS_SKIPPED"
  /** A file of the project cannot be read. */
  | "UNREADABLE"
  /** The project does not import the given outside module. */
  | "NOT_IMPORTED"
  /** The project does not use the given member. */
  | "NOT_USED"
  /** Several compiler configs import a module, and none of them has a folder that all can import. */
  | "SEVERAL_PROJECTS"
  /** The config does not say what replaces an outside module. */
  | "NOT_ISOLATED"
  /** What would be written does not compile. */
  | "DOES_NOT_COMPILE"
  /** A type has no members to forward. */
  | "NOTHING_TO_WRAP"
  /** A generated file was edited manually, so it is not overwritten. */
  | "EDITED"
  /** A file exists that was not generated, so it is not overwritten. */
  | "NOT_GENERATED"
  /** The command needs a git repository. */
  | "NO_REPOSITORY"
  /** There are uncommitted changes. */
  | "UNCOMMITTED"
  /** Another run is writing to the project. */
  | "BUSY"
  /** A file cannot be written, or not without loss. */
  | "NOT_WRITABLE"
  /** An earlier run was interrupted while writing, and its files have changed since. */
  | "INTERRUPTED"
  /** The given path is not a package. */
  | "NO_PACKAGE"
  /** The declarations of an entry point are missing. */
  | "NOT_BUILT"
  /** There is no recorded surface to compare with. */
  | "NOT_RECORDED"
  /** Types of the other version are missing, so that it was not compared. */
  | "NOT_COMPARED"
  /** The compiler failed at some requests; the result lacks what they were about. */
  | "COMPILER_FAILED"
  /** An unexpected error: a bug in Sleeve. */
  | "UNEXPECTED";

/**
 * A problem that kept a command from doing all of its work: a sentence with the place and the next step, and
 * a code.
 */
export interface Problem {
  readonly code: ErrorCode;
  readonly message: string;
  /** Whether it is only worth knowing: the command did all of its work. Default: `false`. */
  readonly isNote?: boolean;
}

/** Whether a problem does not count as an error. */
export function isNote(problem: Problem): boolean {
  return problem.isNote === true;
}

/** A problem that stops a command. */
export class CliError extends Error implements Problem {
  override readonly name = "CliError";
  readonly code: ErrorCode;

  constructor(code: ErrorCode, message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}
