/**
 * Error codes and their meaning. A code is stable; a message names the subject, the place and the next step.
 */
export type SleeveErrorCode =
  /** The subject of a wrapper is `undefined` or `null`. */
  | "NO_SUBJECT"
  /** The subject of a wrapper is a primitive value. */
  | "NOT_AN_OBJECT"
  /** The subject needs open forwarding, such as an array: add `open()`. */
  | "NEEDS_OPEN"
  /** The subject of `decorate` is a class: use `decorateClass`. */
  | "NEEDS_CLASS"
  /** The subject of `decorateClass` is not a class. */
  | "NOT_A_CLASS"
  /** A mapping names a member that the adaptee lacks, or the subject has none of the members in a layer's `only`. */
  | "NO_SUCH_MEMBER"
  /** An entry of a mapping is neither a name, nor a function, nor `{ get, set }`. */
  | "BAD_MAPPING"
  /** An option has an invalid value. */
  | "BAD_OPTION"
  /** A member whose layers need a context was used without one. */
  | "NO_CONTEXT"
  /** The order of two layers hides, repeats or limits calls in a way that few want. A warning. */
  | "LAYER_ORDER"
  /** A layer failed; the call that it watched continued. */
  | "LAYER_FAILED"
  /** An access check denied a use of a member. */
  | "DENIED"
  /** A guard rejected an argument, a written value or a result. */
  | "NOT_ALLOWED"
  /** A call exceeded its timeout. */
  | "TOO_LATE"
  /** More calls were waiting than the queue allows. */
  | "QUEUE_FULL"
  /** No result satisfied the condition in time. */
  | "NEVER_SATISFIED"
  /** A stub received a call that its recording does not contain. */
  | "NOT_RECORDED"
  /** A fake was used for a member that it was not given. */
  | "NOT_FAKED"
  /** An adaptee threw an error that the adapter neither translates nor allows. */
  | "UNTRANSLATED"
  /** A wrapper was used after its release. */
  | "RELEASED"
  /** A proxy was used after its revocation. */
  | "REVOKED"
  /** A bridge has no implementation of the requested name. */
  | "NO_SUCH_IMPLEMENTATION"
  /** A step of an operation failed, or its signal was aborted. */
  | "OPERATION_FAILED"
  /** A contract is invalid, or needs values that cannot be generated. */
  | "BAD_CONTRACT"
  /** A text is not a recording of a supported version. */
  | "BAD_RECORDING"
  /** An implementation does not conform to a contract. */
  | "NOT_CONFORMING";

/** An error raised by Sleeve itself. Errors thrown by wrapped code are never replaced by a `SleeveError`. */
export class SleeveError extends Error {
  override readonly name: string = "SleeveError";
  readonly code: SleeveErrorCode;

  constructor(code: SleeveErrorCode, message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}

/** Creates a `BAD_OPTION` error. The message names the option and its allowed values. */
export function badOption(message: string): SleeveError {
  return new SleeveError("BAD_OPTION", message);
}
