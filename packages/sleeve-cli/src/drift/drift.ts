import type { Place } from "../place.ts";
import type { OutsideSurface } from "../types/outside-surface.ts";

/** The recorded outside surfaces of a project: a JSON document with a published schema. */
export interface SurfaceRecord {
  readonly modules: Readonly<Record<string, RecordedModule>>;
}

export interface RecordedModule {
  readonly version: string | null;
  /** By import specifier. */
  readonly entries: Readonly<Record<string, OutsideSurface>>;
}

/** One difference between an outside module and its record. */
export interface Difference {
  readonly kind: DifferenceKind;
  /** `TugRoster.sendTo`, an export, or a specifier. */
  readonly subject: string;
  readonly before: string;
  readonly now: string;
  /** The probable new name. */
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

/** A difference with its effect on the project. */
export interface AssessedDifference extends Difference {
  /** Whether the compiler rejects the project's use of it. */
  readonly isBreaking: boolean;
  /** The compiler's errors, at places in the project. */
  readonly errors: readonly { readonly place: Place; readonly text: string }[];
  /** The project's uses of it. */
  readonly places: readonly Place[];
}

/** How a module differs from its record. */
export interface Drift {
  readonly module: string;
  readonly recorded: string | null;
  readonly now: string | null;
  readonly differences: readonly AssessedDifference[];
  readonly isBreaking: boolean;
}
