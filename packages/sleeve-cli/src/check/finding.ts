import type { Place } from "../place.ts";

/** The ways in which a wrapper can fall short of its target, or a border of what it is to keep out. */
export type FindingName =
  /** The target has a member that the wrapper lacks. */
  | "missing"
  /** A member that the target lacks: in a mapping, or a misspelt name of one that is optional. */
  | "extra"
  /** A method where the target has a property or something to construct, or the other way round. */
  | "kind"
  /** A parameter takes less than the target sends. */
  | "parameter"
  /** A result or a property's value is not what the target promises. */
  | "result"
  /** Sync for async or async for sync, a dropped promise among them. */
  | "async"
  /** A member that the target requires may be absent. */
  | "optional"
  /** The target may be written where the wrapper may not. */
  | "readonly"
  /** An overload of the target that no signature of the wrapper serves. */
  | "overload"
  /** A generic signature that does not fit as a whole. */
  | "signature"
  /** A number where an enumeration is expected: any number passes the compiler. */
  | "enum"
  /** A misspelt name in the place of an optional one: the compiler takes it for another name. */
  | "weak"
  /** `any` on either side: the compiler lets it pass, and it proves nothing. */
  | "unproven"
  /** An assertion or a comment that keeps the compiler from telling that something does not fit. */
  | "assertion"
  /** An argument that the target sends and the wrapper makes nothing of. */
  | "ignored"
  /** Members of an adaptee that the wrapper extends, in reach of the wrapper's clients. */
  | "inherited"
  /** A type of an outside package in the wrapper's own public members. */
  | "leak"
  /** Something that the wrapper makes and keeps and cannot be asked to close. */
  | "unclosed"
  /** A member that needs `this`, where clients take it off the target and call it alone. */
  | "unbound"
  /** A facade that does the work itself beside delegating it. */
  | "work"
  /** The compiler itself finds an error in the wrapper, or does not take it for the target as a whole. */
  | "compile"
  /** An outside package is imported by a file that may not. */
  | "border";

/** One finding: where, what was expected, what was found, and what to do. */
export interface Finding {
  readonly name: FindingName;
  readonly member: string | null;
  readonly place: Place;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
}
