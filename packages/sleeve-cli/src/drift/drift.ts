import type { OutsideSurface } from "../compiler/outside-surface.ts";
import type { Place } from "../place.ts";

/** What is recorded of the outside surfaces that a project uses: a JSON document with a published schema. */
export interface SurfaceRecord {
  readonly modules: Readonly<Record<string, RecordedModule>>;
}

export interface RecordedModule {
  readonly version: string | null;
  /** By the specifier under which it is imported. */
  readonly entries: Readonly<Record<string, OutsideSurface>>;
}

/** How one thing of an outside module is not what was recorded of it. */
export interface Difference {
  readonly kind: DifferenceKind;
  /** `TugRoster.sendTo`, an export, or a specifier. */
  readonly subject: string;
  readonly before: string;
  readonly now: string;
  /** The name that it has got, by the looks of it. */
  readonly likelyName?: string;
}

export type DifferenceKind =
  | "removed"
  | "renamed"
  | "kind"
  | "parameter added"
  | "parameter changed"
  | "parameter removed"
  | "result"
  | "async"
  | "type"
  | "optional"
  | "readonly"
  | "entry point"
  | "deprecated"
  | "other";

/** A difference with what it means for the project. */
export interface JudgedDifference extends Difference {
  /** Whether the compiler rejects what the project does with it. */
  readonly breaks: boolean;
  /** What the compiler says of it, each at a place of ours. */
  readonly errors: readonly { readonly place: Place; readonly text: string }[];
  /** Where the project uses it. */
  readonly places: readonly Place[];
}

/** How a module has drifted from its record. */
export interface Drift {
  readonly module: string;
  readonly recorded: string | null;
  readonly now: string | null;
  readonly differences: readonly JudgedDifference[];
  readonly breaks: boolean;
}
