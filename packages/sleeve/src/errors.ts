/** What each code stands for. The code is stable; the message names the thing, the place and the next step. */
export type SleeveErrorCode =
  /** A wrapper was to be made around `undefined` or `null`. */
  | "NO_SUBJECT"
  /** A wrapper was to be made around a primitive value or a function. */
  | "NOT_AN_OBJECT"
  /** A mapping names a member that the object does not have, or a layer's `only` names none that it has. */
  | "NO_SUCH_MEMBER"
  /** A mapping holds something that is neither a name, nor a function, nor `{ get, set }`. */
  | "BAD_MAPPING"
  /** A layer threw in its own work; the call it watched went on. */
  | "LAYER_FAILED"
  /** A contract found an implementation wanting. */
  | "NOT_CONFORMING";

/** Every error that Sleeve raises itself. Errors of the code that you wrap are never replaced by one. */
export class SleeveError extends Error {
  override readonly name = "SleeveError";
  readonly code: SleeveErrorCode;

  constructor(code: SleeveErrorCode, message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}
