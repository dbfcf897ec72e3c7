import type { Place } from "../place.ts";
import type { CopiedType } from "../types/copied-types.ts";

/** One file of a draft. */
export interface DraftFile {
  readonly file: string;
  readonly role: "target" | "adapter" | "surface" | "contract" | "config";
  /**
   * Whether it would be created or extended, is unchanged, or is left alone because someone has edited it.
   */
  readonly state: "new" | "added to" | "the same" | "kept";
  readonly text: string;
}

/** The result of a draft, with the steps left to do manually. */
export interface Draft {
  readonly outside: string;
  /** As `file#export`. */
  readonly target: string;
  readonly adapter: string;
  readonly names: "same" | Readonly<Record<string, string>>;
  readonly members: readonly { readonly member: string; readonly replaces: string; readonly form: string }[];
  /** Interfaces that the target extends, if its uses form separate groups. */
  readonly groups: readonly {
    readonly interface: string;
    readonly usedIn: string;
    readonly members: readonly string[];
  }[];
  readonly types: readonly { readonly type: string; readonly replaces: string }[];
  readonly manualSteps: readonly ManualStep[];
  /** For an existing target: uses that it does not cover yet, and members that are no longer used. */
  readonly since: { readonly added: readonly string[]; readonly gone: readonly string[] } | null;
  /** Number of files and references that would be moved. */
  readonly callers: { readonly files: number; readonly references: number };
  readonly files: readonly DraftFile[];
  /** Config entries that could not be added. */
  readonly configEntries: string | null;
}

/** What cannot be drafted: where, why, and what to do. */
export interface ManualStep {
  readonly what: string;
  readonly why: string;
  readonly remedy: string;
  readonly places: readonly Place[];
}

/** Returns the copied types, by what they replace. */
export function typesReplaced(types: readonly CopiedType[]): Draft["types"] {
  return types.map(({ name, outsideName }) => ({ type: name, replaces: outsideName }));
}
