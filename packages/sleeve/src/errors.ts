/** What each code stands for. The code is stable; the message names the thing, the place and the next step. */
export type SleeveErrorCode =
  /** A wrapper was to be made around `undefined` or `null`. */
  | "NO_SUBJECT"
  /** A wrapper was to be made around a primitive value. */
  | "NOT_AN_OBJECT"
  /** A mapping names a member that the object does not have, or a layer's `only` names none that it has. */
  | "NO_SUCH_MEMBER"
  /** A mapping holds something that is neither a name, nor a function, nor `{ get, set }`. */
  | "BAD_MAPPING"
  /** An option has a value that it cannot have. */
  | "BAD_OPTION"
  /** A layer threw in its own work; the call it watched went on. */
  | "LAYER_FAILED"
  /** An access check did not allow what was asked. */
  | "DENIED"
  /** A guard did not let an argument, a written value or a result through. */
  | "NOT_ALLOWED"
  /** A call took longer than its deadline. */
  | "TOO_LATE"
  /** More calls were waiting than the queue may hold. */
  | "QUEUE_FULL"
  /** A result did not come to satisfy its condition in time. */
  | "NEVER_SATISFIED"
  /** A stand-in was asked for a call that its recording does not hold. */
  | "NOT_RECORDED"
  /** An adapter let through an error that it neither translates nor allows. */
  | "UNTRANSLATED"
  /** A wrapper was used after it had been released. */
  | "RELEASED"
  /** A proxy was used after it had been revoked. */
  | "REVOKED"
  /** A bridge was told to use an implementation that it does not have. */
  | "NO_SUCH_IMPLEMENTATION"
  /** A step of an operation failed, or its signal was aborted. */
  | "OPERATION_FAILED"
  /** A contract asks for what cannot be made or done. */
  | "BAD_CONTRACT"
  /** A text is not a recording, or not one of this format. */
  | "BAD_RECORDING"
  /** A contract found an implementation wanting. */
  | "NOT_CONFORMING";

/** Every error that Sleeve raises itself. Errors of the code that you wrap are never replaced by one. */
export class SleeveError extends Error {
  override readonly name: string = "SleeveError";
  readonly code: SleeveErrorCode;

  constructor(code: SleeveErrorCode, message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}

/** An option that has a value it cannot have. The message says which, and what it may be. */
export function badOption(message: string): SleeveError {
  return new SleeveError("BAD_OPTION", message);
}
