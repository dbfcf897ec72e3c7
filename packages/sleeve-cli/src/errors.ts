/** What each code stands for. The code is stable; the message names the thing, the place and the next step. */
export type ProblemCode =
  /** The folder that was named does not exist. */
  | "NO_SUCH_FOLDER"
  /** A folder holds neither a project's files nor a `tsconfig.json` or `package.json`. */
  | "NO_PROJECT"
  /** The compiler cannot read a `tsconfig.json`. */
  | "BROKEN_TSCONFIG"
  /** `check` needs a `sleeve.config.ts`, and there is none. */
  | "NO_CONFIG"
  /** `sleeve.config.ts` cannot be loaded. */
  | "BROKEN_CONFIG"
  /** Something in `sleeve.config.ts` is not what it should be. */
  | "BAD_CONFIG"
  /** The config names a file that is not part of the project. */
  | "NO_SUCH_FILE"
  /** The config names an export that the file does not have. */
  | "NO_SUCH_EXPORT"
  /** The config accepts a finding that there is none of. */
  | "NOT_FOUND"
  /** A file holds no result of a contract. */
  | "BROKEN_RESULT"
  /** A file does not parse. */
  | "SYNTAX_ERROR"
  /** A package is imported and not installed. */
  | "NOT_INSTALLED"
  /** A file of the project cannot be read. */
  | "UNREADABLE"
  /** The project does not import the outside module that a command was asked about. */
  | "NOT_IMPORTED"
  /** The config does not say what takes the place of an outside module. */
  | "NOT_ISOLATED"
  /** What would be written does not compile. */
  | "DOES_NOT_COMPILE"
  /** The project is in no git repository, and what was asked needs one. */
  | "NO_REPOSITORY"
  /** There are changes in the work tree that are not committed. */
  | "UNCOMMITTED"
  /** Another run is writing to the project. */
  | "BUSY"
  /** A file cannot be written, or cannot be written back byte by byte. */
  | "NOT_WRITABLE"
  /** An earlier run was interrupted while it wrote, and what it left cannot be told from later changes. */
  | "INTERRUPTED"
  /** What was given as a package is none. */
  | "NO_PACKAGE"
  /** There is no record of an outside surface to compare with. */
  | "NOT_RECORDED"
  /** The compiler failed at questions about the project; the rest is told. */
  | "COMPILER_FAILED"
  /** Something that the command did not foresee. */
  | "UNEXPECTED";

/** What kept a command from doing all of its work: a sentence with the place and the next step, and a code. */
export interface Problem {
  readonly code: ProblemCode;
  readonly message: string;
}

/** A problem that leaves a command with nothing to do. */
export class ProblemError extends Error implements Problem {
  override readonly name = "ProblemError";
  readonly code: ProblemCode;

  constructor(code: ProblemCode, message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}
