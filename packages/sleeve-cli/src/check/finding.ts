import type { Place } from "../place.ts";

/** The ways in which a wrapper can fall short of its target, or a border of what it is to keep out. */
export type FindingName =
  /** The target has a member that the wrapper lacks. */
  | "missing"
  /** A mapping has a member that the target lacks. */
  | "extra"
  /** A method where the target has a property, or the other way round. */
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
  /** `any` on either side: the compiler lets it pass, and it proves nothing. */
  | "unproven"
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
