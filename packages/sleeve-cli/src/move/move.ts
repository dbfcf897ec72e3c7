import type { Place } from "../place.ts";

/** What moving the callers of an outside module comes to. */
export interface Move {
  readonly outside: string;
  /** As `file#export`. */
  readonly adapter: string;
  readonly names: "same" | "new";
  readonly files: readonly MovedCaller[];
  /** Imports and references that stay as they are, and why. */
  readonly stays: readonly { readonly place: Place; readonly why: string }[];
  /** Places that name the module in a text, as a mock in a test does; they are not moved. */
  readonly mentions: readonly Place[];
}

/** One file whose imports would lead to the adapter. */
export interface MovedCaller {
  readonly file: string;
  readonly imports: number;
  readonly references: number;
  /** What changes, as a unified diff. */
  readonly diff: string;
}
