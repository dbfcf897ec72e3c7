import type { Place } from "../place.ts";

/** The result of moving the callers of an outside module. */
export interface Move {
  readonly outside: string;
  /** As `file#export`. */
  readonly adapter: string;
  readonly names: "same" | "new";
  readonly files: readonly MovedCaller[];
  /** Imports and references that stay, and why. */
  readonly stays: readonly { readonly place: Place; readonly why: string }[];
  /** Places that name the module in a string, such as a mock in a test; they are not moved. */
  readonly mentions: readonly Place[];
}

/** One file whose imports would use the adapter. */
export interface MovedCaller {
  readonly file: string;
  readonly imports: number;
  readonly references: number;
  /** The changes, as a unified diff. */
  readonly diff: string;
}
